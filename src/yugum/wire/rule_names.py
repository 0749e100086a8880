"""The names in a rules document that only its surroundings know."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Protocol

from yugum.core.heirs import MANAGER, MANAGERS_MANAGER
from yugum.core.roles import STAY
from yugum.wire.licenses import OTHERS, LicenseDocument
from yugum.wire.rulebook import Place
from yugum.wire.rules import RulesDocument


@dataclass(frozen=True, slots=True)
class RuleProblem:
    """One mistake; ``line`` and ``column`` count from 1, ``place`` is the path within the file."""

    line: int
    column: int
    place: str
    message: str
    remedy: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What a rules file may name; None where it is not known and not checked."""

    applications: frozenset[str] | None = None
    runs_steps: frozenset[str] = frozenset()
    pools: frozenset[tuple[str, str]] | None = None
    attributes: frozenset[tuple[str, str]] = frozenset()
    """Of each application that said which attributes its accounts have, the application and one."""
    entitlements: frozenset[tuple[str, frozenset[str]]] = frozenset()
    """Each application that says what can be granted there, with that."""
    licenses: frozenset[tuple[str, frozenset[str]]] = frozenset()
    """Each application that keeps the book of seats itself, with the licenses it has."""
    people: frozenset[str] | None = None
    operators: frozenset[str] | None = None


class Positions(Protocol):
    """Where places of a document stand in its file."""

    def position(self, place: Place, *, of_key: bool = False) -> tuple[int, int]:
        """The line and the column, from 1."""
        ...


def dotted(place: Place) -> str:
    return ".".join(str(p) for p in place)


@dataclass(frozen=True, slots=True)
class _Names:
    """Looks up the names in a document that only its surroundings know."""

    read: Positions
    document: RulesDocument
    known: Known
    found: list[RuleProblem] = field(default_factory=list)

    def look(
        self,
        place: Place,
        name: str,
        names: Iterable[str] | None,
        what: str,
        *,
        key: bool = False,
    ) -> None:
        if names is None or name in names:
            return
        close = difflib.get_close_matches(name, list(names), n=1)
        remedy = (
            f"Did you mean '{close[0]}'?" if close else f"Known are: {', '.join(sorted(names))}."
        )
        self.say(place, f"There is no {what} {name}.", remedy, key=key)

    def say(self, place: Place, text: str, remedy: str, *, key: bool = False) -> None:
        at = self.read.position(place, of_key=key)
        self.found.append(RuleProblem(*at, dotted(place), text, remedy))

    def roles(self) -> None:
        applications, pools = self.known.applications, self.known.pools
        entitlements, licenses = dict(self.known.entitlements), dict(self.known.licenses)
        for name, role in self.document.roles.items():
            for index, gives in enumerate(role.gives):
                place: Place = ("roles", name, "gives", index)
                self.look((*place, "application"), gives.application, applications, "application")
                offered = entitlements.get(gives.application)
                for number, item in enumerate(gives.entitlements):
                    here = (*place, "entitlements", number)
                    self.offered(here, f"{gives.application} has no group", item, offered)
                for number, seat in enumerate(gives.seats):
                    if pools is not None and (gives.application, seat) not in pools:
                        at = self.read.position((*place, "seats", number))
                        text = f"{gives.application} has no pool of {seat}."
                        remedy = "Add the pool first: yugum seats pool."
                        self.found.append(RuleProblem(*at, dotted((*place, "seats")), text, remedy))
                        continue
                    here = (*place, "seats", number)
                    sold = licenses.get(gives.application)
                    self.offered(here, f"{gives.application} has no license", seat, sold)

    def offered(self, place: Place, lacking: str, item: str, names: frozenset[str] | None) -> None:
        if names is None or item in names:
            return
        close = difflib.get_close_matches(item, names, n=1, cutoff=0.5)
        made = "make it there first"
        remedy = f"Did you mean '{close[0]}'? Else {made}." if close else f"Correct it, or {made}."
        self.say(place, f"{lacking} {item}.", remedy)

    def applications(self) -> None:
        known = self.known.applications
        for number, default in enumerate(self.document.handover.defaults):
            if default.application:
                at: Place = ("handover", "defaults", number, "application")
                self.look(at, default.application, known, "application")
        for section in ("windows", "profiles", "accounts", "licenses"):
            for application in getattr(self.document, section):
                self.look((section, application), application, known, "application", key=True)
        for application, accounts in self.document.accounts.items():
            has = {name for a, name in self.known.attributes if a == application}
            for name in accounts.attributes if has else ():
                place: Place = ("accounts", application, "attributes", name)
                self.look(place, name, has, "attribute", key=True)
        for application, licenses in self.document.licenses.items():
            self.licenses(application, licenses)
        for application, profile in self.document.profiles.items():
            if profile.comes_from:
                others = None if known is None else known - {application}
                place = ("profiles", application, "comes_from")
                self.look(place, profile.comes_from, others, "other application")

    def licenses(self, application: str, licenses: Mapping[str, LicenseDocument]) -> None:
        pools = self.known.pools
        has = None if pools is None else {name for a, name in pools if a == application}
        for name, said in licenses.items():
            place: Place = ("licenses", application, name)
            self.look(place, name, has, "pool of", key=True)
            for relation in OTHERS:
                for number, other in enumerate(getattr(said, relation)):
                    self.look((*place, relation, number), other, has, "pool of")
            for other in said.cheaper:
                self.look((*place, "cheaper", other), other, has, "pool of", key=True)

    def procedures(self) -> None:
        for verb in type(self.document.procedures).model_fields:
            for index, step in enumerate(getattr(self.document.procedures, verb).steps):
                place: Place = ("procedures", verb, "steps", index, "application")
                self.look(place, step.application, self.known.runs_steps, "web-hook or script")
        said = f"a login, or {STAY} for nobody else"
        heir = self.document.procedures.leaver.reports_to
        self.somebody(("procedures", "leaver", "reports_to"), heir, {"", STAY}, said)

    def handover(self) -> None:
        said = self.document.handover
        self.somebody(("handover", "custodian"), said.custodian, {""}, "a login")
        for number, default in enumerate(said.defaults):
            known = {MANAGER, MANAGERS_MANAGER}
            what = f"{MANAGER}, {MANAGERS_MANAGER} or a login"
            place: Place = ("handover", "defaults", number)
            if default.role:
                self.look((*place, "role"), default.role, {*self.document.roles}, "role")
            else:
                self.somebody((*place, "to"), default.to, known, what)

    def somebody(self, place: Place, login: str, others: set[str], what: str) -> None:
        people = self.known.people
        if people is not None and login not in {*others, *people}:
            text = f"'{login}' is nobody, or several people."
            self.say(place, text, f"Write {what}: yugum people list.")

    def operators(self) -> None:
        for name, approval in self.document.approvals.items():
            for part in ("by", "deputies"):
                for index, who in enumerate(getattr(approval, part)):
                    if who not in ("manager", "owner"):
                        place: Place = ("approvals", name, part, index)
                        self.look(place, who, self.known.operators, "operator")
        for name, notice in self.document.notices.items():
            for index, to in enumerate(notice.to):
                if "@" not in to:
                    self.look(("notices", name, "to", index), to, ("manager", "person"), "receiver")


def unknown_names(read: Positions, document: RulesDocument, known: Known) -> list[RuleProblem]:
    names = _Names(read, document, known)
    names.roles()
    names.applications()
    names.procedures()
    names.handover()
    names.operators()
    return names.found
