"""Somebody at a moment: of each field what came true last, of accounts what was seen until then."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from yugum.core.facts import Fact, Fields
from yugum.core.lifeline import HistoryEntry
from yugum.core.then import AccountThen, accounts_then, fields_then

NOW = {"title": "Purser", "department": "Deck", "phone": None}


def day(number: int) -> datetime:
    return datetime(2031, 3, number, 9, tzinfo=UTC)


def fact(effective: int, known: int, before: Fields, after: Fields) -> Fact:
    return Fact(
        id="f",
        person_id="p",
        effective_at=day(effective),
        known_at=day(known),
        before=before,
        after=after,
        author="iholm",
        reason="",
    )


def changed(effective: int, known: int, before: str, after: str) -> Fact:
    return fact(effective, known, {"title": before}, {"title": after})


def test_what_was_written_of_somebody_merged_in_is_not_theirs() -> None:
    mine = changed(5, 5, "Bosun", "Purser")
    theirs = changed(8, 8, "Cook", "Head cook")
    earlier = changed(2, 2, "Mess hand", "Cook")
    for at, title in ((1, "Bosun"), (4, "Bosun"), (6, "Purser"), (9, "Purser")):
        assert fields_then(NOW, [mine, theirs, earlier], day(at))["title"] == title


def test_one_moment_is_the_same_in_every_zone() -> None:
    now = {"access_ends": "2031-03-09T17:00:00+00:00"}
    end = fact(6, 6, {"access_ends": None}, {"access_ends": "2031-03-09T19:00:00+02:00"})
    assert fields_then(now, [end], day(5)) == {}
    assert "access_ends" in fields_then(now, [end], day(7))


@pytest.mark.parametrize(
    ("at", "title"),
    [(1, "Deckhand"), (4, "Deckhand"), (5, "Bosun"), (9, "Bosun"), (10, "Purser"), (20, "Purser")],
)
def test_a_field_is_what_it_was_made_last_until_then(at: int, title: str) -> None:
    changes = [changed(10, 10, "Bosun", "Purser"), changed(5, 5, "Deckhand", "Bosun")]
    assert fields_then(NOW, changes, day(at)) == {"title": title, "department": "Deck"}


def test_what_became_known_late_counts_from_when_it_was_true() -> None:
    late = changed(3, 12, "Bosun", "Purser")
    between = changed(8, 8, "Deckhand", "Bosun")
    assert fields_then(NOW, [late, between], day(4))["title"] == "Purser"
    assert fields_then(NOW, [late, between], day(2))["title"] == "Bosun"


def test_what_was_empty_then_is_left_out() -> None:
    given = fact(6, 6, {"phone": None, "own.locker": ""}, {"phone": "+00", "own.locker": "17"})
    now = {**NOW, "phone": "+00", "own.locker": "17"}
    assert "phone" not in fields_then(now, [given], day(5))
    assert "own.locker" not in fields_then(now, [given], day(5))
    assert fields_then(now, [given], day(6))["own.locker"] == "17"


def test_accounts_held_what_was_seen_from_then_until_before_the_end() -> None:
    def held(
        account: str, kind: str, item: str, begin: int, end: int | None = None
    ) -> HistoryEntry:
        return HistoryEntry(
            account_id=account,
            kind=kind,
            item=item,
            from_at=day(begin),
            until_at=day(end) if end else None,
        )

    history = [
        held("a", "state", "active", 2, 7),
        held("a", "state", "suspended", 7),
        held("a", "entitlement", "rosters", 3, 7),
        held("a", "entitlement", "boards", 2),
        held("a", "seat", "planner", 4, 6),
        held("b", "entitlement", "orphan of an account not seen yet", 2),
        held("b", "state", "active", 5),
    ]
    assert accounts_then(history, day(1)) == []
    assert accounts_then(history, day(4)) == [
        AccountThen("a", "active", ["boards", "rosters"], ["planner"])
    ]
    assert accounts_then(history, day(7))[0] == AccountThen("a", "suspended", ["boards"], [])
    assert {a.account_id for a in accounts_then(history, day(7))} == {"a", "b"}
