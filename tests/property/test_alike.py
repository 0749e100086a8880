"""Who may be told what another is told: only whoever nothing of their own, and no moment, sets apart."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

import pytest

from tests.builders import NOW, account, by_role, person, role, subject, world
from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.actions import Phase
from yugum.core.alike import LONGEST_SHUT, settled_in, timeless
from yugum.core.decisions import FOUND, Decision, DecisionKind
from yugum.core.desired import Subject, World
from yugum.core.lines import NOTHING
from yugum.core.offsets import parse_offset
from yugum.core.roles import OwnStep, Procedure
from yugum.core.standing import keys, standing
from yugum.core.verbs import Verb

DAY = timedelta(days=1)
FIRST = NOW - 2 * DAY
ACCOUNT, GROUP, SEAT, SETTING = HoldingKind


def ruled() -> World:
    """Deck gives groups and a seat, Bridge a setting; crew sets a leaver's accounts to something."""
    made = world()
    bridge = role("Bridge", "Bridge", ("crew", ACCOUNT, ""), ("crew", SETTING, "sign"))
    signs = replace(bridge, gives=(bridge.gives[0], replace(bridge.gives[1], value="{title}")))
    crew = made.applications["crew"]
    profile = replace(
        crew.profile,
        standard_settings={"reply": "yours, {name}"},
        leaver_settings={"reply": "{name} has left"},
    )
    applications = {**made.applications, "crew": replace(crew, profile=profile)}
    rules = replace(made.rules, roles=(*made.rules.roles, signs), since=NOW - 60 * DAY)
    return replace(made, rules=rules, applications=applications)


WORLD = ruled()


def one(
    number: int = 1, *, held: str = "", origin: Any = None, kind: Any = None, **more: Any
) -> Subject:
    """Somebody of Deck with an account in crew that their role gave, if nothing else is said."""
    names = {"id": f"p{number}", "user_name": f"u{number}", "display_name": f"Bo {number}"}
    own = {k: more.pop(k) for k in ("state", "sessions", "settings") if k in more}
    application = more.pop("application", "crew")
    mine = account(application, id=f"a-{number}", entitlements=frozenset([held]) - {""}, **own)
    ledger = {(mine.id, ACCOUNT, ""): by_role("Deck") if origin is None else origin}
    if kind is not None:
        ledger[mine.id, kind, "sign"] = by_role("Deck")
    made = {k: more.pop(k) for k in ("decisions", "is_person") if k in more}
    return subject(person=person(**names, **more), accounts=(mine,), ledger=ledger, **made)


GRANT = Decision(id="d", subject_id="p1", kind=DecisionKind.GRANT, starts=NOW - 9 * DAY)
APART: dict[str, tuple[dict[str, Any], bool]] = {
    "nothing": ({}, True),
    "a group found there": ({"held": "mess"}, True),
    "an account found there that nothing gives": ({"department": "Kitchen", "origin": FOUND}, True),
    "an account that nothing gives any more": ({"department": "Kitchen"}, False),
    "a decision": ({"decisions": (GRANT,)}, False),
    "nobody behind it": ({"is_person": False}, False),
    "an absence": ({"absent_from": NOW + DAY}, False),
    "an end": ({"access_ends": NOW + DAY}, False),
    "a first day long ago": ({"starts": (FIRST - 9 * DAY).date()}, True),
    "a first day in between": ({"starts": (NOW - DAY / 2).date()}, False),
    "a first day to come": ({"starts": (NOW + DAY).date()}, False),
    "a setting of a role": ({"department": "Bridge"}, False),
    "a setting that a role gave": ({"kind": SETTING}, False),
    "a seat that a role gave": ({"kind": SEAT}, True),
    "set back from what a leaver's is": ({"state": AccountState.SUSPENDED}, False),
    "suspended where that sets nothing": (
        {"state": AccountState.SUSPENDED, "application": "reports"},
        True,
    ),
}


@pytest.mark.parametrize("what", APART)
def test_what_sets_somebody_apart(what: str) -> None:
    more, together = APART[what]
    assert timeless(one(**more), WORLD, FIRST, NOW) is together


@pytest.mark.parametrize("what", [what for what, (_, together) in APART.items() if together])
def test_who_is_not_apart_has_the_same_at_every_moment_whoever_they_are(what: str) -> None:
    first, second = one(1, **APART[what][0]), one(2, **APART[what][0])
    now = keys(first, WORLD, NOW)
    assert all(keys(first, WORLD, FIRST + n * (NOW - FIRST) / 9) == now for n in range(9))
    moved = [
        replace(line, account_id=line.account_id and "a-2")
        for line in standing(first, WORLD, NOTHING, NOW)
    ]
    assert moved == list(standing(second, WORLD, NOTHING, NOW))


def with_step(at: str | None, *, since: datetime | None = WORLD.rules.since) -> World:
    step = OwnStep("call", "desk", Phase.ACCESS, at=parse_offset(at) if at else None)
    procedures = {Verb.JOINER: Procedure(steps=(step,))}
    rules = replace(WORLD.rules, procedures=procedures, since=since)
    return replace(WORLD, rules=rules)


def test_whoever_has_a_step_to_come_is_not_settled() -> None:
    since = WORLD.rules.since
    assert since is not None
    edge = since - LONGEST_SHUT - timedelta(days=9)
    later = with_step("starts +9d")
    assert settled_in(edge - DAY, later, FIRST)
    assert not settled_in(edge, later, FIRST)
    assert not settled_in(edge - DAY, with_step("starts +9d", since=None), FIRST)
    assert settled_in(None, later, FIRST)
    assert settled_in(FIRST - DAY, with_step(None), FIRST), "it runs with the docket itself"
    ahead = with_step("starts -9d")
    assert settled_in(since - LONGEST_SHUT - DAY, ahead, FIRST)
    assert not settled_in(since - LONGEST_SHUT, ahead, FIRST), "one ahead of the day is no excuse"
    other = with_step("last_working_day -1d")
    assert not settled_in(edge - 99 * DAY, other, FIRST), "of that date nothing is known"
    assert not settled_in(FIRST, WORLD, FIRST)
    assert settled_in(FIRST - DAY, WORLD, FIRST)
