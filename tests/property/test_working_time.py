"""Working time and Sieve scripts, for whatever is thrown at them."""

from __future__ import annotations

from datetime import UTC, datetime, time
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from yugum.connectors.dovecot.layout import Sieve, read
from yugum.core.offsets import WorkingHours

ZONES = st.sampled_from(["UTC", "Europe/London", "Pacific/Kiritimati", "America/St_Johns"])
HOURS = st.builds(
    WorkingHours,
    begins=st.integers(5, 11).map(time),
    ends=st.integers(12, 22).map(time),
    days=st.frozensets(st.integers(0, 6), min_size=1),
)
MOMENTS = st.integers(1_893_456_000, 1_988_150_400).map(lambda s: datetime.fromtimestamp(s, UTC))
WORDS = st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=60)


@settings(max_examples=400, deadline=None)
@given(HOURS, MOMENTS, ZONES)
def test_the_next_working_moment_is_in_working_time_and_not_before(
    hours: WorkingHours, moment: datetime, zone: str
) -> None:
    found = hours.next(moment, zone)
    local = found.astimezone(ZoneInfo(zone))
    assert found >= moment
    assert local.weekday() in hours.days
    assert hours.begins <= local.time() < hours.ends
    assert hours.next(found, zone) == found
    between = moment.astimezone(ZoneInfo(zone))
    worked = between.weekday() in hours.days and hours.begins <= between.time() < hours.ends
    assert worked is (found == moment)


@settings(max_examples=400, deadline=None)
@given(WORDS, WORDS, WORDS, WORDS)
def test_a_script_says_again_what_was_written(
    forward: str, reply: str, ground: str, earlier: str
) -> None:
    script = Sieve(forward, reply, ground, earlier, ("a@b.example",))
    assert read(script.text()) == script
    text = script.text()
    strings = text.replace("\\\\", "").replace('\\"', "").split("\n", 1)[1]
    assert strings.count('"') % 2 == 0, "no string is left open"
