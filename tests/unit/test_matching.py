"""Matching rules, changes made outside, tasks, reverts: pure functions."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

import pytest

from tests.builders import subject, world
from yugum.core.accounts import Account, AccountKind, AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.core.applications import Application, Profile, Trust
from yugum.core.deviations import Deviation, DeviationKind, deviations
from yugum.core.drafts import Draft
from yugum.core.matching import CERTAIN, Candidate, Candidates
from yugum.core.readings import is_fall, whole_site
from yugum.core.reverts import plan_revert
from yugum.core.tasks import after_task, instructions
from yugum.engine.files import parse_accounts
from yugum.errors import Conflict

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def candidate(number: str, **more: str) -> Candidate:
    values = {
        "id": f"p{number}",
        "user_name": f"user{number}",
        "employee_number": number,
        "outside_mail": "",
        "display_name": "Mara Quill",
        **more,
    }
    return Candidate(**values)


def seen(**more: object) -> Observed:
    values = {"external_id": "x", "login": "l", "state": AccountState.ACTIVE, **more}
    return Observed(**values)  # type: ignore[arg-type]


PEOPLE = Candidates(
    [
        candidate("1", outside_mail="mara@quill.example"),
        candidate("2"),
        candidate("3", display_name="Åse Lind"),
    ]
)


@pytest.mark.parametrize(
    ("account", "person", "rule"),
    [
        ({"employee_number": "2", "login": "user1"}, "p2", "employee number"),
        ({"login": "USER1"}, "p1", "login"),
        ({"login": "user2@morrow.example"}, "p2", "login before the at sign"),
        ({"mail": "Mara@Quill.example"}, "p1", "mail address"),
        ({"display_name": "Åse Lind"}, "p3", "display name"),
    ],
)
def test_the_first_rule_that_fits_one_person_decides(
    account: dict[str, object], person: str, rule: str
) -> None:
    match = PEOPLE.match(seen(**account))
    assert match is not None
    assert (match.person_id, match.rule) == (person, rule)


def test_what_fits_several_or_is_a_service_is_nobodys() -> None:
    assert PEOPLE.match(seen(display_name="Mara Quill")) is None
    assert PEOPLE.match(seen(login="user1", kind=AccountKind.SERVICE)) is None
    unsure = PEOPLE.match(seen(display_name="Åse Lind"))
    assert unsure is not None
    assert unsure.confidence < CERTAIN


def test_each_difference_is_one_deviation() -> None:
    before = (AccountState.ACTIVE, frozenset({"A", "B"}), frozenset({"S"}))
    after = seen(
        state=AccountState.SUSPENDED,
        entitlements=frozenset({"B", "C"}),
        seats=frozenset(),
    )
    assert set(deviations(*before, after)) == {
        Deviation(DeviationKind.STATE, "", "active", "suspended"),
        Deviation(DeviationKind.ENTITLEMENT, "C", "not held", "held"),
        Deviation(DeviationKind.ENTITLEMENT, "A", "held", "not held"),
        Deviation(DeviationKind.SEAT, "S", "held", "not held"),
    }
    unknown = seen(entitlements=frozenset({"A", "B"}), seats=None)
    assert list(deviations(*before, unknown)) == []  # its seats are ours to keep


@pytest.mark.parametrize(
    ("gone", "before", "fall"),
    [
        (9, 9, False),
        (10, 10, True),
        (9, 100, False),
        (19, 1000, False),
        (20, 1000, True),
        (0, 0, False),
    ],
)
def test_a_fall_is_two_of_a_hundred_and_at_least_ten(gone: int, before: int, fall: bool) -> None:
    assert is_fall(gone, before, Profile()) is fall
    assert is_fall(gone, before, Profile(fall_percent=0, fall_least=1)) is (gone >= 1)
    assert is_fall(gone, before, Profile(fall_percent=100, fall_least=1)) is (
        gone >= max(before, 1)
    )


def test_a_whole_site_is_told_by_its_name_and_only_if_it_was_some() -> None:
    before = {"": 9, "Brae": 5, "Oxhaven": 4, "Skarra": 6}
    assert whole_site({"": 9, "Oxhaven": 4, "Skarra": 5}, before) == ""
    assert whole_site({"Skarra": 6, "Brae": 5}, before) == "Brae"


def test_a_task_says_what_to_do_and_changes_the_book() -> None:
    text = instructions(Action.GRANT, "mquill", "VHF", NO_ARGUMENTS, "Radio")
    assert text == "Radio: Give mquill: VHF."
    made = after_task(None, Action.CREATE, "", Arguments(login="mquill"), "m-1", "acc")
    assert made is not None
    assert (made.correlation, made.state) == ("acc", AccountState.ACTIVE)
    given = after_task(made, Action.GRANT, "VHF", NO_ARGUMENTS, "m-1", "acc")
    assert given is not None
    cut = after_task(given, Action.CUT_OFF, "", NO_ARGUMENTS, "m-1", "acc")
    assert cut is not None
    assert (cut.state, cut.entitlements) == (AccountState.SUSPENDED, frozenset({"VHF"}))
    until = Arguments(until=NOW.isoformat())
    parked = after_task(cut, Action.PARK, "", until, "m-1", "acc")
    assert parked is not None
    assert parked.recoverable_until == NOW
    assert after_task(parked, Action.PURGE, "", NO_ARGUMENTS, "m-1", "acc") is None


def test_a_file_of_accounts_is_read_with_a_mark_and_groups() -> None:
    (row,) = parse_accounts("\ufefflogin,name,groups\nmq, Mara ,VHF; Radar\n")
    assert (row.login, row.display_name) == ("mq", "Mara")
    assert row.entitlements == {"VHF", "Radar"}


def drafted(kind: DeviationKind, item: str, was: str, now_is: str, **more: object) -> list[Action]:
    application = Application(id="crew", name="Crew", kind="scim", profile=Profile(), **more)  # type: ignore[arg-type]
    account = Account(
        id="a", application_id="crew", person_id=None, entitlements=frozenset({"Night"})
    )
    base = replace(world(), applications={"crew": application})
    draft = Draft(subject(), base, NOW)
    plan_revert(draft, application, account, Deviation(kind, item, was, now_is))
    return [s.action for s in draft.steps]


def test_each_kind_of_change_has_its_way_back() -> None:
    assert drafted(DeviationKind.ENTITLEMENT, "Night", "not held", "held") == [Action.REVOKE]
    assert drafted(DeviationKind.ENTITLEMENT, "Night", "held", "not held") == [Action.GRANT]
    assert drafted(DeviationKind.STATE, "", "suspended", "active") == [Action.CUT_OFF]
    assert drafted(DeviationKind.STATE, "", "active", "deleted") == [Action.RESTORE, Action.RESUME]
    away = drafted(DeviationKind.ACCOUNT, "", "not there", "active")
    assert away == [Action.CUT_OFF, Action.REVOKE, Action.DELETE]
    assert drafted(DeviationKind.ENTITLEMENT, "Night", "not held", "held", trust=Trust.WATCH) == []
    assert drafted(DeviationKind.SEAT, "S", "held", "not held", trust=Trust.ADD) == [
        Action.TAKE_SEAT
    ]
    with pytest.raises(Conflict):
        drafted(DeviationKind.ACCOUNT, "", "there", "gone")
