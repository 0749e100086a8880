"""What the rules say of a license: who may have a seat, in which order, and what it needs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from yugum.core.conditions import Condition, Values, matches


class WhenEmpty(StrEnum):
    """What becomes of whoever is to have a seat where none is free."""

    WAIT = "wait"
    BLOCK = "block"
    OVERRUN = "overrun"


class Carries(StrEnum):
    """What a seat keeps alive for somebody who has left."""

    MAIL = "mail"
    DATA = "data"


@dataclass(frozen=True, slots=True)
class Cheaper:
    """A license that does for those of a condition."""

    license: str
    who: Condition


@dataclass(frozen=True, slots=True)
class License:
    """How a license is given. ``who`` may have a seat of it; None for everybody.

    ``priority`` are conditions, the first served first; who fulfils none comes last. ``requires`` are licenses of
    the same application that somebody must have before; ``contains`` what a seat of this one brings along;
    ``instead_of`` those of which one does as well; ``cheaper`` those that do for some. A leaver's seat that
    ``carries`` mail stays while their mail goes on, one that carries data until what they own is handed over, both
    while they are on hold. ``groups`` are entitlements that go with a seat. A seat nobody used for ``unused_days``, or never within
    ``never_used_days``, is one to reclaim; with ``ask_days`` whoever has it is asked before, and has so long
    to answer.
    """

    when_empty: WhenEmpty = WhenEmpty.WAIT
    persons_only: bool = False
    who: Condition | None = None
    who_text: str = ""
    priority: tuple[Condition, ...] = ()
    requires: tuple[str, ...] = ()
    contains: tuple[str, ...] = ()
    instead_of: tuple[str, ...] = ()
    cheaper: tuple[Cheaper, ...] = ()
    carries: frozenset[Carries] = frozenset()
    groups: tuple[str, ...] = ()
    unused_days: int = 60
    never_used_days: int = 14
    ask_days: int = 0

    def is_for(self, values: Values) -> bool:
        return self.who is None or matches(self.who, values)

    def does_for(self, values: Values) -> str:
        """The cheaper license that does for somebody, or ""."""
        return next((c.license for c in self.cheaper if matches(c.who, values)), "")

    def rank(self, values: Values) -> int:
        """How early somebody is served, 0 first."""
        return next(
            (n for n, c in enumerate(self.priority) if matches(c, values)), len(self.priority)
        )


USUAL = License()
Licenses = Mapping[tuple[str, str], License]
"""By application and license."""


def pairs(licenses: Licenses) -> list[tuple[str, str, str]]:
    """The groups that go with a seat: application, license and group."""
    return [(a, name, group) for (a, name), one in licenses.items() for group in one.groups]


def in_order(application_id: str, items: Iterable[str], licenses: Licenses) -> list[str]:
    """Some licenses, each after those it requires."""
    left, found = list(items), []
    if not any(licenses.get((application_id, i), USUAL).requires for i in left):
        return left
    while left:
        ready = [
            i
            for i in left
            if not {*licenses.get((application_id, i), USUAL).requires} & {*left} - {i}
        ]
        found += ready or left  # no circle is taken; one would end here
        left = [i for i in left if i not in found]
    return found


def in_reverse(application_id: str, items: Iterable[str], licenses: Licenses) -> list[str]:
    """Some licenses by name, each before those it requires."""
    return in_order(application_id, sorted(items, reverse=True), licenses)[::-1]


def lacking(application_id: str, item: str, there: Iterable[str], licenses: Licenses) -> list[str]:
    """What a license requires that is not there."""
    requires = licenses.get((application_id, item), USUAL).requires
    if not requires:
        return []
    have = {*there}
    return [r for r in requires if r not in have]


def contained(application_id: str, items: Iterable[str], licenses: Licenses) -> dict[str, str]:
    """Which of some licenses others of them contain, each with that one."""
    held = list(items)
    return {
        part: suite
        for suite in held
        for part in licenses.get((application_id, suite), USUAL).contains
        if part in held and part != suite
    }


def in_circle(name: str, others: Mapping[str, Sequence[str]]) -> bool:
    """Whether something leads back to itself, by what each leads to."""
    seen: set[str] = set()
    ahead = list(others.get(name, ()))
    while ahead:
        one = ahead.pop()
        if one == name:
            return True
        if one not in seen:
            seen.add(one)
            ahead += others.get(one, ())
    return False
