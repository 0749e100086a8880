"""Before the day: the calendar, who is ready, what somebody would get, and what is shared."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from datetime import timedelta

import httpx
import icalendar
import pytest

from tests.acceptance.test_service import joined, newcomer
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.accounts import HoldingKind
from yugum.core.verbs import Verb
from yugum.errors import NotFound
from yugum.wire import decisions as wde
from yugum.wire import equipment as we
from yugum.wire import plans as wl
from yugum.wire import shared as ws
from yugum_standins.load import do
from yugum_standins.morrow import CREW, REPORTING


def dated(theatre: Theatre, login: str, **ahead: int) -> str:
    """A leaver's docket, so long from now."""
    at = theatre.client.clock.show().now + timedelta(**ahead)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], at=at.isoformat()))
    return theatre.client.plans.confirm(batch, reason="retires")[0].number


def test_the_calendar_shows_dockets_and_what_follows_in_order(theatre: Theatre) -> None:
    login = joined(theatre)
    number = dated(theatre, login, days=3)
    gone = joined(theatre)
    do(theatre.client, Verb.LEAVER, gone)

    def closing() -> set[str | None]:
        of = [e for e in theatre.client.calendar(kinds=["close"]) if gone.upper() in e.display_name]
        return {e.application_name for e in of}

    until(lambda: closing() >= {"Crew rosters", "Reporting database"})
    entries = list(theatre.client.calendar())
    assert [e.at for e in entries] == sorted(e.at for e in entries)
    mine = [e for e in entries if e.number == number]
    assert [(e.kind, e.text) for e in mine] == [("leaver", "retires")]
    only = list(theatre.client.calendar(kinds=["leaver"]))
    assert {e.kind for e in only} == {"leaver"}
    now = theatre.client.clock.show().now
    soon = list(theatre.client.calendar(now, now + timedelta(days=2)))
    assert number not in {e.number for e in soon}
    shown = cli(theatre, "calendar", "--days", "7", "--kind", "leaver")
    assert number in shown.stdout
    theatre.client.dockets.cancel(number)


def test_a_calendar_program_fetches_it_with_a_token_as_password(theatre: Theatre) -> None:
    login = joined(theatre)
    number = dated(theatre, login, days=4)
    url = f"{theatre.stage.url}/api/v1/calendar.ics"
    assert httpx.get(url).status_code == 401
    assert httpx.get(url, auth=("anybody", "wrong")).status_code == 401
    reply = httpx.get(url, auth=("anybody", theatre.token))
    assert reply.headers["content-type"].startswith("text/calendar")
    calendar = icalendar.Calendar.from_ical(reply.text)
    events = {str(e["uid"]): e for e in calendar.walk("VEVENT")}
    assert len(events) == len(calendar.walk("VEVENT")), "each entry has an id of its own"
    mine = next(e for e in events.values() if number in str(e["summary"]))
    at = theatre.client.dockets.show(number).due_at
    assert mine.decoded("dtstart") == at.replace(microsecond=0)
    assert str(mine["url"]).endswith(f"/dockets/{number}")
    posted = httpx.post(
        f"{theatre.stage.url}/api/v1/people", json={"people": []}, auth=("x", theatre.token)
    )
    assert posted.status_code == 401, "a password only reads"
    theatre.client.dockets.cancel(number)


def test_who_begins_and_what_is_missing_for_them(theatre: Theatre) -> None:
    now = theatre.client.clock.show().now
    far = newcomer(theatre, "Deck", starts=f"{now + timedelta(days=9):%Y-%m-%d}")
    near = newcomer(theatre, "Deck", starts=f"{now + timedelta(days=2):%Y-%m-%d}")
    rows = {r.user_name: r for r in theatre.client.people.joiners()}
    lacking = {line.application_name: line.lacks for line in rows[near].lines}
    assert lacking["Staff directory"] == ["no account"], "it is made five days ahead"
    assert lacking["Crew rosters"] == [], "that one is made on the day"
    assert not rows[near].ready
    assert rows[far].ready, "nothing is due yet"
    do(theatre.client, Verb.JOINER, near)
    again = next(r for r in theatre.client.people.joiners() if r.user_name == near)
    assert again.ready
    prepared = next(x for x in again.lines if x.application_name == "Staff directory")
    assert prepared.state == "suspended"
    listed = cli(theatre, "people", "joiners")
    assert "Staff directory: suspended, as it should be" in listed.stdout
    for login in (near, far):
        do(theatre.client, Verb.LEAVER, login)


def test_whoever_is_not_agreed_to_is_not_ready(theatre: Theatre) -> None:
    now = theatre.client.clock.show().now
    boss = next(p for p in theatre.play.organisation.people if p.title == "Head of Finance")
    begins = f"{now + timedelta(days=9):%Y-%m-%d}"
    who = newcomer(theatre, "Finance", starts=begins, manager=boss.user_name)
    plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[who]))
    docket = theatre.client.plans.confirm(plan)[0]
    assert docket.state == "awaiting"
    row = next(r for r in theatre.client.people.joiners() if r.user_name == who)
    assert not row.ready
    assert all("nobody has agreed yet" in line.lacks for line in row.lines)
    theatre.client.dockets.cancel(docket.number)


def test_what_somebody_would_get_before_anything_is_stored(theatre: Theatre) -> None:
    before = theatre.client.people.page(limit=1).total
    lines = theatre.client.people.would_get(department="Finance", title="Accountant")
    things = {(x.application_id, x.kind, x.item): x for x in lines}
    assert things[REPORTING, HoldingKind.ENTITLEMENT, "finance_reports"].because == "role Finance"
    assert "approval" in things[REPORTING, HoldingKind.ENTITLEMENT, "finance_reports"].note
    assert ("staff-directory", HoldingKind.ENTITLEMENT, "Staff") in things
    assert not any(x.application_id == CREW for x in lines)
    assert theatre.client.people.page(limit=1).total == before
    shown = cli(theatre, "people", "would-get", "--department", "Finance")
    assert "finance_reports" in shown.stdout


def test_the_same_as_somebody_keeps_roles_and_exceptions_apart(theatre: Theatre) -> None:
    client = theatre.client
    who, like = joined(theatre, "Safety"), joined(theatre, "Timetables")
    payload = {"application": CREW, "kind": "entitlement", "item": "Night duty"}
    client.decisions.make(
        wde.NewDecision(who=like, kind="grant", payload=payload, reason="night rota")
    )
    found = client.people.same_as(who, like)
    assert found.changes == {"department": "Timetables"}
    assert [(e.payload.model_dump(mode="json"), e.reason) for e in found.exceptions] == [
        (payload, "night rota")
    ]
    assert "Timetables" in found.roles
    assert client.people.show(who).department == "Safety", "it is a proposal only"
    shown = cli(theatre, "people", "same-as", who, like)
    assert "night rota" in shown.stdout
    assert f"yugum mover {who} --department=Timetables" in shown.stdout
    back = client.people.same_as(like, like)
    assert (back.changes, back.exceptions, back.found) == ({}, [], [])


def test_a_conversion_takes_the_end_away_and_is_undone(theatre: Theatre) -> None:
    client = theatre.client
    ends = client.clock.show().now + timedelta(days=20)
    login = newcomer(theatre, user_type="seasonal", contract_ends=f"{ends:%Y-%m-%d}")
    do(client, Verb.JOINER, login)
    before = client.people.show(login)
    assert before.access_ends is not None
    done = cli(
        theatre, "mover", login, "--user-type", "employee", "--contract-ends", "none", "--yes"
    )
    assert done.returncode == 0, done.stderr
    after = client.people.show(login)
    assert (after.access_ends, after.contract_ends, after.user_type) == (None, None, "employee")
    kinds = ["remind"]  # lists follow a moment later
    until(lambda: after.id not in {e.person_id for e in client.calendar(kinds=kinds)})
    number = client.dockets.page(who=login, limit=1).items[0].number
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    for _ in client.dockets.follow(client.plans.confirm(batch)[0].number):
        pass
    assert client.people.show(login).access_ends == before.access_ends
    do(client, Verb.LEAVER, login)


@pytest.fixture
def safe(theatre: Theatre) -> Iterator[str]:
    """A shared credential of one's own."""
    name = f"safe-{uuid.uuid4().hex[:8]}"
    theatre.client.shared.put(ws.NewShared(id=name, name=f"Code of {name}", place="Pier 2"))
    yield name
    theatre.client.shared.drop(name)


def test_a_shared_credential_is_due_until_it_is_changed(theatre: Theatre, safe: str) -> None:
    shared = theatre.client.shared
    stays, leaves = joined(theatre), joined(theatre)
    shared.know(safe, [stays, leaves])
    shared.know(safe, [stays])  # twice is once
    assert next(r for r in shared.all() if r.id == safe).known_by == 2
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[leaves]))
    told = [c.text for c in batch.plans[0].cautions if c.code == "shared"]
    assert f"Code of {safe}" in told[0]
    assert safe not in {r.id for r in shared.all(due=True)}
    do(theatre.client, Verb.LEAVER, leaves)
    due = next(r for r in shared.all(due=True) if r.id == safe)
    assert [leaves.upper() in name for name in due.left] == [True]
    assert due.known_by == 1
    listed = cli(theatre, "shared", "list", "--due")
    assert safe in listed.stdout
    assert cli(theatre, "shared", "changed", safe, "--note", "new code").returncode == 0
    assert safe not in {r.id for r in shared.all(due=True)}
    assert {k.user_name for k in shared.known(safe)} == {stays}
    do(theatre.client, Verb.LEAVER, stays)


def test_equipment_is_collected_from_whoever_leaves(theatre: Theatre) -> None:
    client, who, heir = theatre.client, joined(theatre), joined(theatre)
    radio = f"radio-{uuid.uuid4().hex[:8]}"
    assert cli(theatre, "equipment", "put", radio, "--name", "Deck radio", "--holder", who).stdout
    since = next(r for r in client.equipment.all(who=who)).since
    client.equipment.put(we.NewThing(id=radio, name="Deck radio", holder=who))
    assert next(r for r in client.equipment.all(who=who)).since == since, "the same again"
    assert radio not in {r.id for r in client.equipment.all(due=True)}
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who]))
    told = [c.text for c in batch.plans[0].cautions if c.code == "equipment"]
    assert f"Deck radio ({radio})" in told[0]
    do(client, Verb.LEAVER, who)
    assert radio in cli(theatre, "equipment", "list", "--due").stdout
    assert cli(theatre, "equipment", "back", radio, "--note", "in the box").returncode == 0
    client.equipment.back(radio)  # twice is once
    assert radio not in {r.id for r in client.equipment.all(due=True)}
    assert [r.holder_id for r in client.equipment.all(q=radio)] == [None]
    client.equipment.put(we.NewThing(id=radio, name="Deck radio", holder=heir))
    slip = cli(theatre, "equipment", "put", radio, "--name", "Key 9", "--holder", who)
    assert f"{radio} is Deck radio." in slip.stderr
    cli(theatre, "equipment", "put", radio, "--name", "Radio", "--holder", heir, "--renamed")
    assert [(r.name, r.user_name) for r in client.equipment.all(q=radio)] == [("Radio", heir)]
    assert [r.user_name for r in client.equipment.all(q=radio.upper())] == [heir]
    client.equipment.drop(radio)
    with pytest.raises(NotFound):
        client.equipment.back(radio)
    with pytest.raises(NotFound):
        client.equipment.drop(radio)
    with pytest.raises(NotFound):
        client.equipment.put(we.NewThing(id=radio, name="x", holder="nobody-at-all"))
    assert list(client.equipment.all(q=radio)) == []
    do(client, Verb.LEAVER, heir)


def test_a_shared_credential_nobody_wrote_down(theatre: Theatre, safe: str) -> None:
    with pytest.raises(NotFound):
        theatre.client.shared.changed("no-such-safe")
    someone = joined(theatre)
    with pytest.raises(NotFound):
        theatre.client.shared.know("no-such-safe", [someone])
    with pytest.raises(NotFound):
        theatre.client.shared.know(safe, [someone, "nobody-at-all"])
    assert list(theatre.client.shared.known(safe)) == [], "all are found before any is written"
