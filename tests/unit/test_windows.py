"""Windows, obligations and the lifeline: the same moments, to the second, from three sides."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import account, by_role, person, subject, world
from yugum.core.accounts import Account, AccountKind, AccountState, HoldingKind
from yugum.core.applications import Application, Deletion
from yugum.core.decisions import Decision, DecisionKind
from yugum.core.desired import World
from yugum.core.lifeline import Bar, Change, future, past, upcoming
from yugum.core.obligations import Owed, owed
from yugum.core.windows import can_come_back, close_due, recoverable_until, setting_ends

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
SECOND = timedelta(seconds=1)
MOMENTS = st.integers(0, 4 * 365 * 86_400).map(lambda s: NOW + timedelta(seconds=s))


def application(**more: Any) -> Application:
    crew = world().applications["crew"]
    return replace(crew, profile=replace(crew.profile, **more))


def with_crew(**more: Any) -> World:
    made = world()
    return replace(made, applications={**made.applications, "crew": application(**more)})


def hold(ends: datetime | None = None) -> Decision:
    return Decision(
        id="h",
        subject_id="p1",
        kind=DecisionKind.HOLD,
        author="iholm",
        reason="claim",
        ends=ends,
    )


@given(moment=MOMENTS, days=st.integers(0, 400))
def test_the_end_of_a_window_is_the_first_moment_that_is_too_late(
    moment: datetime, days: int
) -> None:
    until = recoverable_until(moment, application(window_days=days))
    gone = account(state=AccountState.DELETED, recoverable_until=until)
    assert until - moment == timedelta(days=days), "days of 24 hours, whatever clocks do"
    assert can_come_back(gone, until - SECOND)
    assert not can_come_back(gone, until)
    assert not can_come_back(gone, until + SECOND)


@pytest.mark.parametrize("state", [s for s in AccountState if s is not AccountState.DELETED])
def test_only_what_is_deleted_can_be_restored(state: AccountState) -> None:
    assert not can_come_back(account(state=state, recoverable_until=NOW + SECOND), NOW)


def test_what_has_no_end_told_can_come_back_until_it_is_told() -> None:
    assert can_come_back(account(state=AccountState.DELETED), NOW)


def test_a_final_deletion_has_no_window() -> None:
    assert recoverable_until(NOW, application(deletion=Deletion.FINAL, window_days=30)) == NOW


def test_closing_and_settings_are_counted_from_the_end_of_access() -> None:
    made = application(close_after_days=7, leaver_setting_days={"forward": 30, "reply": 14})
    assert close_due(NOW, made) == NOW + timedelta(days=7)
    assert setting_ends(NOW, made) == {
        "forward": NOW + timedelta(days=30),
        "reply": NOW + timedelta(days=14),
    }


LEFT = NOW - timedelta(days=2)


def leaver(*accounts: Account, **more: Any) -> Any:
    return subject(person=person(access_ends=LEFT), accounts=accounts, **more)


def kinds(found: tuple[Owed, ...]) -> dict[str, datetime]:
    return {o.kind: o.due for o in found}


def test_a_leavers_account_is_closed_then_purged() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    assert kinds(owed(leaver(suspended), world(), NOW)) == {"close": LEFT + timedelta(days=7)}
    until = NOW + timedelta(days=11)
    deleted = account(state=AccountState.DELETED, recoverable_until=until)
    assert kinds(owed(leaver(deleted), world(), NOW)) == {"purge": until}
    assert owed(leaver(account(state=AccountState.PURGED)), world(), NOW) == ()


def test_a_hold_without_end_lets_nothing_fall_due_and_brings_back_what_is_deleted() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    assert owed(leaver(suspended, decisions=(hold(),)), world(), NOW) == ()
    deleted = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=11))
    (back,) = owed(leaver(deleted, decisions=(hold(),)), world(), NOW)
    assert (back.kind, back.due) == ("purge", NOW)
    assert "brings it back" in back.basis


def test_a_hold_with_an_end_puts_off_until_then() -> None:
    ends = NOW + timedelta(days=90)
    suspended = account(state=AccountState.SUSPENDED)
    found = kinds(owed(leaver(suspended, decisions=(hold(ends),)), world(), NOW))
    assert found["close"] == ends
    assert found["recheck"] == ends


def test_a_hold_on_the_application_counts_as_one_on_the_person() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    held = world(holds={"crew": (hold(),)})
    assert owed(leaver(suspended), held, NOW) == ()
    assert owed(leaver(suspended), world(holds={"mail": (hold(),)}), NOW) != ()


def test_what_is_nobodys_by_rule_is_left_alone() -> None:
    found_there = account(state=AccountState.ACTIVE)
    one = subject(person=person(department="Kitchen"), accounts=(found_there,))
    assert owed(one, world(), NOW) == ()
    ruled = replace(one, ledger={("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck")})
    assert kinds(owed(ruled, world(), NOW)) == {"close": NOW + timedelta(days=7)}


@pytest.mark.parametrize("kind", [AccountKind.SHARED, AccountKind.SERVICE])
def test_shared_and_service_accounts_are_not_closed_behind_their_owner(kind: AccountKind) -> None:
    assert owed(leaver(account(kind=kind, state=AccountState.ACTIVE)), world(), NOW) == ()


def test_a_close_that_is_late_is_given_its_days_again() -> None:
    long_ago = subject(
        person=person(access_ends=NOW - timedelta(days=200)),
        accounts=(account(state=AccountState.SUSPENDED),),
    )
    assert kinds(owed(long_ago, world(), NOW))["close"] == NOW + timedelta(days=7)


def test_the_next_of_a_persons_own_dates_is_looked_at_again() -> None:
    ahead = subject(
        person=person(
            starts=date(2031, 3, 10),
            access_ends=NOW + timedelta(days=100),
            absent_from=NOW + timedelta(days=30),
        )
    )
    (turn,) = [o for o in owed(ahead, world(), NOW) if o.kind == "recheck"]
    assert turn.due <= datetime(2031, 3, 10, tzinfo=UTC)


# --- the lifeline -------------------------------------------------------------------------


def test_the_past_is_solid_and_without_gaps() -> None:
    changes = [
        Change(NOW - timedelta(days=30), AccountState.ACTIVE),
        Change(NOW - timedelta(days=3), AccountState.SUSPENDED),
        Change(NOW + timedelta(days=3), AccountState.DELETED),
    ]
    bars = past(changes, NOW)
    assert [(b.state, b.planned) for b in bars] == [
        (AccountState.ACTIVE, False),
        (AccountState.SUSPENDED, False),
    ]
    assert bars[0].until == bars[1].start
    assert bars[-1].until == NOW


def test_what_is_purged_has_no_end() -> None:
    bars = past([Change(NOW - timedelta(days=1), AccountState.PURGED)], NOW)
    assert bars == [Bar(AccountState.PURGED, NOW - timedelta(days=1), None)]


def test_a_change_that_lasted_no_moment_is_not_drawn() -> None:
    moment = NOW - timedelta(days=1)
    bars = past([Change(moment, AccountState.SUSPENDED), Change(moment, AccountState.ACTIVE)], NOW)
    assert [b.state for b in bars] == [AccountState.ACTIVE]


@given(
    leaves=st.integers(-40, 200),
    close=st.integers(0, 60),
    window=st.integers(0, 200),
    ahead=st.booleans(),
)
def test_the_future_follows_on_itself_and_ends_in_a_purge(
    leaves: int, close: int, window: int, ahead: bool
) -> None:
    who = person(
        access_ends=NOW + timedelta(days=leaves),
        starts=date(2031, 3, 10) if ahead else None,
    )
    own = None if ahead else account(state=AccountState.ACTIVE)
    bars = future(own, who, application(close_after_days=close, window_days=window), NOW)
    if ahead and leaves <= 7:
        return  # gone before the first day
    assert all(b.planned for b in bars)
    assert bars[-1].state is AccountState.PURGED
    assert bars[-1].until is None
    for one, two in pairwise(bars):
        assert one.until == two.start, bars
        assert one.until is None or one.until >= one.start
    states = [b.state for b in bars]
    order = [AccountState.ACTIVE, AccountState.SUSPENDED, AccountState.DELETED, AccountState.PURGED]
    assert states == sorted(states, key=order.index)


def test_somebody_who_stays_has_one_open_bar() -> None:
    assert future(account(), person(), application(), NOW) == [
        Bar(AccountState.ACTIVE, NOW, None, planned=True)
    ]


def test_a_window_that_is_over_is_drawn_as_over() -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW - timedelta(days=1))
    assert future(gone, person(), application(), NOW) == [
        Bar(AccountState.PURGED, NOW, None, planned=True)
    ]
    assert future(account(state=AccountState.PURGED), person(), application(), NOW) == []


def test_what_comes_is_told_in_sentences_that_say_why() -> None:
    who = person(access_ends=NOW + timedelta(days=4))
    made = world().applications
    lanes = [(made[a], future(account(a), who, made[a], NOW)) for a in ("crew", "reports")]
    lines = upcoming(lanes, NOW)
    assert lines[0].text == "Cut off in Crew, Reports"
    assert lines[0].because == "access ends"
    assert [x.at for x in lines] == sorted(x.at for x in lines)
    deleted = next(x for x in lines if x.text.startswith("Deleted in Crew"))
    assert deleted.because == "7 days after the access ends"
    assert deleted.at == NOW + timedelta(days=11)
    last = next(x for x in lines if x.text.startswith("Crew cannot come back"))
    assert last.at == NOW + timedelta(days=41)
    assert last.because == "window of 30 days"
