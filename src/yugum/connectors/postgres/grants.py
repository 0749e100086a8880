"""Privileges that a role gave others on objects that are not its own: they would end with it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from psycopg import sql

from yugum.connectors.pooled import Connection

KIND = "grant"
FOUND = """
WITH acl AS (
  SELECT 'pg_class'::regclass AS class, c.oid AS object, c.relowner AS of, NULL::name AS part,
    CASE c.relkind WHEN 'S' THEN 'SEQUENCE' ELSE 'TABLE' END AS word, e.*
  FROM pg_class c CROSS JOIN LATERAL aclexplode(c.relacl) e
  UNION ALL
  SELECT 'pg_class'::regclass, c.oid, c.relowner, a.attname, 'TABLE', e.*
  FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid CROSS JOIN LATERAL aclexplode(a.attacl) e
  UNION ALL
  SELECT 'pg_namespace'::regclass, n.oid, n.nspowner, NULL, 'SCHEMA', e.*
  FROM pg_namespace n CROSS JOIN LATERAL aclexplode(n.nspacl) e
  UNION ALL
  SELECT 'pg_proc'::regclass, p.oid, p.proowner, NULL, 'ROUTINE', e.*
  FROM pg_proc p CROSS JOIN LATERAL aclexplode(p.proacl) e
  UNION ALL
  SELECT 'pg_type'::regclass, y.oid, y.typowner, NULL, 'TYPE', e.*
  FROM pg_type y CROSS JOIN LATERAL aclexplode(y.typacl) e
)
SELECT acl.grantor AS owner, f.rolname AS giver, w.rolname AS whose, acl.word, acl.part, o.identity,
  acl.privilege_type AS privilege, acl.is_grantable AS passes_on, g.rolname AS grantee
FROM acl JOIN pg_roles w ON w.oid = acl.of JOIN pg_roles f ON f.oid = acl.grantor
LEFT JOIN pg_roles g ON g.oid = acl.grantee
CROSS JOIN LATERAL pg_identify_object(acl.class, acl.object, 0) o
WHERE acl.grantor <> acl.of AND (acl.grantor = %(oid)s OR %(oid)s IS NULL)
ORDER BY acl.word, o.identity, acl.part, acl.privilege_type, g.rolname
"""
"""Of one role, or of all: who gave what on whose object to whom, in this database."""


def name_of(row: Mapping[str, Any]) -> str:
    """``SELECT on table deck.logs to deck_reports``, whoever gave it."""
    part = f" ({row['part']})" if row["part"] else ""
    more = " with grant option" if row["passes_on"] else ""
    where = f"{row['word'].lower()} {row['identity']}"
    return f"{row['privilege']}{part} on {where} to {row['grantee'] or 'everybody'}{more}"


async def hand_over(connection: Connection, source: int, target: str, names: set[str]) -> None:
    """What a role (``source``, its oid) gave to others, ``target`` gives them from then on, without a moment between.

    For that the object's owner gives ``target`` the privilege with the right to pass it on.
    """
    rows = await (await connection.execute(FOUND, {"oid": source})).fetchall()
    for row in rows:
        if name_of(row) not in names:
            continue
        grantee = sql.Identifier(row["grantee"]) if row["grantee"] else sql.SQL("PUBLIC")
        on = _privilege(row)
        if target != row["whose"]:
            to = sql.Identifier(target)
            given = sql.SQL("GRANT {} TO {} WITH GRANT OPTION").format(on, to)
            await _as(connection, row["whose"], given)
        if row["grantee"] != target:
            more = sql.SQL(" WITH GRANT OPTION" if row["passes_on"] else "")
            await _as(connection, target, sql.SQL("GRANT {} TO {}{}").format(on, grantee, more))
        await _as(connection, row["giver"], sql.SQL("REVOKE {} FROM {}").format(on, grantee))
    await connection.execute("RESET ROLE")


def _privilege(row: Mapping[str, Any]) -> sql.Composed:
    """``identity`` comes quoted from pg_identify_object; it is no text of anybody's."""
    part = sql.SQL(" ({})").format(sql.Identifier(row["part"])) if row["part"] else sql.SQL("")
    return sql.SQL("{}{} ON {} {}").format(
        sql.SQL(row["privilege"]), part, sql.SQL(row["word"]), sql.SQL(row["identity"])
    )


async def _as(connection: Connection, role: str, statement: sql.Composed) -> None:
    """Whoever runs GRANT is written down as who gave it."""
    await connection.execute(sql.SQL("SET LOCAL ROLE {}").format(sql.Identifier(role)))
    await connection.execute(statement)
