"""Names for people: suggested by the rules, checked against everything before anybody is made."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping
from datetime import datetime, timedelta

from yugum.core.applications import Application, Capability
from yugum.core.names import (
    Limits,
    NameFields,
    NameKind,
    Suggestion,
    Taken,
    TakenLogin,
    Tried,
    suggest,
)
from yugum.core.roles import Rules
from yugum.engine.context import load_applications, load_rules
from yugum.errors import ApplicationError
from yugum.ports.clock import Clock
from yugum.ports.connectors import AccountRef, Connectors
from yugum.ports.units import Database

ROUNDS = 40
"""How many names are asked for in the applications before it is given up."""


class Names:
    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def suggest(self, fields: NameFields) -> tuple[list[Suggestion], list[str]]:
        """A name of every kind that the rules have patterns for, and who did not answer.

        A login is looked up
        among people, among accounts as last seen, in the quarantine of former logins, and then in
        every application itself.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            rules = await load_rules(unit)
            applications = await load_applications(unit)
        known: dict[str, str] = {}
        silent: set[str] = set()
        values = {
            "given": fields.given,
            "family": fields.family,
            "number": fields.number,
            "department": fields.department,
            "site": fields.site,
            "mail_domain": fields.mail_domain or next(iter(rules.names.domains), ""),
        }
        login, login_tried = await self._login(rules, applications, values, known, silent, now)
        values["login"] = login
        found = [Suggestion(NameKind.LOGIN, login, login_tried)]
        for kind in NameKind:
            if kind is NameKind.LOGIN or not rules.names.patterns.get(kind):
                continue
            limits = limits_of(rules, applications)
            one = suggest(kind, rules.names, values, {}, limits)
            if kind in (NameKind.MAIL, NameKind.ALIAS):
                one = await self._address(kind, rules, values, limits)
            found.append(one)
        return found, sorted(applications[i].name for i in silent)

    async def _login(
        self,
        rules: Rules,
        applications: Mapping[str, Application],
        values: Mapping[str, str],
        known: dict[str, str],
        silent: set[str],
        now: datetime,
    ) -> tuple[str, tuple[Tried, ...]]:
        """The first login that nobody has anywhere; each round asks the applications once."""
        limits = limits_of(rules, applications)
        for _ in range(ROUNDS):
            one = suggest(NameKind.LOGIN, rules.names, values, known, limits)
            if not one.name or one.name in known:
                return one.name, one.tried
            async with self._database.unit() as unit:
                since = now - timedelta(days=rules.names.quarantine_days)
                held = await unit.people.login_held_by([one.name], since, now)
                known |= {login: taken.told() for login, taken in held.items()}
            if one.name not in known:
                holder = await self._ask(one.name, applications, silent)
                if holder:
                    taken = TakenLogin(login=one.name, by=Taken.ACCOUNT, holder=holder)
                    known[one.name] = taken.told()
            if not known.get(one.name):
                return one.name, one.tried
        return "", one.tried

    async def _ask(
        self, login: str, applications: Mapping[str, Application], silent: set[str]
    ) -> str:
        """The name of an application in which a login is taken; "" when none says so."""

        async def look(application: Application) -> str:
            try:
                connector = await self._connectors.of(application.id)
                seen = await connector.observe(AccountRef("", "", login))
            except ApplicationError:
                silent.add(application.id)
                return ""
            return application.name if seen is not None else ""

        asked = [a for i, a in applications.items() if i not in silent and not _own(a)]
        return next(filter(None, await asyncio.gather(*(look(a) for a in asked))), "")

    async def _address(
        self, kind: NameKind, rules: Rules, values: Mapping[str, str], limits: Limits
    ) -> Suggestion:
        known: dict[str, str] = {}
        now = await self._clock.now()
        since = now - timedelta(days=rules.names.quarantine_days)
        for _ in range(ROUNDS):
            one = suggest(kind, rules.names, values, known, limits)
            async with self._database.unit() as unit:
                held = await unit.people.mail_held_by([one.name], since)
            if not one.name or one.name not in held:
                return one
            known |= {name: f"{holder} has it" for name, holder in held.items()}
        return one


def _own(application: Application) -> bool:
    return application.can(Capability.RUN)


def limits_of(rules: Rules, applications: Mapping[str, Application]) -> Limits:
    """The strictest of all applications, for a login is the same everywhere."""
    lengths = [a.profile.login_length for a in applications.values()]
    return Limits(length=min([rules.names.length, *lengths]))
