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
from yugum.core.coming import Dated, coming, future
from yugum.core.decisions import Decision, DecisionKind, Payload, Right
from yugum.core.desired import Subject, World
from yugum.core.lifeline import Bar, Change, past
from yugum.core.obligations import Owed, owed
from yugum.core.people import start_moment
from yugum.core.rights import Said, Turn, rights, turns, with_persons
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
    assert close_due(NOW, made, "UTC") == NOW + timedelta(days=7)
    assert setting_ends(NOW, made, "UTC") == {
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
    back, again = owed(leaver(deleted, decisions=(hold(),)), world(), NOW)
    assert (back.kind, back.due) == ("purge", NOW)
    assert (again.kind, again.due) == ("recheck", NOW + timedelta(days=11))
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
    ended = Right(account_id="a-crew", since=LEFT, until=LEFT)
    ledger = {("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck")}
    ruled = replace(one, ledger=ledger, rights={"a-crew": ended})
    for later in (NOW, NOW + timedelta(days=300)):
        assert kinds(owed(ruled, world(), later)) == {"close": LEFT + timedelta(days=7)}


@pytest.mark.parametrize("kind", [AccountKind.SHARED, AccountKind.SERVICE])
def test_shared_and_service_accounts_are_not_closed_behind_their_owner(kind: AccountKind) -> None:
    assert owed(leaver(account(kind=kind, state=AccountState.ACTIVE)), world(), NOW) == ()


def test_a_close_that_was_missed_is_due_since_its_day_whenever_one_looks() -> None:
    long_ago = NOW - timedelta(days=200)
    late = subject(
        person=person(access_ends=long_ago), accounts=(account(state=AccountState.SUSPENDED),)
    )
    for later in (NOW, NOW + timedelta(days=90)):
        assert kinds(owed(late, world(), later))["close"] == long_ago + timedelta(days=7)


def test_what_is_known_late_is_closed_a_day_after_that_at_the_earliest() -> None:
    late = subject(
        person=person(access_ends=NOW - timedelta(days=60)),
        accounts=(account(state=AccountState.SUSPENDED),),
        end_known_at=NOW - timedelta(days=2),
    )
    assert kinds(owed(late, world(), NOW))["close"] == NOW - timedelta(days=1)
    patient = replace(world(), rules=replace(world().rules, grace_hours=100.0))
    assert kinds(owed(late, patient, NOW))["close"] == NOW + timedelta(hours=52)
    in_time = replace(late, end_known_at=NOW - timedelta(days=59, hours=23))
    assert kinds(owed(in_time, world(), NOW))["close"] == NOW - timedelta(days=53)


def test_delays_are_calendar_days_and_windows_hours() -> None:
    ends = datetime(2031, 3, 28, 15, tzinfo=UTC)  # clocks go forward on the 30th
    who = person(access_ends=ends, time_zone="Europe/Helsinki")
    one = subject(person=who, accounts=(account(state=AccountState.SUSPENDED),))
    later = ends + timedelta(days=1)
    assert kinds(owed(one, world(), later))["close"] == datetime(2031, 4, 4, 14, tzinfo=UTC)
    assert recoverable_until(ends, application(window_days=7)) == ends + timedelta(hours=168)


def test_a_right_ends_with_the_fact_that_ended_it_and_its_end_never_moves() -> None:
    moved = NOW - timedelta(days=3)
    ledger = {("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck")}
    mine = Right(account_id="a-crew", since=NOW - timedelta(days=90))
    one = subject(
        person=person(department="Kitchen"),
        accounts=(account(),),
        ledger=ledger,
        rights={"a-crew": mine},
    )
    changed = turns(one, world(), [Turn(moved, NOW - timedelta(hours=1))], NOW, NOW)
    (ended,) = rights(one, world(), changed, NOW)
    assert (ended.since, ended.until) == (mine.since, moved)
    assert ended.known_at == NOW - timedelta(hours=1), "it was known late"
    again = replace(one, rights={"a-crew": ended})
    for days in (1, 40):
        later = NOW + timedelta(days=days)
        assert rights(again, world(), [Turn(later, later)], later) == (ended,)
    back = replace(again, person=person())
    (fresh,) = rights(back, world(), [Turn(NOW, NOW)], NOW + timedelta(days=1))
    assert (fresh.since, fresh.until) == (NOW, None), "being given again is a right of its own"
    earlier = [Turn(moved - timedelta(days=1), moved), Turn(NOW, NOW)]
    (fresh,) = rights(back, world(), earlier, NOW)
    assert fresh.since == moved, "it begins no sooner than the one before has ended"


def test_what_is_learned_late_counts_what_came_between_as_well() -> None:
    """It came true before an exception ended, and the exception gave the account until then."""
    moved, ended = NOW - timedelta(days=9), NOW - timedelta(days=4)
    exception = Decision(
        id="d",
        subject_id="p1",
        kind=DecisionKind.GRANT,
        payload=Payload(application="crew", kind=HoldingKind.ENTITLEMENT, item="deck"),
        ends=ended,
        made=NOW - timedelta(days=20),
    )
    one = subject(
        person=person(department="Kitchen"), accounts=(account(),), decisions=(exception,)
    )
    one = replace(
        one, rights={"a-crew": Right(account_id="a-crew", since=NOW - timedelta(days=90))}
    )
    changed = turns(one, world(), [Turn(moved, NOW)], NOW - timedelta(days=1), NOW)
    (right,) = rights(one, world(), changed, NOW)
    assert (right.until, right.known_at) == (ended, NOW)
    later = replace(one, decisions=(replace(exception, made=NOW, ends=NOW),))
    (right,) = rights(later, world(), turns(later, world(), [Turn(moved, NOW)], NOW, NOW), NOW)
    assert right.until == moved, "what was settled afterwards gave nothing before"


def test_what_was_told_earlier_counts_with_who_somebody_was_then() -> None:
    """Of two moves since the last look the later one ended the right, whatever the look has seen."""
    first, second = NOW - timedelta(days=9), NOW - timedelta(days=4)
    facts = [
        Said(first, first, {"department": "Deck"}, {"department": "Timetables"}),
        Said(second, second, {"department": "Timetables"}, {"department": "Kitchen"}),
    ]
    mine = Right(account_id="a-crew", since=NOW - timedelta(days=90))
    ends = {"access_ends": NOW - timedelta(days=1)}
    one = subject(person=person(department="Kitchen", **ends), accounts=(account(),))
    one = replace(one, rights={"a-crew": mine})
    moments = turns(one, world(), [Turn(f.at, f.known_at) for f in facts], first, NOW)
    told = with_persons(moments, facts, one.person)
    (right,) = rights(one, world(), told, NOW)
    assert right.until == second
    (without,) = rights(one, world(), moments, NOW)
    assert without.until == first, "who they are now had no right then either"
    assert {t.was.access_ends for t in told if t.was} == {one.person.access_ends}, "dates stay"


def test_nothing_counts_from_before_somebody_was_known_but_their_own_dates() -> None:
    made, starts = NOW - timedelta(hours=1), NOW.date() - timedelta(days=3)
    settled = replace(world(), rules=replace(world().rules, since=NOW - timedelta(days=50)))
    one = subject(person=person(starts=starts))
    found = [
        t.at for t in turns(one, settled, [Turn(made, made)], NOW - timedelta(days=99), NOW, made)
    ]
    assert found == [start_moment(one.person), made]


@pytest.mark.parametrize("looked", [NOW - timedelta(days=2), NOW])
def test_a_first_day_back_that_is_today_began_when_it_was_told(looked: datetime) -> None:
    """However long ago anybody looked at them: in the morning they were not to have anything yet."""
    back = subject(person=person(starts=NOW.date()))
    begun = start_moment(back.person)
    assert begun is not None
    assert begun < NOW
    found = turns(back, world(), [Turn(NOW, NOW, begins=True)], looked, NOW)
    assert {t.at for t in found} == {NOW}
    assert begun in {t.at for t in turns(back, world(), [], NOW - timedelta(days=2), NOW)}


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


def life(own: Account, one: Subject | None = None) -> list[Bar]:
    return future(one or subject(accounts=(own,)), world(), application(), own, NOW)


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
    made = with_crew(close_after_days=close, window_days=window)
    one = subject(person=who, accounts=(own,) if own else ())
    bars = future(one, made, made.applications["crew"], own, NOW)
    if ahead and leaves <= 7:
        return  # gone before the first day
    assert all(b.planned for b in bars)
    assert bars[-1].state is AccountState.PURGED
    assert bars[-1].until is None
    for first, second in pairwise(bars):
        assert first.until == second.start, bars
        assert first.until is None or first.until >= first.start
    states = [b.state for b in bars]
    order = [AccountState.ACTIVE, AccountState.SUSPENDED, AccountState.DELETED, AccountState.PURGED]
    assert states == sorted(states, key=order.index)


def test_somebody_who_stays_has_one_open_bar() -> None:
    assert life(account()) == [Bar(AccountState.ACTIVE, NOW, None, planned=True)]


def test_a_window_that_is_over_is_drawn_as_over() -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW - timedelta(days=1))
    (bar,) = life(gone)
    assert (bar.state, bar.start, bar.until) == (AccountState.PURGED, NOW, None)
    assert life(account(state=AccountState.PURGED)) == []


def test_under_a_hold_nothing_is_promised_to_go() -> None:
    for ends in (None, NOW + timedelta(days=900)):
        held = subject(
            person=person(access_ends=NOW + timedelta(days=4)),
            accounts=(account(),),
            decisions=(hold(ends),),
        )
        bars = life(account(), held)
        first = [b.start for b in bars if b.state in (AccountState.DELETED, AccountState.PURGED)]
        assert all(ends is not None and start >= ends for start in first)
        assert bool(first) is (ends is not None)
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=3))
    states = [b.state for b in life(gone, subject(accounts=(gone,), decisions=(hold(),)))]
    assert AccountState.PURGED not in states


def test_what_a_mover_loses_and_gains_and_a_docket_with_its_date_are_told() -> None:
    overlap = Decision(
        id="o",
        subject_id="p1",
        kind=DecisionKind.ROLE,
        payload=Payload(role="Deck"),
        reason="overlap of 14 days after the move",
        ends=NOW + timedelta(days=14),
    )
    ledger = {(f"a-{a}", HoldingKind.ACCOUNT, ""): by_role("Deck") for a in ("crew", "reports")}
    one = subject(
        person=person(department="Timetables"),
        accounts=(account(), account("reports")),
        decisions=(overlap,),
        ledger=ledger,
    )
    lanes = [(a, future(one, world(), a, account(i), NOW)) for i, a in world().applications.items()]
    move = Dated(NOW + timedelta(days=2), 321, "Mover docket begins", "new post")
    lines = coming(one, world(), lanes, [move], NOW)
    assert [(x.at - NOW, x.text) for x in lines] == [
        (timedelta(days=2), "Mover docket begins"),
        (timedelta(days=14), "Cut off in Reports"),
        (timedelta(days=14), "deck taken away in Crew"),
        (timedelta(days=28), "Deleted in Reports, can come back"),
        (timedelta(days=56), "Reports cannot come back after this moment"),
    ]
    assert lines[0].docket == 321
    assert "overlap of 14 days" in lines[1].because


def test_what_comes_is_told_in_sentences_that_say_why() -> None:
    who = person(access_ends=NOW + timedelta(days=4))
    made = world().applications
    one = subject(person=who, accounts=(account(), account("reports")))
    lanes = [
        (made[a.application_id], future(one, world(), made[a.application_id], a, NOW))
        for a in one.accounts
    ]
    lines = coming(one, world(), lanes, (), NOW)
    assert lines[0].text == "Cut off in Crew, Reports"
    assert lines[0].because == "access ends"
    assert [x.at for x in lines] == sorted(x.at for x in lines)
    deleted = next(x for x in lines if x.text.startswith("Deleted in Crew"))
    assert deleted.because == "7 days after the access ends"
    assert deleted.at == NOW + timedelta(days=11)
    last = next(x for x in lines if x.text.startswith("Crew cannot come back"))
    assert last.at == NOW + timedelta(days=41)
    assert last.because == "window of 30 days"
