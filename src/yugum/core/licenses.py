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


@dataclass(frozen=True, slots=True)
class License:
    """How a license is given. ``who`` may have a seat of it; None for everybody.

    ``priority`` are conditions, the first served first; who fulfils none comes last. ``requires`` are licenses of
    the same application that somebody must have before; ``contains`` what a seat of this one brings along;
    ``instead_of`` those of which one does as well. A seat nobody used for ``unused_days``, or never within
    ``never_used_days``, is one to reclaim.
    """

    when_empty: WhenEmpty = WhenEmpty.WAIT
    persons_only: bool = False
    who: Condition | None = None
    who_text: str = ""
    priority: tuple[Condition, ...] = ()
    requires: tuple[str, ...] = ()
    contains: tuple[str, ...] = ()
    instead_of: tuple[str, ...] = ()
    unused_days: int = 60
    never_used_days: int = 14

    def is_for(self, values: Values) -> bool:
        return self.who is None or matches(self.who, values)

    def rank(self, values: Values) -> int:
        """How early somebody is served, 0 first."""
        return next(
            (n for n, c in enumerate(self.priority) if matches(c, values)), len(self.priority)
        )


USUAL = License()
Licenses = Mapping[tuple[str, str], License]
"""By application and license."""


def in_order(application_id: str, items: Iterable[str], licenses: Licenses) -> list[str]:
    """Some licenses, each after those it requires."""
    left, found = list(items), []
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
    have = {*there}
    return [r for r in licenses.get((application_id, item), USUAL).requires if r not in have]


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
