"""Somebody at a moment: of each field what came true last, of accounts what was seen until then."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from yugum.core.then import AccountThen, FieldsChanged, Held, accounts_then, fields_then

NOW = {"title": "Purser", "department": "Deck", "phone": None}


def day(number: int) -> datetime:
    return datetime(2031, 3, number, 9, tzinfo=UTC)


def changed(effective: int, known: int, before: str, after: str) -> FieldsChanged:
    return FieldsChanged(day(effective), day(known), {"title": before}, {"title": after})


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
    given = FieldsChanged(
        day(6), day(6), {"phone": None, "own.locker": ""}, {"phone": "+00", "own.locker": "17"}
    )
    now = {**NOW, "phone": "+00", "own.locker": "17"}
    assert "phone" not in fields_then(now, [given], day(5))
    assert "own.locker" not in fields_then(now, [given], day(5))
    assert fields_then(now, [given], day(6))["own.locker"] == "17"


def test_accounts_held_what_was_seen_from_then_until_before_the_end() -> None:
    def held(account: str, kind: str, item: str, begin: int, end: int | None = None) -> Held:
        return Held(account, kind, item, day(begin), day(end) if end else None)

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
