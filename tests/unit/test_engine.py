"""What requests mean."""

from __future__ import annotations

from datetime import UTC, date, datetime

import pytest

from tests.builders import person
from yugum.core.offsets import WorkingHours
from yugum.core.people import Person
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.engine.plans.meanings import meaning_of
from yugum.errors import Conflict, InvalidInput

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def test_what_a_request_means_for_a_person() -> None:
    helsinki = person(time_zone="Europe/Helsinki")
    leaver = meaning_of(
        PlanRequest(verb=Verb.LEAVER, at="Fri 17:00"), helsinki, WorkingHours(), NOW
    )
    assert leaver.due == datetime(2031, 3, 7, 15, 0, tzinfo=UTC)
    assert leaver.after.last_working_day == date(2031, 3, 7)
    assert leaver.applied
    mover = PlanRequest(verb=Verb.MOVER, at="+3d", changes={"department": "Safety"})
    later = meaning_of(mover, helsinki, WorkingHours(), NOW)
    assert later.after.department == "Safety"
    assert not later.applied
    gone = person(access_ends=NOW)
    back = meaning_of(PlanRequest(verb=Verb.RETURNER), gone, WorkingHours(), NOW)
    assert back.after.access_ends is None


@pytest.mark.parametrize(
    ("request_", "who", "error"),
    [
        (PlanRequest(verb=Verb.MOVER), person(), InvalidInput),
        (PlanRequest(verb=Verb.RETURNER), person(), Conflict),
        (PlanRequest(verb=Verb.JOINER), person(access_ends=NOW), Conflict),
        (PlanRequest(verb=Verb.LEAVER, at="2031-03-01"), person(), InvalidInput),
        (PlanRequest(verb=Verb.LEAVER, at="+1d"), person(starts=date(2031, 3, 20)), InvalidInput),
        (PlanRequest(verb=Verb.ABSENCE, at="+3d", until="+2d"), person(), InvalidInput),
    ],
)
def test_requests_that_cannot_be(
    request_: PlanRequest, who: Person, error: type[Exception]
) -> None:
    with pytest.raises(error):
        meaning_of(request_, who, WorkingHours(), NOW)
