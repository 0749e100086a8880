"""What is typed about somebody: values that are nearly others, days in an order that cannot be, circles."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from difflib import get_close_matches

from yugum.core.conditions import fold
from yugum.core.people import Person

NEAR = 0.75
"""How alike two values must be, of 1."""


def nearest(value: str, known: Iterable[str]) -> str:
    """The value that was meant, if nobody has this one but another that is nearly it; else nothing."""
    there = {fold(k): k for k in known if k}
    key = fold(value)
    if not value or there.get(key) == value:
        return ""
    if key in there:
        return there[key]
    near = get_close_matches(key, there, 1, NEAR)
    return there[near[0]] if near else ""


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


def circle_of(person_id: str, managed: Mapping[str, str | None]) -> int:
    """Of how many people a circle of managers with somebody in it is; 0 if there is none."""
    here, size = managed.get(person_id), 1
    while here is not None and here != person_id:
        here, size = managed.get(here), size + 1
        if size > len(managed) + 1:  # they report into somebody else's circle
            return 0
    return size if here == person_id else 0
