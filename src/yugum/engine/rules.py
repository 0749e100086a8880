"""Rules: looking at them, checking and trying a candidate, adopting it as the next version."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from yugum.core.applications import Capability
from yugum.core.documents import Document
from yugum.core.heirs import MANAGER, MANAGERS_MANAGER
from yugum.core.roles import STAY
from yugum.core.roles import Rules as CoreRules
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.standing import look_again
from yugum.engine.trials import Explanation, Stock, Trial, explain, try_rules
from yugum.engine.whom import whom
from yugum.errors import Conflict, InvalidInput, PlanStale, YugumError
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connector, Connectors, Offering
from yugum.ports.pages import ListPage
from yugum.ports.rules import RulesVersion
from yugum.ports.units import Database
from yugum.wire.rule_names import Known, RuleProblem
from yugum.wire.rulefile import read_rules, rules_in
from yugum.wire.rules import RulesDocument

PORTION = 1000
ASKED_EVERY = 60.0
"""Seconds for which it is known what can be granted in an application."""
PATIENCE = 5.0
"""Seconds an application has to say it."""


@dataclass(frozen=True, slots=True)
class Offered:
    """What an application has to give; None where it does not say."""

    entitlements: frozenset[str] | None = None
    licenses: frozenset[str] | None = None


@dataclass(frozen=True, slots=True)
class Adopted:
    """A new version in force, and how many people are looked at again because of it."""

    version: int
    rechecked: int


class Rules:
    def __init__(self, database: Database, clock: Clock, connectors: Connectors) -> None:
        self._database = database
        self._clock = clock
        self._connectors = connectors
        self._offered: dict[str, tuple[float, Offered]] = {}

    async def current(self) -> RulesVersion | None:
        """The version in force; None while there are no rules."""
        async with self._database.unit() as unit:
            return await unit.rules.current()

    async def version(self, number: int) -> RulesVersion:
        async with self._database.unit() as unit:
            return await unit.rules.version(number)

    async def history(self, cursor: str | None, limit: int) -> ListPage[RulesVersion]:
        async with self._database.unit() as unit:
            return await unit.rules.page(cursor, limit)

    async def check(self, text: str) -> list[RuleProblem]:
        """Everything that is wrong in a rules file, each with line, column and remedy.

        Groups and licenses are held against those that each application has just now; of one that does
        not answer nothing is known, and nothing is wrong.
        """
        known, _ = await self._surroundings(text)
        document, problems = await _read(text, known)
        if document is None:
            return problems
        named = {
            gives.application
            for role in document.roles.values()
            for gives in role.gives
            if gives.entitlements or gives.seats
        }
        offered = await self._offers(named & (known.applications or frozenset()))
        more = replace(
            known,
            entitlements=frozenset(
                (i, o.entitlements) for i, o in offered.items() if o.entitlements is not None
            ),
            licenses=frozenset(
                (i, o.licenses) for i, o in offered.items() if o.licenses is not None
            ),
        )
        return (await _read(text, more))[1] if offered else problems

    async def _offers(self, application_ids: Collection[str]) -> dict[str, Offered]:
        """What each application has to give, asked at most once a minute."""

        async def ask(application_id: str) -> None:
            # Who does not answer is left alone as long: a check would wait for them each time.
            self._offered[application_id] = (time.monotonic(), Offered())
            with suppress(YugumError, TimeoutError):
                connector = await self._connectors.of(application_id)
                found = await asyncio.wait_for(_offer(connector), PATIENCE)
                self._offered[application_id] = (time.monotonic(), found)

        fresh = time.monotonic() - ASKED_EVERY
        stale = [
            i for i in application_ids if i not in self._offered or self._offered[i][0] < fresh
        ]
        await asyncio.gather(*(ask(i) for i in stale))
        return {i: self._offered[i][1] for i in application_ids}

    async def _surroundings(self, text: str) -> tuple[Known, Stock]:
        """What a rules file may name, and what limits what it gives, as things stand."""
        # Only a file that can be read names people; it is read before a connection is taken.
        names = "reports_to" in text or "handover" in text
        document = (await _read(text, None))[0] if names else None
        people: set[str] = set()
        async with self._database.unit() as unit:
            applications = await unit.applications.all()
            pools = await unit.seats.pools()
            operators = await unit.operators.logins()
            if document is not None:
                # By login and nothing else: a part of a name that fits today may fit two tomorrow.
                people |= (await whom(unit, sorted(_named_in(document)), 0))[0].keys()
        known = Known(
            applications=frozenset(applications),
            runs_steps=frozenset(i for i, a in applications.items() if a.can(Capability.RUN)),
            pools=frozenset(pools),
            attributes=frozenset((i, n) for i, a in applications.items() for n in a.attributes),
            people=frozenset(people) if document else None,
            operators=operators,
        )
        manual = frozenset(i for i, a in applications.items() if a.kind == "manual")
        return known, Stock(pools, manual)

    async def _sound(self, text: str, known: Known) -> tuple[RulesDocument, CoreRules]:
        """The document of a text and the core's rules, or InvalidInput at its first mistake."""
        document, problems = await _read(text, known)
        rules = await asyncio.to_thread(rules_in, text, known)
        if document is None or rules is None:
            first = problems[0]
            more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
            raise InvalidInput(
                f"{first.message}{more}",
                place=f"line {first.line}, column {first.column}",
                remedy=first.remedy or "Check the file: yugum rules check FILE.",
            )
        return document, rules

    async def candidate(self, text: str) -> CoreRules:
        """The rules of a text that is not in force.

        Raises:
            InvalidInput: there is a mistake in it.
        """
        known, _ = await self._surroundings(text)
        return (await self._sound(text, known))[1]

    async def try_out(self, text: str, who: Sequence[str] = ()) -> Trial:
        """Who would gain and lose what under a candidate; nothing is changed.

        ``who`` names some people by login or number; without it everybody is looked at.
        """
        now = await self._clock.now()
        known, stock = await self._surroundings(text)
        _, rules = await self._sound(text, known)
        async with self._database.unit() as unit:
            current = await load_rules(unit)
            return await try_rules(unit, current, rules, now, stock, who)

    async def adopt(
        self,
        text: str,
        author: str,
        note: str,
        *,
        after: int | None = None,
        take_away: int | None = None,
        carry_out: bool = False,
    ) -> Adopted:
        """Make a candidate the next version.

        ``after`` is the version it was written against, ``take_away`` how many things may be taken
        away by it (else the limits of the rules in force, on things and on people). With ``carry_out`` everybody whose access
        differs is looked at again, each in a docket of their own.

        Raises:
            PlanStale: another version was adopted meanwhile.
            Conflict: it would take away more than allowed.
        """
        known, stock = await self._surroundings(text)
        document, rules = await self._sound(text, known)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            current = await load_rules(unit)
            if after is not None and after != current.version:
                raise PlanStale(
                    f"Version {current.version} was adopted meanwhile.",
                    remedy="Look at it, bring the two together, and adopt again.",
                )
            trial = await try_rules(unit, current, rules, now, stock)
            limit = current.adoption_ceiling if take_away is None else take_away
            if (limit or take_away is not None) and trial.lost > limit:
                raise Conflict(
                    f"This would take away {trial.lost} things; {limit} are allowed at once.",
                    remedy=f"Try it first, then allow it: --take-away {trial.lost}.",
                )
            if take_away is None and current.asks_about(trial.losing, trial.looked_at):
                raise Conflict(
                    f"This would take something from {trial.losing} of {trial.looked_at} people.",
                    remedy=f"Try it first, then allow it: --take-away {trial.lost}.",
                )
            version = await unit.rules.adopt(document.model_dump_json(), text, now, author, note)
            touched = list(trial.people) if carry_out else []
            for begin in range(0, len(touched), PORTION):
                ids = touched[begin : begin + PORTION]
                await look_again(unit, ids, now, author, f"rules version {version}")
            payload: Document = {
                "version": version,
                "note": note,
                "gained": trial.gained,
                "lost": trial.lost,
            }
            await unit.audit.add([make_event(now, author, "rules.adopted", str(version), payload)])
            if touched:
                await unit.hint()
        return Adopted(version, len(touched))

    async def explain(self, who: str) -> Explanation:
        """What a person should have in each application and why."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await explain(unit, who, now)


async def _offer(connector: Connector) -> Offered:
    """What an application says it has: groups, and licenses where it keeps the book of seats itself."""
    groups = await connector.entitlements() if isinstance(connector, Offering) else None
    found = await connector.discover()
    sells = Capability.SEATS in found.capabilities
    return Offered(
        entitlements=None if groups is None else frozenset(groups),
        licenses=frozenset(found.licenses) if sells else None,
    )


async def _read(text: str, known: Known | None) -> tuple[RulesDocument | None, list[RuleProblem]]:
    # A long file takes a while, during which others want their answers.
    return await asyncio.to_thread(read_rules, text, known)


def _named_in(document: RulesDocument) -> set[str]:
    """Everybody whom a document names by login as somebody who takes over."""
    said = document.handover
    named = {document.procedures.leaver.reports_to, said.custodian, *(d.to for d in said.defaults)}
    return named - {"", STAY, MANAGER, MANAGERS_MANAGER}
