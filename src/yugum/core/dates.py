"""Reading dates and moments as operators write them; what could be read two ways is refused."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from yugum.errors import InvalidInput

WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
REMEDY = "Write 2031-03-07, 2031-03-07 17:00, Friday, 'Fri 17:00', tomorrow, +12d or now."

MINUTE = timedelta(minutes=1)

_CLOCK = r"(?P<hour>\d{1,2}):(?P<minute>\d{2})"
_ISO = re.compile(rf"(?P<day>\d{{4}}-\d{{2}}-\d{{2}})(?:[T ]{_CLOCK})?")
_WORD = re.compile(rf"(?P<word>[a-z]+)(?: {_CLOCK})?")
_OFFSET = re.compile(r"\+(?P<count>\d{1,4})(?P<unit>[dhw])")


def is_zone(name: str) -> bool:
    """Whether there is a time zone of that name (IANA)."""
    try:
        ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):  # also names that could be no file's
        return False
    return True


def days_later(moment: datetime, days: int, zone: str) -> datetime:
    """The moment so many calendar days later, at the same time of the day in ``zone``, as UTC.

    A time that clocks skip on that day is the one as far behind the gap as it was inside it; of one
    that comes twice the first is meant.
    """
    local = moment.astimezone(ZoneInfo(zone)).replace(tzinfo=None, fold=0)
    return (local + timedelta(days=days)).replace(tzinfo=ZoneInfo(zone)).astimezone(UTC)


def parse_moment(text: str, now: datetime, zone: str, *, default: time = time(17)) -> datetime:
    """The moment that ``text`` names in ``zone``, as UTC.

    A weekday is the next one, today if that moment is still to come. A text with an offset of
    its own (RFC 3339) is taken as written. Of a time that comes twice, when clocks go back, the first
    is meant; one that clocks skip is refused with its neighbours.

    Raises:
        InvalidInput: the text is unclear; the remedy lists the forms that are taken.
    """
    cleaned = " ".join(text.strip().split())
    lower = cleaned.lower()
    local = now.astimezone(ZoneInfo(zone))
    if lower == "now":
        return now
    if match := _OFFSET.fullmatch(lower):
        unit = {"h": "hours", "d": "days", "w": "weeks"}[match["unit"]]
        return (local + timedelta(**{unit: int(match["count"])})).astimezone(UTC)
    if re.search(r"(z|[+-]\d{2}:\d{2})$", lower) and "t" in lower:
        try:
            return datetime.fromisoformat(cleaned).astimezone(UTC)
        except ValueError:
            pass
    if match := _ISO.fullmatch(cleaned):
        return _at(_day(match["day"], text), match, zone, default, text)
    if match := _WORD.fullmatch(lower):
        if match["word"] in ("today", "tomorrow"):
            day = local.date() + timedelta(days=match["word"] == "tomorrow")
            return _at(day, match, zone, default, text)
        names = [i for i, n in enumerate(WEEKDAYS) if n.startswith(match["word"])]
        if len(names) == 1 and len(match["word"]) >= 2:
            ahead = (names[0] - local.weekday()) % 7
            moment = _at(local.date() + timedelta(days=ahead), match, zone, default, text)
            if moment <= now:
                moment = _at(local.date() + timedelta(days=ahead + 7), match, zone, default, text)
            return moment
    if re.fullmatch(r"\d{1,2}[/.]\d{1,2}[/.]\d{2,4}.*", cleaned):
        raise InvalidInput(
            f"'{text}' can be read two ways: day first or month first.", remedy=REMEDY, place="at"
        )
    raise InvalidInput(f"'{text}' is not a date I can read.", remedy=REMEDY, place="at")


def names_day(text: str) -> bool:
    """Whether a text names a day without a time: a date, a weekday, today or tomorrow."""
    lower = text.strip().lower()
    return bool(lower) and lower != "now" and ":" not in lower and not lower.startswith("+")


def parse_day(text: str, now: datetime, zone: str) -> date:
    """The day that ``text`` names; forms as in `parse_moment`."""
    moment = parse_moment(text, now, zone, default=time(23, 59))
    return moment.astimezone(ZoneInfo(zone)).date()


def _day(text: str, whole: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise InvalidInput(
            f"'{whole}' names no day of the calendar.", remedy=REMEDY, place="at"
        ) from error


def _at(day: date, match: re.Match[str], zone: str, default: time, text: str) -> datetime:
    clock = default
    if match["hour"] is not None:
        hour, minute = int(match["hour"]), int(match["minute"])
        if hour > 23 or minute > 59:
            raise InvalidInput(f"'{text}' names no time of the day.", remedy=REMEDY, place="at")
        clock = time(hour, minute)
    local = datetime.combine(day, clock)
    if not _exists(local, zone):
        before, after = local, local
        while not _exists(before, zone):
            before -= MINUTE
        while not _exists(after, zone):
            after += MINUTE
        raise InvalidInput(
            f"'{text}' does not exist in {zone}: the clocks go forward over it.",
            place="at",
            remedy=f"Write {before:%Y-%m-%d %H:%M} or {after:%Y-%m-%d %H:%M}.",
        )
    return local.replace(tzinfo=ZoneInfo(zone)).astimezone(UTC)


def _exists(local: datetime, zone: str) -> bool:
    """Whether clocks of a zone ever show a moment; in the hour they skip they do not."""
    there = local.replace(tzinfo=ZoneInfo(zone))
    return there.astimezone(UTC).astimezone(ZoneInfo(zone)).replace(tzinfo=None) == local
