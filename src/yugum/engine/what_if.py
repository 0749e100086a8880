"""What if: seats that would be bought, people who would begin, rules that would be in force."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from yugum.core.accounts import HoldingKind
from yugum.core.file_columns import BIRTHDAY, columns_of
from yugum.core.people import OWN, Person
from yugum.core.people_file import PersonRow, rows_of
from yugum.core.requests import NewPerson
from yugum.core.roles import Rules
from yugum.core.seats import Pool
from yugum.core.sheets import read_sheet
from yugum.engine.context import zone_of
from yugum.engine.file_fields import read_fields
from yugum.engine.file_rows import whose
from yugum.engine.newcomers import made
from yugum.engine.trials import Stock, try_rules
from yugum.errors import InvalidInput
from yugum.ports.units import UnitOfWork

MOST = 2000
"""People of a file; each is looked at like one who is to begin."""
ASIDE = frozenset({"manager", BIRTHDAY, "another"})
"""Fields of a file that have nothing to do with seats."""

Some = tuple[int, date]
"""So many, from a day on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIf:
    """Seats that would be bought, people who would begin and take one, a CSV file of people who would begin
    (``joiners``) and get what the rules give, and the text of ``rules`` that would be in force from tomorrow."""

    bought: tuple[Some, ...] = ()
    joining: tuple[Some, ...] = ()
    joiners: str = ""
    rules: str = ""


AS_IT_IS = WhatIf()


def some_of(said: Sequence[str], place: str) -> tuple[Some, ...]:
    """What is said as 5@2031-04-01: so many, and the day.

    Raises:
        InvalidInput: it is written otherwise.
    """
    found = []
    for one in said:
        count, _, day = one.partition("@")
        try:
            found.append((int(count), date.fromisoformat(day)))
        except ValueError as error:
            raise InvalidInput(
                f"'{one[:40]}' says no number and day.", place=place, remedy="Write 5@2031-04-01."
            ) from error
        if not 0 < found[-1][0] <= 100_000:
            raise InvalidInput(f"{count} is not between 1 and 100,000.", place=place)
    return tuple(found)


async def joiners_of(
    unit: UnitOfWork, text: str, rules: Rules, now: datetime
) -> tuple[Sequence[Person], int]:
    """The people of a file who are not known yet, and how many are; nobody is made.

    Raises:
        InvalidInput: it is no file of people, or somebody in it has no first day.
    """
    sheet = read_sheet(text.encode())
    rows = rows_of(sheet, columns_of(sheet.head, rules.own, {}, leave=True), "")
    if len(rows) > MOST:
        raise InvalidInput(
            f"It has {len(rows)} rows; {MOST} are looked at.", place="joiners", remedy="Split it."
        )
    await whose(unit, rows)
    zone = await zone_of(unit)
    new = [r for r in rows if not r.person_id]
    return [_joiner(row, number, zone, now) for number, row in enumerate(new)], len(rows) - len(new)


def _joiner(row: PersonRow, number: int, zone: str, now: datetime) -> Person:
    fields = {n: v for n, v in row.said.items() if n not in ASIDE and not n.startswith(OWN)}
    read_fields(row, fields)
    if not row.faults and not row.said.get("starts"):
        row.fault("starts", "No first day is told.", "Fill in the column starts.")
    if row.faults:
        first = row.faults[0]
        raise InvalidInput(first.text, place=f"line {row.line}", remedy=first.remedy)
    own = {n.removeprefix(OWN): v for n, v in row.said.items() if n.startswith(OWN)}
    said = {"user_name": f"somebody{number}", **fields}
    try:
        return made(NewPerson(**said, own=own), f"file-{number}", None, zone, now)  # type: ignore[arg-type]
    except InvalidInput as error:
        error.place = f"line {row.line}"
        raise


async def turned(
    unit: UnitOfWork, pool: Pool, rules: tuple[Rules, Rules], apart: Collection[str], now: datetime
) -> Mapping[bool, int]:
    """How many would get a seat of a pool by other ``rules`` than now (True), and how many would lose it."""
    trial = await try_rules(unit, *rules, now, Stock({}, frozenset()), apart=apart)
    line = trial.lines.get((pool.application_id, HoldingKind.SEAT, pool.license))
    return {True: line.gained, False: line.lost} if line else {}
