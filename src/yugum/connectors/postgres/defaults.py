"""Default privileges of a role (ALTER DEFAULT PRIVILEGES): what it owns besides objects, for objects to come."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from psycopg import sql

from yugum.connectors.pooled import Connection

KIND = "default privilege"
FOUND = """
SELECT o.rolname AS whose, n.nspname AS schema, d.defaclobjtype AS of, g.rolname AS grantee, a.grantee = 0 AS everybody,
  a.privilege_type AS privilege, a.is_grantable AS passes_on
FROM pg_default_acl d JOIN pg_roles o ON o.oid = d.defaclrole LEFT JOIN pg_namespace n ON n.oid = d.defaclnamespace
LEFT JOIN LATERAL aclexplode(d.defaclacl) a ON a.grantee <> d.defaclrole
LEFT JOIN pg_roles g ON g.oid = a.grantee
WHERE d.defaclrole = %s
ORDER BY n.nspname, d.defaclobjtype, a.privilege_type, g.rolname
"""
OF = {"r": "tables", "S": "sequences", "f": "functions", "T": "types", "n": "schemas"}
PUBLICS = {"f": "EXECUTE", "T": "USAGE"}
"""What everybody may do with new objects where nothing else was said, by their type."""


def key_of(row: Mapping[str, Any]) -> str:
    """``in schema deck on tables``, whoever's it is."""
    where = f"in schema {row['schema']} " if row["schema"] else ""
    return f"{where}on {OF[row['of']]}"


async def hand_over(connection: Connection, source: int, target: str, keys: set[str]) -> None:
    """What a role (``source``, its oid) gives others of objects to come, ``target`` gives them from then on."""
    rows = await (await connection.execute(FOUND, (source,))).fetchall()
    mine = [r for r in rows if key_of(r) in keys]
    for row in mine:
        if row["privilege"] is None:
            continue
        words = sql.SQL("GRANT {} ON {} TO {}{}").format(
            sql.SQL(row["privilege"]),
            sql.SQL(OF[row["of"]].upper()),
            _grantee(row),
            sql.SQL(" WITH GRANT OPTION" if row["passes_on"] else ""),
        )
        await connection.execute(_for(target, row) + words)
        taken = sql.SQL("REVOKE ALL ON {} FROM {}").format(
            sql.SQL(OF[row["of"]].upper()), _grantee(row)
        )
        if not (row["everybody"] and not row["schema"] and row["of"] in PUBLICS):
            await connection.execute(_for(row["whose"], row) + taken)
    for row in {key_of(r): r for r in mine}.values():
        usual = PUBLICS.get(row["of"])
        if usual is None or row["schema"]:
            continue
        same = [r for r in mine if key_of(r) == key_of(row)]
        if not any(
            r["everybody"] for r in same
        ):  # taken from everybody: so it is of the other's too
            of = sql.SQL(OF[row["of"]].upper())
            taken = sql.SQL("REVOKE {} ON {} FROM PUBLIC").format(sql.SQL(usual), of)
            given = sql.SQL("GRANT {} ON {} TO PUBLIC").format(sql.SQL(usual), of)
            await connection.execute(_for(target, row) + taken)
            await connection.execute(_for(row["whose"], row) + given)


def _grantee(row: Mapping[str, Any]) -> sql.Composable:
    return sql.SQL("PUBLIC") if row["everybody"] else sql.Identifier(row["grantee"])


def _for(role: str, row: Mapping[str, Any]) -> sql.Composed:
    within = sql.Composed([])
    if row["schema"]:
        within = sql.SQL("IN SCHEMA {} ").format(sql.Identifier(row["schema"]))
    return sql.SQL("ALTER DEFAULT PRIVILEGES FOR ROLE {} {}").format(sql.Identifier(role), within)
