"""Lifelines, windows, facts and the Merkle log: the pure pieces."""

from __future__ import annotations

import hashlib
import itertools
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import account, asset, by_role, person, subject, world
from yugum.core import merkle
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, describe
from yugum.core.actions.registry import is_fulfilled, observed_facet
from yugum.core.applications import Application, Capability, Deletion, effective_deletion
from yugum.core.coming import coming, future
from yugum.core.facts import difference, taken_back, with_fields
from yugum.core.lifeline import Change, past
from yugum.core.people import PersonState, state_at
from yugum.core.projection import project
from yugum.core.verbs import Verb
from yugum.core.windows import can_come_back, close_due, recoverable_until
from yugum.errors import InvalidInput

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
CREW = world().applications["crew"]
REPORTS = world().applications["reports"]


def test_the_end_of_access_is_the_first_moment_outside() -> None:
    ends = NOW + timedelta(days=1)
    who = person(access_ends=ends)
    assert state_at(who, ends - timedelta(seconds=1)) is PersonState.ACTIVE
    assert state_at(who, ends) is PersonState.LEFT


def test_a_first_day_begins_at_midnight_in_the_persons_zone() -> None:
    who = person(starts=date(2031, 3, 10), time_zone="Pacific/Kiritimati")
    midnight = datetime(2031, 3, 9, 10, 0, tzinfo=UTC)
    assert state_at(who, midnight - timedelta(seconds=1)) is PersonState.EXPECTED
    assert state_at(who, midnight) is PersonState.ACTIVE


def test_windows_end_at_their_exact_moment() -> None:
    until = recoverable_until(NOW, CREW)
    assert until == NOW + timedelta(days=30)
    gone = account(state=AccountState.DELETED, recoverable_until=until)
    assert can_come_back(gone, until - timedelta(seconds=1))
    assert not can_come_back(gone, until)
    assert close_due(NOW, CREW, "UTC") == NOW + timedelta(days=7)


@pytest.mark.parametrize(
    ("can", "wanted"),
    [
        (frozenset(Capability), Deletion.RECOVERABLE),
        (frozenset(Capability) - {Capability.RESTORE}, Deletion.PARK),
        (frozenset({Capability.DELETE}), Deletion.FINAL),
    ],
)
def test_a_deletion_goes_as_far_as_discovery_allows(
    can: frozenset[Capability], wanted: Deletion
) -> None:
    found = Application(id="x", name="X", kind="scim", capabilities=can)
    assert effective_deletion(found) is wanted


def test_a_lifeline_runs_from_the_past_over_now_to_the_purge() -> None:
    who = person(access_ends=NOW + timedelta(days=4))
    one = subject(person=who, accounts=(account(), account("reports")))
    bars = [
        *past([Change(NOW - timedelta(days=9), AccountState.ACTIVE)], NOW),
        *future(one, world(), CREW, one.accounts[0], NOW),
    ]
    assert [(b.state.value, b.planned) for b in bars] == [
        ("active", False),
        ("active", True),
        ("suspended", True),
        ("deleted", True),
        ("purged", True),
    ]
    for before, after in itertools.pairwise(bars):
        assert before.until == after.start
    others = future(one, world(), REPORTS, one.accounts[1], NOW)
    lines = coming(one, world(), [(CREW, bars), (REPORTS, others)], (), NOW)
    assert lines[0].text == "Cut off in Crew, Reports"
    assert lines[0].at == who.access_ends
    assert [line.at for line in lines] == sorted(line.at for line in lines)


def test_a_newcomers_lifeline_begins_on_the_first_day() -> None:
    one = subject(person=person(starts=date(2031, 3, 10)))
    bars = future(one, world(), CREW, None, NOW)
    assert [b.state for b in bars] == [AccountState.ACTIVE]
    assert coming(one, world(), [(CREW, bars)], (), NOW)[0].text == "Account in Crew"
    assert future(one, world(), CREW, account(state=AccountState.PURGED), NOW) == []


def seen(**more: Any) -> Observed:
    return Observed(**{"external_id": "x", "login": "m", "state": AccountState.ACTIVE, **more})


@pytest.mark.parametrize(
    ("action", "item", "found", "wanted"),
    [
        (Action.CUT_OFF, "", seen(state=AccountState.SUSPENDED, sessions=1), False),
        (Action.CUT_OFF, "", seen(state=AccountState.SUSPENDED), True),
        (Action.CUT_OFF, "", None, True),
        (Action.CREATE, "", seen(state=AccountState.DELETED), False),
        (Action.RESUME, "", seen(), True),
        (Action.GRANT, "deck", seen(entitlements=frozenset({"deck"})), True),
        (Action.GRANT, "deck", None, False),
        (Action.TAKE_SEAT, "p", seen(seats=None), False),
        (Action.FREE_SEAT, "p", seen(seats=frozenset({"p"})), False),
        (Action.TRANSFER, "roster", seen(assets=(asset("r1"),)), False),
        (Action.TRANSFER, "roster", seen(assets=None), False),
        (Action.TRANSFER, "table", seen(assets=(asset("r1"),)), True),
        (Action.PURGE, "", seen(state=AccountState.DELETED), False),
        (Action.SET_CREDENTIAL, "", seen(), False),
    ],
)
def test_a_wish_is_fulfilled_by_what_is_seen(
    action: Action, item: str, found: Observed | None, wanted: bool
) -> None:
    assert is_fulfilled(action, item, found, NO_ARGUMENTS) is wanted


def test_an_effect_is_told_in_words() -> None:
    before = observed_facet(Action.CUT_OFF, "", seen(sessions=2))
    after = observed_facet(Action.CUT_OFF, "", seen(state=AccountState.SUSPENDED))
    assert describe(before, after) == "active, 2 sessions → suspended"


def test_what_is_not_seen_any_more_is_purged_and_seats_we_keep_stay() -> None:
    held = account(seats=frozenset({"user"}), assets=(asset("r1"),))
    kept = project(held, seen(seats=None, assets=None), NOW)
    assert (kept.seats, kept.assets) == (held.seats, held.assets)
    gone = project(held, None, NOW)
    assert (gone.state, gone.seats, gone.assets) == (AccountState.PURGED, frozenset(), ())
    deleted = project(held, seen(state=AccountState.DELETED), NOW, application=CREW)
    assert deleted.recoverable_until == NOW + timedelta(days=30)


def test_a_fact_is_taken_back_only_where_it_still_stands() -> None:
    before = person(title="Deckhand", site="Oxhaven")
    after = replace(before, title="Bosun", site="Brae Point")
    was, becomes = difference(before, after)
    assert taken_back(after, was, becomes) == before
    since = replace(after, site="Little Skarra")
    assert taken_back(since, was, becomes) == replace(before, site="Little Skarra")


@pytest.mark.parametrize(
    "document", [{"salary": "1"}, {"starts": "10.3.2031"}, {"access_ends": "2031-03-03T10:00"}]
)
def test_unknown_fields_and_unclear_dates_are_refused(document: dict[str, str]) -> None:
    with pytest.raises(InvalidInput) as caught:
        with_fields(person(), document)
    assert caught.value.place == next(iter(document))


@settings(deadline=None)
@given(st.lists(st.binary(max_size=8), max_size=40))
def test_the_frontier_gives_the_root_of_the_whole_tree(leaves: list[bytes]) -> None:
    """Against the recursive definition of RFC 9162 2.1.1."""

    def tree(entries: list[bytes]) -> bytes:
        if not entries:
            return hashlib.sha256(b"").digest()
        if len(entries) == 1:
            return entries[0]
        split = 1
        while split * 2 < len(entries):
            split *= 2
        return merkle.node_hash(tree(entries[:split]), tree(entries[split:]))

    hashed = [merkle.leaf_hash(entry) for entry in leaves]
    assert merkle.root_of(hashed) == tree(hashed)


def test_a_role_that_ends_takes_the_account_too() -> None:
    from yugum.core.planning import plan_subject

    held = account("reports", entitlements=frozenset({"deck_reports"}))
    ledger = {
        ("a-reports", "account", ""): by_role("Deck"),
        ("a-reports", "entitlement", "deck_reports"): by_role("Deck"),
    }
    moved = subject(person=person(department="Timetables"), accounts=(held,), ledger=ledger)
    steps = [
        (s.application_id, s.action) for s in plan_subject(moved, world(), NOW, Verb.MOVER).steps
    ]
    assert ("reports", Action.CUT_OFF) in steps
    assert ("reports", Action.REVOKE) in steps
