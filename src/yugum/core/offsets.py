"""When a step of a procedure is due: so long before or after one of the person's dates.

Days are counted in the person's time zone, so that a clock time stays what it is over a change to
summer time; an offset that asks for working time is moved to the next working hour.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from yugum.core.dates import WEEKDAYS
from yugum.core.people import Person, day_begins
from yugum.errors import InvalidInput

REMEDY = "Write like: starts -2d 09:00, access_ends +3h, contract_ends +1w 10:00 working."
_FORM = re.compile(
    r"(?P<anchor>[a-z_]+)(?: (?P<sign>[+-])(?P<count>\d{1,4})(?P<unit>[dhw]))?"
    r"(?: (?P<hour>\d{1,2}):(?P<minute>\d{2}))?(?P<working> working)?"
)


def _of_day(day: date | None, person: Person) -> datetime | None:
    return day_begins(day, person.time_zone) if day else None


ANCHORS: Mapping[str, Callable[[Person], datetime | None]] = {
    "starts": lambda p: _of_day(p.starts, p),
    "last_working_day": lambda p: _of_day(p.last_working_day, p),
    "access_ends": lambda p: p.access_ends,
    "contract_ends": lambda p: _of_day(p.contract_ends, p),
}


SHIFT_ENDS = time(17)


@dataclass(frozen=True, slots=True)
class WorkingHours:
    """From when until when people work, on which days of the week (Monday is 0).

    ``shifts`` are the ends of the last shift of a day by site; where none is given it is 17:00.
    """

    begins: time = time(8)
    ends: time = time(17)
    days: frozenset[int] = frozenset(range(5))
    shifts: Mapping[str, time] = field(default_factory=dict)

    def shift_ends(self, site: str) -> time:
        """When a working day ends at a site."""
        return self.shifts.get(site, SHIFT_ENDS)

    def next(self, moment: datetime, zone: str) -> datetime:
        """The moment itself in working time, else the beginning of the next working day."""
        local = moment.astimezone(ZoneInfo(zone))
        if local.weekday() in self.days and local.time() < self.begins:
            return self._opening(local.date(), zone)
        if local.weekday() in self.days and local.time() < self.ends:
            return moment
        day = local.date() + timedelta(days=1)
        while day.weekday() not in self.days:
            day += timedelta(days=1)
        return self._opening(day, zone)

    def later(self, moment: datetime, hours: float, zone: str) -> datetime:
        """So many hours of working time after a moment; time outside working hours does not count."""
        left, at = timedelta(hours=hours), self.next(moment, zone)
        while True:
            day = at.astimezone(ZoneInfo(zone)).date()
            closes = datetime.combine(day, self.ends, ZoneInfo(zone)).astimezone(UTC)
            if left <= closes - at:
                return at + left
            left -= closes - at
            at = self.next(closes, zone)

    def _opening(self, day: date, zone: str) -> datetime:
        return datetime.combine(day, self.begins, ZoneInfo(zone)).astimezone(UTC)


@dataclass(frozen=True, slots=True)
class Offset:
    """So many days and hours from one of the person's dates, at a clock time if one is given."""

    anchor: str
    days: int = 0
    hours: int = 0
    clock: time | None = None
    working: bool = False

    def moment(self, person: Person, hours: WorkingHours) -> datetime | None:
        """When that is for a person; None while the date it counts from is not known."""
        begins = ANCHORS[self.anchor](person)
        if begins is None:
            return None
        zone = ZoneInfo(person.time_zone)
        local = begins.astimezone(zone)
        day, clock = local.date() + timedelta(days=self.days), self.clock or local.time()
        moment = datetime.combine(day, clock, zone).astimezone(UTC) + timedelta(hours=self.hours)
        return hours.next(moment, person.time_zone) if self.working else moment


def parse_offset(text: str) -> Offset:
    """``access_ends +3d 10:00 working`` as an `Offset`.

    Raises:
        InvalidInput: it is not of that form, or names a date that people do not have.
    """
    match = _FORM.fullmatch(" ".join(text.split()).lower())
    if match is None:
        raise InvalidInput(f"'{text}' says no time.", remedy=REMEDY)
    if match["anchor"] not in ANCHORS:
        raise InvalidInput(
            f"'{match['anchor']}' is no date of a person.",
            remedy=f"Known are: {', '.join(ANCHORS)}.",
        )
    count = int(match["count"] or 0) * (-1 if match["sign"] == "-" else 1)
    unit = match["unit"] or "d"
    clock = None
    if match["hour"] is not None:
        if int(match["hour"]) > 23 or int(match["minute"]) > 59:
            raise InvalidInput(f"'{text}' has no such time of the day.", remedy=REMEDY)
        clock = time(int(match["hour"]), int(match["minute"]))
        if unit == "h":
            raise InvalidInput(f"'{text}' has both hours and a time of the day.", remedy=REMEDY)
    return Offset(
        match["anchor"],
        days=count * {"d": 1, "w": 7, "h": 0}[unit],
        hours=count if unit == "h" else 0,
        clock=clock,
        working=bool(match["working"]),
    )


def parse_days(names: list[str]) -> frozenset[int]:
    """Days of the week by their English names or their first three letters.

    Raises:
        InvalidInput: one is no such day, or there is none at all.
    """
    found = set()
    for name in names:
        fitting = [i for i, day in enumerate(WEEKDAYS) if day.startswith(name.strip().lower())]
        if len(name.strip()) < 3 or len(fitting) != 1:
            raise InvalidInput(f"'{name}' is no day of the week.", remedy="Write: mon, tue, wed …")
        found.add(fitting[0])
    if not found:
        raise InvalidInput("There is no working day.", remedy="Name at least one.")
    return frozenset(found)
