"""What an application shows of invitations: in one form, whatever it is told in."""

from __future__ import annotations

import pytest

from yugum.core.invitations import NOT_SENT, OPEN_DUTIES, SENT, shown


@pytest.mark.parametrize(
    "said",
    ["2031-03-03T08:40:00", "2031-03-03T08:40:00Z", "2031-03-03T09:40:00+01:00"],
)
def test_a_sending_is_a_moment_in_utc(said: str) -> None:
    assert shown(said, ()) == {SENT: "2031-03-03T08:40:00+00:00"}


@pytest.mark.parametrize("said", ["soon", "0001-01-01T00:00:00Z", "9999-12-31T23:00:00Z"])
def test_what_nobody_can_count_from_is_said_to_be_so(said: str) -> None:
    with pytest.raises(ValueError, match=r"iso|day"):
        shown(said, ())


def test_what_is_not_sent_or_not_ours_is_told_apart() -> None:
    assert shown("", ["terms", "mail", "dance"]) == {SENT: NOT_SENT, OPEN_DUTIES: "mail terms"}
    assert shown(None, ()) == {}
