"""The SQL the connector reads with. A role is an account when it can log in or bears our mark."""

from yugum.connectors.postgres.defaults import KIND, OF

MARK = "Yugum account"

ROLES = f"""
SELECT r.oid, r.rolname, r.rolcanlogin, coalesce(shobj_description(r.oid, 'pg_authid'), '') AS mark,
  coalesce((SELECT array_agg(g.rolname) FROM pg_auth_members m JOIN pg_roles g ON g.oid = m.roleid
    WHERE m.member = r.oid), '{{}}') AS groups,
  (SELECT count(*) FROM pg_stat_activity a WHERE a.usesysid = r.oid) AS sessions
FROM pg_roles r
WHERE NOT r.rolsuper AND NOT r.rolreplication AND r.rolname !~ '^pg_'
  AND (r.rolcanlogin OR shobj_description(r.oid, 'pg_authid') LIKE '{MARK}%%')
"""

NESTED = f"""
SELECT child.rolname AS name, array_agg(parent.rolname ORDER BY parent.rolname) AS inside
FROM pg_auth_members m
JOIN pg_roles child ON child.oid = m.member AND NOT child.rolcanlogin
JOIN pg_roles parent ON parent.oid = m.roleid
WHERE child.rolname !~ '^pg_'
  AND coalesce(shobj_description(child.oid, 'pg_authid'), '') NOT LIKE '{MARK}%%'
GROUP BY child.rolname
"""
"""Group roles that are members of group roles: whoever is in the inner one has the outer one's rights."""

GRANTABLE = f"""
SELECT r.rolname FROM pg_roles r
WHERE NOT r.rolcanlogin AND NOT r.rolsuper
  AND coalesce(shobj_description(r.oid, 'pg_authid'), '') NOT LIKE '{MARK}%'
"""

OWNED_IN = """
SELECT DISTINCT d.datname FROM pg_shdepend s JOIN pg_database d ON d.oid = s.dbid
WHERE s.refclassid = 'pg_authid'::regclass AND (s.refobjid = %(oid)s OR %(oid)s IS NULL)
  AND s.deptype IN ('o', 'a')
"""
"""Databases in which a role (any role, when NULL) owns something or is named by a privilege."""

OBJECTS = f"""
SELECT s.refobjid AS owner,
  CASE o.type WHEN 'default acl' THEN '{KIND}' ELSE o.type END AS type,
  CASE o.type WHEN 'default acl' THEN
    coalesce('in schema ' || (SELECT nspname FROM pg_namespace WHERE oid = d.defaclnamespace) || ' ', '')
    || 'on ' || CASE d.defaclobjtype {" ".join(f"WHEN '{k}' THEN '{name}'" for k, name in OF.items())} END
  ELSE o.identity END AS identity
FROM pg_shdepend s CROSS JOIN LATERAL pg_identify_object(s.classid, s.objid, s.objsubid) o
LEFT JOIN pg_default_acl d ON s.classid = 'pg_default_acl'::regclass AND d.oid = s.objid
WHERE s.refclassid = 'pg_authid'::regclass AND s.deptype = 'o'
  AND s.dbid = (SELECT oid FROM pg_database WHERE datname = current_database())
  AND (s.refobjid = %(oid)s OR %(oid)s IS NULL)
  AND (d.oid IS NOT NULL OR NOT EXISTS (
    SELECT 1 FROM pg_depend x WHERE x.classid = s.classid AND x.objid = s.objid
    AND x.deptype IN ('a', 'i', 'e')))
ORDER BY 2, 3
"""
"""Objects owned in this database, without those that follow another one (a column's sequence)."""

DATABASES = """
SELECT d.datdba AS owner, d.datname FROM pg_database d
WHERE d.datdba = %(oid)s OR %(oid)s IS NULL ORDER BY d.datname
"""

MENTIONED_IN = """
SELECT DISTINCT d.datname FROM pg_shdepend s JOIN pg_database d ON d.oid = s.dbid
WHERE s.refclassid = 'pg_authid'::regclass AND s.refobjid = %(oid)s
"""
"""Databases in which a role owns something or was granted something."""
