"""Entries of a directory as accounts."""

from __future__ import annotations

import re
from datetime import datetime

from bonsai import LDAPEntry

from yugum.connectors.ldap.layout import HOME, PERMANENT, PERSON, Layout, first, parent, rdn_value
from yugum.core.accounts import AccountKind, AccountState, Observed
from yugum.core.applications import Duty
from yugum.core.invitations import shown

PARKED = re.compile(r"parked until (\S+)")


def parked_until(mark: str) -> datetime | None:
    """Until when something comes back, by the mark we put there; somebody else's words are no mark of ours."""
    found = PARKED.search(mark)
    try:
        return datetime.fromisoformat(found[1]) if found else None
    except ValueError:
        return None


def must_reset(asked: object) -> list[str]:
    """``pwdReset``: whether the password has to be changed at the next sign-in."""
    return ["TRUE"] if asked else []


def observed(layout: Layout, entry: LDAPEntry) -> Observed:
    """What an entry says of its account."""
    mark = first(entry, layout.mark)
    locked = first(entry, "pwdAccountLockedTime") == PERMANENT
    parked = parked_until(mark) if locked else None
    state = AccountState.SUSPENDED if locked else AccountState.ACTIVE
    login = first(entry, layout.login)
    settings = {
        "container": layout.container_name(parent(str(entry.dn))),
        "manager": rdn_value(first(entry, "manager")),
        "login": login,
    }
    for name in (*PERSON, HOME):
        if name not in settings and (value := first(entry, name)):
            settings[name] = value
    if layout.hidden:
        settings["hidden"] = "yes" if first(entry, layout.hidden).upper() == "TRUE" else "no"
    if layout.mark:
        settings["mark"] = "" if parked else mark
    if layout.alias:
        settings["alias"] = " ".join(sorted(str(a) for a in entry.get(layout.alias, [])))
    if first(entry, "pwdReset").upper() == "TRUE":
        settings |= shown(None, [Duty.PASSWORD])
    return Observed(
        external_id=first(entry, "entryUUID"),
        login=login,
        state=AccountState.DELETED if parked else state,
        entitlements=frozenset(group_names(layout, entry)),
        recoverable_until=parked,
        correlation=first(entry, layout.correlation),
        assets=(),
        display_name=first(entry, "cn"),
        mail=first(entry, "mail"),
        employee_number=first(entry, "employeeNumber"),
        settings=settings,
        kind=AccountKind.SERVICE if login.startswith("svc-") else AccountKind.PERSON,
    )


def group_names(layout: Layout, entry: LDAPEntry) -> list[str]:
    """The groups an entry is a direct member of, by name."""
    below = f",{layout.groups},{layout.base}".lower()
    member_of = (str(g) for g in entry.get("memberOf", []))
    return [rdn_value(g) for g in member_of if g.lower().endswith(below)]
