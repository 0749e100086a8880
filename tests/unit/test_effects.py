"""What an application shows of a step, and what is kept of it: for every action."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import account, asset, world
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, PHASE_ORDER, Action, Arguments, Facet, Phase, describe
from yugum.core.actions.registry import ACTIONS, is_fulfilled, observed_facet
from yugum.core.projection import project
from yugum.ports.connectors import AccountRef
from yugum.testing import MemoryConnector

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
LATER = NOW + timedelta(days=30)


def seen(**more: Any) -> Observed:
    return Observed(
        **{
            "external_id": "x",
            "login": "mquill",
            "state": AccountState.ACTIVE,
            "seats": frozenset(),
            **more,
        }
    )


OPEN, SHUT = seen(), seen(state=AccountState.SUSPENDED)
DELETED = seen(state=AccountState.DELETED, recoverable_until=LATER)
ARCHIVED = seen(state=AccountState.ARCHIVED)


def test_every_action_has_a_place_and_none_both_adds_and_takes() -> None:
    assert set(ACTIONS) == set(Action)
    assert set(PHASE_ORDER) == set(Phase)
    specs = list(ACTIONS.values())
    assert not [s.action for s in specs if s.adds and s.takes], "nothing both adds and takes away"
    assert not ACTIONS[Action.CUT_OFF].takes, "no ceiling holds up a cut-off"
    assert [a for a in Action if ACTIONS[a].irreversible] == [Action.PURGE]
    assert [a for a in Action if ACTIONS[a].lists_assets] == [Action.TRANSFER, Action.CALL_OFF]


@pytest.mark.parametrize("action", list(Action))
def test_a_receipt_tells_before_and_after_in_words(action: Action) -> None:
    before = observed_facet(action, "deck", OPEN)
    after = observed_facet(action, "deck", None)
    assert after == Facet(account="none")
    text = describe(before, after)
    assert " → " in text
    assert not text.startswith(" → "), text
    assert "{" not in text


def test_a_cut_off_is_told_with_the_ways_in_that_were_open() -> None:
    before = observed_facet(Action.CUT_OFF, "", replace(OPEN, sessions=2, keys=1))
    text = describe(before, observed_facet(Action.CUT_OFF, "", SHUT))
    assert text == "active, 2 sessions, 1 key → suspended"


# --- what is kept of what was seen ---------------------------------------------------------

STATES = st.sampled_from(list(AccountState))
NAMES = st.frozensets(st.sampled_from(["a", "b", "c"]))


@given(
    state=STATES,
    held=NAMES,
    seats=st.none() | NAMES,
    sessions=st.integers(0, 3),
    until=st.sampled_from([None, LATER]),
)
def test_what_is_kept_is_what_was_seen(
    state: AccountState,
    held: frozenset[str],
    seats: frozenset[str] | None,
    sessions: int,
    until: datetime | None,
) -> None:
    before = account(seats=frozenset({"z"}), entitlements=frozenset({"old"}))
    shown = seen(
        state=state, entitlements=held, seats=seats, sessions=sessions, recoverable_until=until
    )
    after = project(before, shown, NOW, application=world().applications["crew"])
    assert (after.id, after.person_id) == (before.id, before.person_id)
    assert (after.state, after.entitlements, after.sessions) == (state, held, sessions)
    assert after.seats == (before.seats if seats is None else seats), "kept where none are told"
    if state is AccountState.DELETED:
        assert after.recoverable_until == LATER, "as told, else as the profile says"
    else:
        assert after.recoverable_until is None
    assert project(after, shown, NOW) == after, "seeing the same again changes nothing"


def test_what_is_not_there_any_more_is_purged_with_all_it_held() -> None:
    before = account(
        seats=frozenset({"z"}), entitlements=frozenset({"old"}), sessions=2, assets=(asset("r"),)
    )
    after = project(before, None, NOW)
    assert after.state is AccountState.PURGED
    left = (after.seats, after.entitlements, after.sessions, after.assets)
    assert left == (frozenset(), frozenset(), 0, ())
    assert after.login == before.login, "whose it was is still known"


def test_the_end_of_a_window_that_is_known_is_not_moved_by_looking_again() -> None:
    known = account(state=AccountState.DELETED, recoverable_until=LATER)
    silent = seen(state=AccountState.DELETED)
    later = NOW + timedelta(days=9)
    after = project(known, silent, later, application=world().applications["crew"])
    assert after.recoverable_until == LATER


ORDER = [
    (Action.GRANT, "Staff"),
    (Action.TAKE_SEAT, MemoryConnector.LICENSE),
    (Action.RENAME, "mberg"),
    (Action.REVOKE, "Staff"),
    (Action.FREE_SEAT, MemoryConnector.LICENSE),
    (Action.LOCK, ""),
    (Action.CUT_OFF, ""),
    (Action.END_DEVICES, ""),
    (Action.DELETE, ""),
    (Action.RESTORE, ""),
    (Action.RESUME, ""),
    (Action.CUT_OFF, ""),
    (Action.DELETE, ""),
    (Action.PURGE, ""),
]


def test_an_action_makes_its_wish_come_true_and_can_be_repeated() -> None:
    """Through a life of an account: not so before, so afterwards, and so after once more."""

    async def live() -> None:
        connector = MemoryConnector()
        ref = AccountRef("a1", "", "mquill")
        assert not is_fulfilled(Action.CREATE, "", await connector.observe(ref), NO_ARGUMENTS)
        did = await connector.act(Action.CREATE, ref, "", Arguments(login="mquill"))
        ref = AccountRef("a1", did.external_id, "mquill")
        for action, item in ORDER:
            assert not is_fulfilled(action, item, await connector.observe(ref), NO_ARGUMENTS), (
                action
            )
            for _ in range(2):
                await connector.act(action, ref, item, NO_ARGUMENTS)
                assert is_fulfilled(action, item, await connector.observe(ref), NO_ARGUMENTS), (
                    action
                )

    asyncio.run(live())
