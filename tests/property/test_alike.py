"""What is said of all who are alike is what each of them, looked at alone, would be told."""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Sequence
from dataclasses import replace
from datetime import timedelta
from itertools import product

from tests.builders import NOW, account, by_role, person, role, subject, world
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.alike import moved, shape, timeless
from yugum.core.decisions import FOUND, Right
from yugum.core.desired import Subject, World
from yugum.core.lines import NOTHING, Line
from yugum.core.roles import Earlier
from yugum.core.standing import standing

ACCOUNT, GROUP, SEAT, SETTING = HoldingKind
CHANGED = NOW - timedelta(days=100)
"""When what Deck gives changed, for those who begin after it only."""


def ruled() -> World:
    """Roles that give by when somebody began, and settings with the name of whoever has them."""
    made = world()
    deck, other = made.rules.roles
    before = tuple(g for g in deck.gives if g.kind is not SEAT)
    bridge = role("Bridge", "Bridge", ("crew", ACCOUNT, ""), ("crew", SETTING, "sign"))
    signs = replace(bridge, gives=(bridge.gives[0], replace(bridge.gives[1], value="{title}")))
    rules = replace(
        made.rules,
        roles=(replace(deck, earlier=(Earlier(CHANGED, before),)), other, signs),
    )
    crew = made.applications["crew"]
    profile = replace(
        crew.profile,
        standard_settings={"reply": "yours, {name}"},
        leaver_settings={"reply": "{name} has left"},
    )
    applications = {**made.applications, "crew": replace(crew, profile=profile)}
    return replace(made, rules=rules, applications=applications)


WORLD = ruled()


def everybody() -> Iterator[Subject]:
    """One of each there can be, in what may differ between people of few roles."""
    days = (None, CHANGED.date() - timedelta(days=9), CHANGED.date() + timedelta(days=9))
    for number, (department, began, title) in enumerate(
        product(["Deck", "Bridge", "Kitchen"], days, ["Mate", "Cook"])
    ):
        names = {"id": f"p{number}", "user_name": f"u{number}", "display_name": f"Bo {number}"}
        made = person(**names, department=department, starts=began, title=title)
        yield subject(person=made)
        for mine, origin, ended in product(accounts(number), ORIGINS, ENDS):
            right = Right(account_id=mine.id, since=CHANGED, until=ended)
            yield subject(
                person=made,
                accounts=(mine,),
                ledger={(mine.id, ACCOUNT, ""): origin},
                rights={mine.id: right},
            )


ORIGINS = (FOUND, by_role("Deck"))
ENDS = (None, NOW - timedelta(days=2), NOW - timedelta(days=20))


def accounts(number: int) -> Iterator[Account]:
    states = (AccountState.ACTIVE, AccountState.SUSPENDED)
    groups, seats = ("", "deck", "mess"), ("", "planner")
    for state, sessions, held, taken in product(states, (0, 1, 2), groups, seats):
        yield account(
            id=f"a-{number}",
            login=f"u{number}",
            state=state,
            sessions=sessions,
            entitlements=frozenset(filter(None, [held])),
            seats=frozenset(filter(None, [taken])),
        )


def test_people_of_one_shape_have_the_same_lines() -> None:
    known: dict[Hashable, tuple[Subject, Sequence[Line]]] = {}
    shared = 0
    for one in everybody():
        if not timeless(one, WORLD, NOW - timedelta(days=1), NOW):
            continue
        alone = list(standing(one, WORLD, NOTHING, NOW))
        first, lines = known.setdefault(shape(one, WORLD), (one, alone))
        shared += first is not one
        assert moved(lines, first, one) == alone, (first, one)
    assert shared > len(known), "most are said of somebody else"
