"""What a directory's schema says of the attributes of people."""

from __future__ import annotations

import re

from bonsai import LDAPSearchScope
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.layout import HOME, PERSON, Layout
from yugum.core.attributes import Shape


async def attributes_known(connection: AIOLDAPConnection, layout: Layout) -> dict[str, Shape]:
    """Which of a person's attributes entries can have, and how long they may be.

    RFC 4512 4.1.2; the root says where the schema stands (4.4).
    """
    if "inetOrgPerson" not in layout.classes.split():
        return {n: Shape() for n in ("cn", "sn")}
    root = await connection.search("", LDAPSearchScope.BASE, attrlist=["subschemaSubentry"])
    where = [str(dn) for entry in root for dn in entry.get("subschemaSubentry", [])]
    found = [
        entry
        for dn in where
        for entry in await connection.search(dn, LDAPSearchScope.BASE, attrlist=["attributeTypes"])
    ]
    told = "\n".join(str(v) for entry in found for v in entry.get("attributeTypes", []))
    shapes = {}
    for name in PERSON:
        bound = re.search(rf"'{name}'[^\n]*?SYNTAX [0-9.]+\{{(\d+)\}}", told)
        shapes[name] = Shape(int(bound[1]) if bound else 0)
    if "posixAccount" in layout.classes.split():
        shapes[HOME] = Shape()
    return shapes
