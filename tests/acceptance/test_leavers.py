"""Leavers through the service and the command line: in confidence, guarded, on record, put back."""

from __future__ import annotations

import csv
import io
import json
import time
import uuid

import pytest

from tests.acceptance.test_rules import OTHERS, operator, restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.joiner import rules_text
from yugum.core.verbs import Verb
from yugum.errors import Conflict, Forbidden, NotFound, Unauthenticated
from yugum.wire import operators as wop
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW, MAIL, REPORTING


def account_of(theatre: Theatre, login: str, application: str) -> str:
    rows = theatre.client.accounts.page(who=login, application=application).items
    return rows[0].id


def test_what_is_prepared_in_confidence_is_nowhere_to_be_found(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre)
    before = {p.batch_id for p in client.plans.prepared()}
    shown = cli(theatre, "--output", "json", "leaver", login, "--confidential")
    assert shown.returncode == 0, shown.stderr
    (batch,) = {p.batch_id for p in client.plans.prepared()} - before
    assert client.people.show(login).access_ends is None
    with operator(theatre, OTHERS[0]) as other:
        with pytest.raises(NotFound):
            other.plans.show(batch)
        with pytest.raises(NotFound):
            other.plans.fire(batch)
        assert other.plans.prepared() == []
        everything = "".join(
            [
                other.people.show(login).model_dump_json(),
                other.day().model_dump_json(),
                *(d.model_dump_json() for d in other.dockets.all(who=login)),
                *other.audit.export(),
            ]
        )
        assert batch not in everything
        assert everything.count('"leaver"') == everything.replace(login, "").count('"leaver"')
    assert batch in cli(theatre, "plans", "list").stdout
    fired = cli(theatre, "plans", "fire", batch, "--reason", "dismissed")
    assert fired.returncode == 0, fired.stderr
    assert theatre.reporting.role(login) is False
    assert {p.batch_id for p in client.plans.prepared()} == before
    for row in client.operators.all():
        if row.login in OTHERS and row.active:
            client.operators.change(row.id, wop.OperatorChange(active=False))


@pytest.mark.usefixtures("restored")
def test_an_urgent_leaver_is_agreed_to_afterwards(theatre: Theatre) -> None:
    client = theatre.client
    login, quiet = joined(theatre), joined(theatre)
    with operator(theatre, OTHERS[0]) as other:
        text = rules_text(
            approvals={"people office": {"by": [OTHERS[0]]}},
            procedures={"leaver": {"approval": "people office", "urgent_afterwards": True}},
        )
        client.rules.adopt(text, "agreed to afterwards")
        batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
        docket = client.plans.confirm(batch)[0]
        assert docket.state != "awaiting"
        view = list(client.dockets.follow(docket.number))[-1]
        assert view.state == "done"
        assert theatre.reporting.role(login) is False, "it waited for nobody"
        asked = client.approvals.all(docket=docket.number)
        assert [a.name for a in asked] == ["people office"]
        other.approvals.answer(asked[0].id, agrees=False, note="not agreed with us")
        assert client.dockets.show(docket.number).state == "done", "it has happened"
        person = client.people.show(login)
        assert (person.state, theatre.reporting.role(login)) == ("left", False), "and it stays"
        assert person.dockets[0].number == docket.number, "nobody is looked at again for it"
        answered = client.approvals.all(state="refused", docket=docket.number)
        assert [a.answers[0].note for a in answered] == ["not agreed with us"]
        secret = client.plans.make(
            wl.NewPlan(verb=Verb.LEAVER, who=[quiet], urgent=True, confidential=True)
        )
        number = client.plans.fire(secret.id)[0].number
        assert client.approvals.all(docket=number) == [], "nobody is told before they may be"
        for _ in client.dockets.follow(number):
            pass
        client.dockets.tell(number)
        assert [a.name for a in client.approvals.all(docket=number)] == ["people office"]


def test_a_leaver_loses_access_to_yugum_itself(theatre: Theatre) -> None:
    login = joined(theatre)
    name = f"op{uuid.uuid4().hex[:6]}"
    theatre.client.operators.add(
        wop.NewOperator(login=name, name="Op", role="administrator", person=login)
    )
    with operator(theatre, name) as theirs:
        with pytest.raises(Conflict, match="yourself"):
            theirs.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
        do(theatre.client, Verb.LEAVER, login)
        with pytest.raises((Unauthenticated, Forbidden)):
            theirs.session()


def test_quick_actions_by_the_command_and_their_undo(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre, "Timetables")
    ids = [account_of(theatre, login, a) for a in (CREW, REPORTING)]
    done = cli(theatre, "accounts", "suspend", *ids, "--yes", "--reason", "lost laptop")
    assert done.returncode == 0, done.stderr
    assert theatre.reporting.role(login) is False
    do(client, Verb.MOVER, login, changes={"title": "Planner II"})
    assert theatre.reporting.role(login) is False, "rules do not open what somebody closed"
    number = next(d.number for d in client.people.show(login).dockets if d.verb == "account")
    undone = cli(theatre, "dockets", "undo", number, "--yes")
    assert undone.returncode == 0, undone.stderr
    assert theatre.reporting.role(login) is True
    assert (theatre.crew.user(login) or {})["active"] is True
    mail = account_of(theatre, login, MAIL)
    assert cli(theatre, "accounts", "archive", mail, "--yes").returncode == 0
    assert client.accounts.page(who=login, application=MAIL).items[0].state == "archived"
    again = cli(theatre, "accounts", "archive", mail, "--yes")
    assert again.returncode == 4
    assert "Reopen it" in again.stderr
    assert cli(theatre, "accounts", "reopen", mail, "--yes").returncode == 0
    assert client.accounts.page(who=login, application=MAIL).items[0].state == "active"


def test_a_purge_is_typed_and_agreed_to_by_a_second_operator(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre, "Timetables")
    do(client, Verb.LEAVER, login)
    account = account_of(theatre, login, REPORTING)
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="purge"))
    with pytest.raises(Conflict, match="cannot be put back"):
        client.plans.confirm(batch, typed="yes")
    with operator(theatre, OTHERS[0]) as other:
        number = client.plans.confirm(batch, typed=login)[0].number
        assert theatre.reporting.role(login) is False
        row = client.approvals.all(docket=number)[0]
        other.approvals.answer(row.id, agrees=True)
        list(client.dockets.follow(number))
        assert theatre.reporting.role(login) is None
        other_row = next(o for o in client.operators.all() if o.login == OTHERS[0])
    client.operators.change(other_row.id, wop.OperatorChange(active=False))
    lines = list(csv.DictReader(io.StringIO(client.dockets.record(number, "csv"))))
    assert lines[0]["what"] == "purged"
    assert lines[0]["agreed_by"] == OTHERS[0]


def test_the_record_and_the_sheet_are_files(theatre: Theatre) -> None:
    login = joined(theatre)
    number = do(theatre.client, Verb.LEAVER, login, reason="resigned")
    rows = json.loads(cli(theatre, "dockets", "record", number, "--form", "json").stdout)
    assert {r["what"] for r in rows} >= {"cut off", "removed"}
    assert all(r["verified"] == "read back" for r in rows if r["outcome"] == "done")
    page = cli(theatre, "dockets", "record", number, "--form", "html").stdout
    assert page.startswith("<!doctype html>")
    assert "resigned" in page
    sheet = cli(theatre, "cut-off-sheet", login).stdout
    assert "Crew rosters" in sheet
    assert "Jun Aster" in sheet


def test_last_call_and_a_hold_on_an_application(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre)
    account = account_of(theatre, login, CREW)
    assert cli(theatre, "accounts", "delete", account, "--yes").returncode == 0
    listed = {r.account_id: r for r in client.last_call(application=CREW)}
    assert listed[account].login == login
    shown = json.loads(cli(theatre, "--output", "json", "last-call").stdout)
    assert account in {r["account_id"] for r in shown}
    held = cli(theatre, "apps", "hold", CREW, "--reason", "audit")
    assert held.returncode == 0, held.stderr
    try:
        other = account_of(theatre, joined(theatre), CREW)
        refused = cli(theatre, "accounts", "delete", other, "--yes")
        assert refused.returncode == 4
        assert "on hold by iholm: audit" in refused.stderr
        deadline = time.monotonic() + 30
        while state_of(theatre, login) != "suspended" and time.monotonic() < deadline:
            time.sleep(0.2)
        assert state_of(theatre, login) == "suspended", "the hold brought back what was deleted"
    finally:
        client.decisions.end(held.stdout.strip().rsplit(" ", 1)[1])
    assert cli(theatre, "accounts", "delete", account, "--yes").returncode == 0
    back = cli(theatre, "accounts", "restore", account, "--yes")
    assert back.returncode == 0, back.stderr
    assert "LOST" in back.stdout
    assert state_of(theatre, login) == "suspended"


def state_of(theatre: Theatre, login: str) -> str:
    return theatre.client.accounts.page(who=login, application=CREW).items[0].state


def test_steps_are_left_out_with_a_reason_only(theatre: Theatre) -> None:
    login = joined(theatre)
    assert cli(theatre, "leaver", login, "--leave-out", "crew-rosters/revoke/x").returncode == 4
    key = "crew-rosters/revoke/Safety observers"
    done = cli(theatre, "leaver", login, "--leave-out", f"{key}=still in the drill", "--yes")
    assert done.returncode == 0, done.stderr
    assert "still in the drill" in done.stdout
    assert theatre.crew.groups(login) == {"Safety observers"}
    assert theatre.crew.ways_in(login) == 0


def test_a_leavers_mark_says_when_and_by_which_reference(theatre: Theatre) -> None:
    login = joined(theatre)
    done = cli(theatre, "leaver", login, "--reference", "HR-7766", "--yes")
    assert done.returncode == 0, done.stderr
    there = theatre.play.directory.entry(login)["description"][0]
    day = f"{theatre.client.people.show(login).access_ends:%Y-%m-%d}"
    assert there == f"Has left Morrow Sound: {day} HR-7766"
    assert "Nothing to do" in cli(theatre, "recheck", login, "--yes").stdout
    number = theatre.client.people.show(login).dockets[0].number
    do_over = theatre.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(theatre.client.dockets.follow(theatre.client.plans.confirm(do_over)[0].number))
    assert "description" not in theatre.play.directory.entry(login)
    do(theatre.client, Verb.LEAVER, login)  # others need the seat
