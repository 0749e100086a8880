"""Trust, the stop, tasks, files, changes made outside: through the service, the CLI and real targets."""

from __future__ import annotations

import json
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import Any

import bonsai
import httpx
import pytest

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.errors import ApplicationRejected, Conflict, InvalidInput, NotFound
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import tasks as wta
from yugum_standins.directory import BASE, person_entry
from yugum_standins.load import do
from yugum_standins.morrow import CREW, DIRECTORY, INCIDENTS, RADIO


def bosun(theatre: Theatre) -> str:
    """A new bosun, whose radio licence is a task."""
    login = f"b{uuid.uuid4().hex[:9]}"
    theatre.client.people.create(
        [wp.NewPerson(user_name=login, given_name="Bo", family_name=login, title="Bosun")]
    )
    return login


def task_of(theatre: Theatre, login: str) -> wta.TaskRow:
    return next(t for t in theatre.client.tasks.all() if login in t.instructions)


def test_a_manual_application_goes_on_when_its_task_is_done(theatre: Theatre) -> None:
    login = bosun(theatre)
    number = do(theatre.client, Verb.JOINER, login)
    task = task_of(theatre, login)
    assert "Make an account" in task.instructions
    listed = json.loads(cli(theatre, "--output", "json", "tasks", "list").stdout)
    assert task.id in {row["id"] for row in listed}
    done = cli(theatre, "tasks", "done", task.id, "--evidence", "folder 12, page 3")
    assert done.returncode == 0, done.stderr
    assert theatre.client.tasks.done(task.id).state == "done"  # twice is once
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline and "Give" not in task_of_or(theatre, login):
        time.sleep(0.1)
    grant = task_of(theatre, login)
    refused = cli(theatre, "tasks", "refuse", grant.id, "no exam yet")
    assert refused.returncode == 0, refused.stderr
    view = theatre.client.dockets.show(number)
    step = next(s for s in view.steps if s.application_id == RADIO and s.action == "grant")
    assert step.state == "attention"
    assert step.problem is not None
    assert "no exam yet" in step.problem.text
    created = next(s for s in view.steps if s.application_id == RADIO and s.action == "create")
    assert created.receipt is not None
    assert created.receipt.seen.account == "active"
    with pytest.raises(Conflict):
        theatre.client.tasks.done(grant.id)


def task_of_or(theatre: Theatre, login: str) -> str:
    found = [t.instructions for t in theatre.client.tasks.all() if login in t.instructions]
    return found[0] if found else ""


@pytest.mark.parametrize(("urgent", "minutes"), [(False, 60), (True, 15)])
def test_a_cut_off_by_hand_is_due_soon(theatre: Theatre, urgent: bool, minutes: int) -> None:
    login, client = bosun(theatre), theatre.client
    do(client, Verb.JOINER, login)
    client.tasks.done(task_of(theatre, login).id)
    until(lambda: "Give" in task_of_or(theatre, login))
    client.tasks.done(task_of(theatre, login).id)
    plan = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=urgent)
    client.plans.confirm(client.plans.make(plan))
    until(lambda: "Suspend" in task_of_or(theatre, login))
    task = task_of(theatre, login)
    assert task.due_at - task.made_at == timedelta(minutes=minutes)


@pytest.mark.parametrize("text", ["soon", "0", "-1", "nan", "9000"])
def test_hours_that_are_none_are_refused(theatre: Theatre, text: str) -> None:
    asked = wap.ConnectApplication(
        id="by-hand", name="By hand", kind="manual", options={"cut_off_hours": text}
    )
    with pytest.raises(InvalidInput, match="no number of hours"):
        theatre.client.applications.connect(asked)


def test_a_bad_file_of_accounts_changes_nothing(theatre: Theatre, tmp_path: Path) -> None:
    before = {a.login for a in theatre.client.accounts.all(application=RADIO)}
    for text, place in (
        ("name,number\nx,1\n", "line 1"),
        ("login,state\na,active\na,active\n", "line 3"),
        ("login,state\na,gone\n", "line 2"),
        ("login,shoe\na,44\n", "line 1"),
        ("login,name,name\na,A,B\n", "line 1"),
        (f"login,name\na,{'x' * 10_001}\n", "line 2, name"),
        (f"login,name\na,A\nb,{'x' * 140_000}\n", "line 3"),
        ('login,name\na,"A\n', "line 2"),
        ("login,name\na,A\nb,B,C\n", "line 3"),
        ("login,name\na,Ann\u200b\n", "line 2, name"),
    ):
        file = tmp_path / "accounts.csv"
        file.write_text(text)
        told = cli(theatre, "apps", "upload", RADIO, str(file))
        assert told.returncode == 4
        assert place in told.stderr
    with pytest.raises(Conflict):
        theatre.client.applications.upload(DIRECTORY, "login\na\n")
    assert {a.login for a in theatre.client.accounts.all(application=RADIO)} == before


def test_an_application_that_is_only_watched_is_left_alone(theatre: Theatre) -> None:
    login = joined(theatre)
    theatre.client.applications.trust(INCIDENTS, Trust.WATCH)
    try:
        plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login])).plans[0]
        assert INCIDENTS not in {s.application_id for s in plan.steps}
        assert "Incident log is only watched" in " ".join(c.text for c in plan.cautions)
        told = cli(theatre, "apps", "trust", INCIDENTS, "add")
        assert told.stdout.strip().endswith("add")
    finally:
        theatre.client.applications.trust(INCIDENTS, Trust.FULL)
    plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login])).plans[0]
    assert INCIDENTS in {s.application_id for s in plan.steps}


def test_the_stop_holds_everything_but_cut_offs(theatre: Theatre) -> None:
    login = joined(theatre)
    assert cli(theatre, "stop", "a bad rule").returncode == 0
    try:
        time.sleep(1.5)  # workers look once a second
        batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
        number = theatre.client.plans.confirm(batch)[0].number
        view = list(theatre.client.dockets.follow(number))[-1]
        cuts = {s.state for s in view.steps if s.action == "cut_off"}
        others = {s.state for s in view.steps if s.action != "cut_off"}
        assert cuts == {"done"}
        assert "done" not in others
        assert any(s.problem and s.problem.code == "stopped" for s in view.steps)
    finally:
        assert cli(theatre, "go-on").returncode == 0
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline and theatre.client.dockets.show(number).state != "done":
        time.sleep(0.2)
    assert theatre.client.dockets.show(number).state == "done"
    with pytest.raises(Conflict) as again:
        theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
    assert "has left already" in again.value.message


def test_what_was_changed_outside_is_kept_or_put_back(theatre: Theatre) -> None:
    login = joined(theatre)
    ghost = f"ghost-{uuid.uuid4().hex[:6]}"
    theatre.client.applications.read(DIRECTORY)
    with theatre.play.directory.directory.client().connect(timeout=5) as connection:
        connection.add(person_entry(ghost, "Gil", "Ghost", ""))
        group = bonsai.LDAPEntry(f"cn=Harbour radio,ou=groups,{BASE}", connection)
        member = f"uid={login},ou=people,{BASE}"
        group.change_attribute("member", bonsai.LDAPModOp.ADD, member)  # type: ignore[arg-type]
        group.modify()
    theatre.client.applications.read(DIRECTORY)
    found = {d.login: d for d in theatre.client.findings.outside(DIRECTORY)}
    assert {login, ghost} <= set(found)
    assert cli(theatre, "findings", "keep", found[login].id).returncode == 0
    put_back = cli(theatre, "findings", "revert", found[ghost].id, "--yes")
    assert put_back.returncode == 0, put_back.stderr
    number = put_back.stdout.split()[-1].rstrip(".")
    assert list(theatre.client.dockets.follow(number))[-1].state == "done"
    assert not theatre.play.directory.open(ghost)
    assert "Harbour radio" in theatre.play.directory.groups(login)
    with pytest.raises(Conflict):
        theatre.client.findings.revert(found[login].id)
    plan = theatre.client.plans.make(
        wl.NewPlan(verb=Verb.MOVER, who=[login], changes={"site": "Brae Point"})
    ).plans[0]
    assert "Harbour radio" not in {s.item for s in plan.steps}


def test_connecting_wrongly_is_refused_with_the_remedy(theatre: Theatre) -> None:
    connect = theatre.client.applications.connect
    with pytest.raises(InvalidInput) as unknown:
        connect(wap.ConnectApplication(id="odd", name="Odd", kind="teleprinter"))
    assert "ldap" in unknown.value.remedy
    directory = theatre.stage.directories[0]
    with pytest.raises(InvalidInput) as option:
        connect(
            wap.ConnectApplication(
                id="odd",
                name="Odd",
                kind="ldap",
                url=directory.url,
                secret="x",
                options={**directory.options, "shoe": "44"},
            )
        )
    assert "shoe" in option.value.place
    with pytest.raises(ApplicationRejected) as secret:
        connect(
            wap.ConnectApplication(
                id="odd",
                name="Odd",
                kind="ldap",
                url=directory.url,
                secret="wrong",
                options=directory.options,
            )
        )
    assert "credentials" in secret.value.message
    assert "odd" not in {a.id for a in theatre.client.applications.all()}


def listed(theatre: Theatre, application_id: str) -> wap.ApplicationRow:
    return next(a for a in theatre.client.applications.all() if a.id == application_id)


def test_a_profile_is_changed_field_by_field(theatre: Theatre) -> None:
    def profile() -> dict[str, Any]:
        return dict(next(a.profile for a in theatre.client.applications.all() if a.id == CREW))

    before = profile()
    changed = cli(
        theatre, "apps", "profile", CREW, "--set", "ceiling_per_hour=500",
        "--set", "never_returns=sessions, keys, drafts", "--set", "standard_settings.container=Crew",
    )  # fmt: skip
    assert changed.returncode == 0, changed.stderr
    try:
        after = {
            "ceiling_per_hour": 500,
            "never_returns": ["sessions", "keys", "drafts"],
            "standard_settings": {**before["standard_settings"], "container": "Crew"},
        }
        assert profile() == {**before, **after}
        had = listed(theatre, CREW)
        do(
            theatre.client,
            Verb.MOVER,
            joined(theatre, "Engine Room"),
            changes={"department": "Deck"},
        )
        now = listed(theatre, CREW)
        assert now.taken_this_hour > had.taken_this_hour
        assert now.left_this_hour == 500 - now.taken_this_hour
        for wrong, why in (
            ("window_days=soon", "window_days"),
            ("shoe=44", "Use one of"),
            ("standard_settings=x", "standard_settings.NAME"),
            ("ceiling_per_hour", "NAME=VALUE"),
            ("comes_from=nowhere", "no other application nowhere"),
            (f"comes_from={CREW}", "no other application"),
        ):
            told = cli(theatre, "apps", "profile", CREW, "--set", "window_days=1", "--set", wrong)
            assert told.returncode == 4
            assert why in told.stderr
        assert profile() == {**before, **after}
        with pytest.raises(NotFound):
            theatre.client.applications.change_profile(
                "nowhere", wap.ProfileDocument(window_days=1)
            )
    finally:
        theatre.client.applications.change_profile(CREW, wap.ProfileDocument.model_validate(before))
    assert profile() == before
    assert listed(theatre, CREW).left_this_hour is None


def test_a_closing_date_follows_the_profile(theatre: Theatre) -> None:
    login = joined(theatre)
    do(theatre.client, Verb.LEAVER, login)

    person = theatre.client.people.show(login).id
    of = next(a for a in theatre.client.applications.all() if a.id == INCIDENTS)
    own = of.profile

    def closing() -> list[str]:
        due = theatre.client.calendar(kinds=["close"])
        mine = [o for o in due if o.person_id == person]
        return [str(o.at) for o in mine if o.application_name == of.name]

    until(lambda: closing())
    before = closing()
    theatre.client.applications.change_profile(
        INCIDENTS, wap.ProfileDocument(close_after_days=own.close_after_days + 3)
    )
    try:
        until(lambda: closing() > before, seconds=20)
    finally:
        theatre.client.applications.change_profile(
            INCIDENTS, wap.ProfileDocument.model_validate(own.model_dump())
        )


def test_connecting_again_keeps_trust_profile_and_secret(theatre: Theatre) -> None:
    directory = theatre.stage.directories[0]
    before = next(a for a in theatre.client.applications.all() if a.id == DIRECTORY)
    again = wap.ConnectApplication(
        id=DIRECTORY,
        name=before.name,
        kind="ldap",
        url=directory.url,
        options=directory.options,
        contact=before.contact,
    )
    connected = theatre.client.applications.connect(again)
    assert (connected.trust, connected.profile) == ("full", before.profile)
    assert theatre.client.applications.read(DIRECTORY).accounts > 200  # its secret stayed too


def test_a_paused_application_resumes_by_itself(theatre: Theatre) -> None:
    login = joined(theatre)
    crew = theatre.play.organisation.crew
    batch = theatre.client.plans.make(
        wl.NewPlan(verb=Verb.MOVER, who=[login], changes={"department": "Deck"})
    )
    panel = f"{crew['url']}/panel/faults"
    httpx.put(panel, json={"busy": 1}, headers=crew["headers"]).raise_for_status()
    number = theatre.client.plans.confirm(batch)[0].number
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline and theatre.client.dockets.show(number).state != "done":
        time.sleep(0.1)
    view = theatre.client.dockets.show(number)
    assert view.state == "done", [s.problem for s in view.steps if s.problem]


def test_what_is_known_there_is_named_by_any_part(theatre: Theatre) -> None:
    client = theatre.client
    assert "Rosters" in client.applications.names(CREW, "entitlement", "oster")
    assert "Rosters planner" in client.applications.names(CREW, "seat", "PLANNER")
    assert client.applications.names(CREW, "entitlement", "no such thing") == []
    told = cli(theatre, "apps", "names", CREW, "--kind", "seat", "--search", "planner")
    assert told.stdout.splitlines() == ["Rosters planner"], told.stderr
    with pytest.raises(InvalidInput):
        client.applications.names(CREW, "account")
    with pytest.raises(NotFound):
        client.applications.names("nowhere", "seat")


def test_a_decision_says_nothing_that_is_not_of_its_kind(theatre: Theatre) -> None:
    login = joined(theatre, "Engine Room")
    for said, place in (
        (("hold", "--role", "Deck"), "payload.role"),
        (("role", "--role", "Deck", "--person", "iholm"), "payload.person"),
        (("suspend", "--application", CREW, "--seat", "Rosters planner"), "payload"),
        (("grant", "--application", CREW, "--seat", "a", "--entitlement", "b"), "one thing"),
        (("grant", "--application", CREW, "--entitlement", "Rosters", "--value", "x"), "value"),
    ):
        told = cli(theatre, "people", "decide", login, *said, "--reason", "a test")
        assert told.returncode == 4, told.stdout
        assert place in told.stderr
    assert list(theatre.client.people.decisions(login)) == []
    made = cli(
        theatre, "people", "decide", login, "suspend", "--application", CREW, "--reason", "a test"
    )
    assert made.returncode == 0, made.stderr
    do(theatre.client, Verb.RECHECK, login)
    mine = {a.application_id: a.state for a in theatre.client.people.show(login).accounts}
    assert mine[CREW] == "suspended"
