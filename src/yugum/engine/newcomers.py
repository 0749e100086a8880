"""New people, of what was said about them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import fields
from datetime import date, datetime
from functools import lru_cache

from yugum.core.dates import parse_day
from yugum.core.people import FIELDS, Person, groups_in, term_end
from yugum.core.requests import NewPerson
from yugum.engine.whom import people_named
from yugum.errors import Ambiguous, InvalidInput, NotFound
from yugum.ports.units import UnitOfWork

AS_SAID = sorted(
    {f.name for f in fields(NewPerson)}
    & set(FIELDS) - {"display_name", "time_zone", "groups", "own", "starts", "contract_ends"}
)
"""Fields of a new person that are taken as they are."""


async def managers_named(
    unit: UnitOfWork, new: Sequence[NewPerson], ids: Mapping[str, str]
) -> dict[str, str]:
    """The ids of the managers that new people name; some may be new themselves."""
    names = {n.manager for n in new if n.manager} - set(ids)
    try:
        found = await people_named(unit, sorted(names))
    except (NotFound, Ambiguous) as error:
        error.place = "manager"
        raise
    return {**{name: p.id for name, p in found.items()}, **ids}


def made(
    new: NewPerson, person_id: str, manager_id: str | None, zone: str, now: datetime
) -> Person:
    zone = new.time_zone or zone
    ends = _day(new, "contract_ends", now, zone)
    return Person(
        id=person_id,
        display_name=new.display_name or f"{new.given_name} {new.family_name}".strip(),
        manager_id=manager_id,
        time_zone=zone,
        groups="; ".join(groups_in(new.groups)),
        own=tuple(sorted((n, v) for n, v in new.own.items() if v)),
        **{name: getattr(new, name) for name in AS_SAID},
        starts=_day(new, "starts", now, zone),
        contract_ends=ends,
        access_ends=term_end(ends, zone),
    )


@lru_cache(maxsize=512)  # those who begin together come together
def _parsed(text: str, now: datetime, zone: str) -> date:
    return parse_day(text, now, zone)


def _day(new: NewPerson, name: str, now: datetime, zone: str) -> date | None:
    text = str(getattr(new, name))
    try:
        return _parsed(text, now, zone) if text else None
    except InvalidInput as error:
        error.place = name
        raise
