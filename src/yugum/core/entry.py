"""What is typed about somebody: values that are nearly others, days in an order that cannot be, circles."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime, timedelta
from difflib import get_close_matches
from enum import StrEnum
from zoneinfo import ZoneInfo

from yugum.core.conditions import fold
from yugum.core.people import Person, start_moment


class Doubted(StrEnum):
    """Fields of which a value may look like a slip, and be right."""

    DEPARTMENT = "department"
    SITE = "site"
    USER_TYPE = "user_type"
    MANAGER = "manager"
    STARTS = "starts"


NEAR = 0.75
"""How alike two values must be, of 1."""


def folded(known: Iterable[str]) -> dict[str, str]:
    """Values by what they are without case and accents."""
    return {fold(k): k for k in known if k}


def nearest(value: str, there: Mapping[str, str]) -> str:
    """The value that was meant, if nobody has this one but another (``folded``) that is nearly it."""
    key = fold(value)
    if not value or there.get(key) == value:
        return ""
    if key in there:
        return there[key]
    near = get_close_matches(key, there, 1, NEAR)
    return there[near[0]] if near else ""


LONG_PAST = timedelta(days=31)
"""So long ago somebody new is hardly to have begun."""


def long_past(person: Person, today: date) -> bool:
    """Whether somebody would have begun long ago."""
    return person.starts is not None and person.starts < today - LONG_PAST


def gone_by_then(manager: Person, person: Person, at: datetime) -> date | None:
    """The day a manager's access ends who would not be there on the first day, or has left."""
    begins = max(start_moment(person) or at, at)
    ended = manager.access_ends
    if ended is None or ended > begins:
        return None
    return ended.astimezone(ZoneInfo(manager.time_zone)).date()


def wrong_domain(mail: str, domains: Sequence[str]) -> tuple[str, str] | None:
    """What is wrong with a work address outside the domains that the rules name, if any, and the remedy."""
    domain = mail.rpartition("@")[2].lower()
    there = [d.lower() for d in domains]
    if not domain or not there or domain in there:
        return None
    near = get_close_matches(domain, there, 1)
    remedy = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(there)}."
    return f"Nobody here has an address at {domain}.", remedy


def ends_before_it_begins(person: Person) -> bool:
    return bool(person.starts and person.contract_ends and person.contract_ends < person.starts)


def circles(managed: Mapping[str, str | None]) -> dict[str, int]:
    """Whoever is above themselves, with how many are in that circle; by who manages whom, by id."""
    found: dict[str, int] = {}
    looked: set[str] = set()
    for begin in managed:
        way: dict[str, int] = {}
        here: str | None = begin
        while here is not None and here not in looked:
            looked.add(here)
            way[here] = len(way)
            here = managed.get(here)
        if here in way:
            circle = list(way)[way[here] :]
            found |= dict.fromkeys(circle, len(circle))
    return found
