"""Which reservation somebody would take a seat of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from yugum.core.conditions import Condition, Values, matches
from yugum.core.counter import Counter
from yugum.core.people import FILTER_ATTRIBUTES, OWN
from yugum.core.reservations import Promise, Reservation
from yugum.core.roles import Rules
from yugum.core.seats import Pool
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter


def condition_of(text: str, rules: Rules) -> Condition:
    """Whom a filter means (RFC 7644 3.4.2.2).

    Raises:
        InvalidInput: it cannot be read.
    """
    return parse_filter(text, (*FILTER_ATTRIBUTES, *(f"{OWN}{name}" for name in rules.own)))


def known_condition(text: str, rules: Rules) -> Condition | None:
    """`condition_of` a stored filter; one of an attribute that is not declared any more means nobody."""
    try:
        return condition_of(text, rules) if text else None
    except InvalidInput:
        return None


def promised(counter: Counter, person_id: str, values: Values, rules: Rules) -> str | None:
    """The reservation that somebody would use: one by name, else the first whose filter they fulfil."""
    for one in counter.asides:
        if one.person_id not in (None, person_id) or counter.left(one) <= 0:
            continue
        condition = known_condition(one.who, rules)
        if not one.who or (condition is not None and matches(condition, values)):
            return one.id
    return None


def promises(
    reservations: Sequence[Reservation], pools: Mapping[tuple[str, str], Pool], rules: Rules
) -> Mapping[tuple[str, str], tuple[Promise, ...]]:
    """The reservations in force of some pools."""
    found: dict[str, list[Promise]] = {}
    for one in reservations:
        promise = Promise(one, known_condition(one.who, rules))
        found.setdefault(one.pool_id, []).append(promise)
    return {key: tuple(found[p.id]) for key, p in pools.items() if p.id in found}
