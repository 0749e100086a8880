"""``scripts/demo --prove``: an example without questions, every effect checked in the applications."""

from __future__ import annotations

import json
import shutil
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import click
import psycopg

from tests.proofs.attributes import attributes
from tests.proofs.coming_in import coming_in
from tests.proofs.faults import faults
from tests.proofs.findings import findings, those_who_left
from tests.proofs.handing import handover
from tests.proofs.joiner import joiner
from tests.proofs.leaver import leaver, restore
from tests.proofs.mover import mover
from tests.proofs.play import Play, Report
from tests.proofs.returning import returning
from tests.proofs.seats import seats
from tests.proofs.standing import standing
from tests.proofs.trust import guard
from yugum.client import Client
from yugum.core.actions import Action
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.processes import verify_export
from yugum.wire import people as wp
from yugum_standins.load import advance, connect, do, raise_stage
from yugum_standins.morrow import DIRECTORY, MAILBOX, PLANNER, STAFF

SHE = "alindqvist"
ZONE = "Europe/Helsinki"


def story(play: Play) -> None:
    """One person joins, moves, leaves and comes back; another one's window closes."""
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    other = play.organisation.of("Timetables", skip=3)
    _hire(play, heir)
    session = _work(play)
    _move(play)
    left = _leave(play, heir, session)
    _leave_other(play, other.user_name, heir)
    _come_back(play, left)
    _window(play, other.user_name, left)
    _audit(play)


def _hire(play: Play, heir: str) -> None:
    report, client = play.report, play.client
    report.section("Monday 27 January: Alma Lindqvist is hired in Deck for next Monday")
    client.people.create(
        [
            wp.NewPerson(
                user_name=SHE,
                given_name="Alma",
                family_name="Lindqvist",
                employee_number="49001",
                department="Deck",
                title="Deck officer",
                site="Oxhaven",
                manager=heir,
                starts="2031-02-03",
                time_zone=ZONE,
            )
        ]
    )
    docket = play.confirm(play.plan(Verb.JOINER, SHE))
    report.equal("the docket waits for her first day", docket.state, "scheduled")
    report.equal("Crew rosters has no account of hers", play.crew.user(SHE), None)
    report.equal("the reporting database has no role of hers", play.reporting.role(SHE), None)
    start = datetime(2031, 2, 2, 22, 0, tzinfo=UTC)
    advance(client, (start - timedelta(seconds=1)).isoformat())
    report.equal("one second before her Monday begins there is none yet", play.crew.user(SHE), None)
    advance(client, start.isoformat())
    docket = client.dockets.show(docket.number)
    report.equal("on Monday the docket is done", docket.state, "done")
    user = play.crew.user(SHE)
    report.check("Crew rosters: an active account", bool(user and user["active"]), user)
    report.equal(
        "Crew rosters: the groups of Deck", play.crew.groups(SHE), {"Deck crew", "Rosters"}
    )
    report.equal("Crew rosters: one seat", play.crew.seats(SHE), [PLANNER])
    report.equal("reporting database: a role that can log in", play.reporting.role(SHE), True)
    report.equal("reporting database: her group", play.reporting.groups(SHE), {"deck_reports"})
    held = {s.license for s in client.people.show(SHE).seats if s.state == "held"}
    report.equal("a seat wherever a role gives one", held, {PLANNER, "Reporting user", MAILBOX})
    report.equal(
        "staff directory: an entry among the people", play.directory.container(SHE), "people"
    )
    report.equal("staff directory: her group", play.directory.groups(SHE), {STAFF})


def _work(play: Play) -> psycopg.Connection[Any]:
    report = play.report
    report.section("She signs in and works")
    crew, reporting = play.crew, play.reporting
    report.check(
        "signs in to Crew rosters with the credential behind her one-time link",
        crew.sign_in(SHE, play.secret(SHE, "crew-rosters")),
    )
    password = play.secret(SHE, "reporting-database")
    report.check("signs in to the reporting database", reporting.sign_in(SHE, password))
    play.passwords[DIRECTORY] = play.secret(SHE, DIRECTORY)
    report.check(
        "signs in to the staff directory", play.directory.sign_in(SHE, play.passwords[DIRECTORY])
    )
    crew.add_roster(SHE, "Easter roster Oxhaven")
    crew.add_roster(SHE, "Spring relief roster")
    for database in ("timetables", "finance"):
        with psycopg.connect(reporting.as_user(SHE, database, password), autocommit=True) as c:
            c.execute(f'CREATE TABLE public."Alma\'s ""{database}"" sheet" (day date)'.encode())
            c.execute("CREATE VIEW public.alma_view AS SELECT 1 AS line")
    with psycopg.connect(reporting.as_user(SHE, "timetables", password), autocommit=True) as c:
        c.execute(
            "CREATE FUNCTION public.alma_sum(int, int) RETURNS int LANGUAGE sql AS 'SELECT $1 + $2'"
        )
    session = psycopg.connect(reporting.as_user(SHE, "timetables", password), autocommit=True)
    report.equal("one database session is open", reporting.sessions(SHE), 1)
    return session


def _move(play: Play) -> None:
    report = play.report
    report.section("She moves to Timetables")
    batch = play.plan(
        Verb.MOVER, SHE, changes={"department": "Timetables", "title": "Timetable planner"}
    )
    play.show_steps(batch)
    steps = {(s.action, s.item): s.reason for s in batch.plans[0].steps}
    goes = steps.get((Action.REVOKE, "Deck crew"), "")
    report.equal(
        "what the old role gave goes, with its reason", goes, "role Deck no longer applies"
    )
    comes = steps.get((Action.GRANT, "Timetable planners"), "")
    report.equal("what the new role gives comes, with its reason", comes, "role Timetables")
    stays = {s.item for s in batch.plans[0].stays}
    report.check("what both give stays", {"Rosters", PLANNER, "Reporting user"} <= stays, stays)
    report.equal("done", play.confirm(batch).state, "done")
    report.equal(
        "Crew rosters: the groups of Timetables",
        play.crew.groups(SHE),
        {"Timetable planners", "Rosters"},
    )
    report.equal("Crew rosters: the seat stayed", play.crew.seats(SHE), [PLANNER])
    report.equal(
        "reporting database: the groups of Timetables",
        play.reporting.groups(SHE),
        {"timetable_reports", "report_writers"},
    )


def _leave(play: Play, heir: str, session: psycopg.Connection[Any]) -> datetime:
    report, client = play.report, play.client
    report.section("She leaves on Friday 17:00 in Helsinki")
    batch = play.plan(Verb.LEAVER, SHE, at="Fri 17:00", successor=heir)
    due = batch.plans[0].due_at
    report.equal("that is 15:00 UTC", due.strftime("%a %H:%M"), "Fri 15:00")
    docket = play.confirm(batch)
    advance(client, (due - timedelta(seconds=1)).isoformat())
    report.equal("one second before: still in", play.reporting.role(SHE), True)
    advance(client, due.isoformat())
    docket = client.dockets.show(docket.number)
    report.equal("the docket is done", docket.state, "done")
    cuts = [s for s in docket.steps if s.action == "cut_off"]
    report.equal("all applications are cut off in one phase", {s.phase for s in cuts}, {"secure"})
    report.check(
        "four accounts within seconds", docket.cut_off_ms is not None and len(cuts) == 4, len(cuts)
    )
    entry = play.directory.entry(SHE)
    report.equal("staff directory: moved to the leavers", play.directory.container(SHE), "leavers")
    report.equal("staff directory: hidden from the address book", entry["yugumHidden"], [True])
    report.check("staff directory: no manager any more", "manager" not in entry)
    report.check(
        "staff directory: marked for the help desk",
        "Has left" in entry.get("description", [""])[0],
        entry.get("description"),
    )
    report.equal("staff directory: out of her groups", play.directory.groups(SHE), set())
    old = play.passwords[DIRECTORY]
    report.equal("staff directory: sign-in is refused", play.directory.sign_in(SHE, old), False)
    report.note(f"every account cut off in {(docket.cut_off_ms or 0) / 1000:.2f} s")
    user = play.crew.user(SHE) or {}
    report.equal("Crew rosters: suspended", user.get("active"), False)
    report.equal("Crew rosters: no session, no key", play.crew.ways_in(SHE), 0)
    report.equal("Crew rosters: no group", play.crew.groups(SHE), set())
    report.equal("Crew rosters: no seat", play.crew.seats(SHE), [])
    report.check(
        "Crew rosters: her rosters are the successor's",
        {"Easter roster Oxhaven", "Spring relief roster"} <= play.crew.rosters(heir),
    )
    report.equal("reporting database: no login", play.reporting.role(SHE), False)
    ended = False
    try:
        session.execute("SELECT 1")
    except psycopg.Error as error:
        ended = True
        report.note(f"her session says: {str(error).splitlines()[0]}")
    report.check("reporting database: the open session was ended", ended)
    report.equal("reporting database: nobody of hers is connected", play.reporting.sessions(SHE), 0)
    report.equal("reporting database: no group", play.reporting.groups(SHE), set())
    for database in ("timetables", "finance"):
        name = f'Alma\'s "{database}" sheet'
        report.equal(
            f"reporting database: her table in {database} is the successor's",
            play.reporting.owner(database, name),
            heir,
        )
    report.equal(
        "reporting database: the function too",
        play.reporting.function_owner("timetables", "alma_sum"),
        heir,
    )
    coming = client.people.show(SHE).next
    for step in coming:
        report.note(f"{step.at:%a %-d %b %H:%M} UTC  {step.text} ({step.because})")
    wanted = due + timedelta(days=7)
    report.check("the deletion is dated a week later", any(s.at == wanted for s in coming))
    return due


def _leave_other(play: Play, other: str, heir: str) -> None:
    report = play.report
    report.section("Somebody else leaves the same hour")
    number = do(play.client, Verb.LEAVER, other, successor=heir, reason="resigned")
    report.equal("done", play.client.dockets.show(number).state, "done")
    report.equal("reporting database: no login", play.reporting.role(other), False)


def _come_back(play: Play, left: datetime) -> None:
    report, client = play.report, play.client
    report.section("Twelve days later she comes back")
    advance(client, (left + timedelta(days=12)).isoformat())
    gone = play.crew.deleted(SHE)
    report.equal("meanwhile Crew rosters had deleted the account", play.crew.user(SHE), None)
    until = datetime.fromisoformat(gone["recoverableUntil"]) if gone else None
    report.equal("it can come back for 30 days exactly", until, left + timedelta(days=37))
    batch = play.plan(Verb.RETURNER, SHE)
    for line in batch.plans[0].fidelity:
        report.note(f"{'back' if line.comes_back else 'LOST'}: {line.what} ({line.why})")
    lost = [f.what for f in batch.plans[0].fidelity if not f.comes_back]
    report.check(
        "the report names what cannot come back: sessions and passwords",
        any("session" in w for w in lost) and any("password" in w for w in lost),
        lost,
    )
    report.equal("done", play.confirm(batch).state, "done")
    user = play.crew.user(SHE)
    report.check(
        "Crew rosters: the same account is active again",
        bool(user and gone and user["active"] and user["id"] == gone["id"]),
        user,
    )
    report.equal("staff directory: back among the people", play.directory.container(SHE), "people")
    report.equal(
        "Crew rosters: her groups", play.crew.groups(SHE), {"Timetable planners", "Rosters"}
    )
    report.equal("Crew rosters: a seat", play.crew.seats(SHE), [PLANNER])
    report.equal(
        "Crew rosters: her rosters",
        play.crew.rosters(SHE),
        {"Easter roster Oxhaven", "Spring relief roster"},
    )
    report.equal("reporting database: can log in", play.reporting.role(SHE), True)
    report.equal(
        "reporting database: her groups",
        play.reporting.groups(SHE),
        {"timetable_reports", "report_writers"},
    )
    for database in ("timetables", "finance"):
        name = f'Alma\'s "{database}" sheet'
        report.equal(
            f"reporting database: her table in {database} is hers again",
            play.reporting.owner(database, name),
            SHE,
        )
    report.check(
        "a new initial credential works",
        play.reporting.sign_in(SHE, play.secret(SHE, "reporting-database")),
    )
    more = client.people.show(SHE).dockets
    report.equal("nothing more is to be done for her", more[0].state, "done")


def _window(play: Play, other: str, left: datetime) -> None:
    report, client = play.report, play.client
    report.section("Thirty-one days later the other leaver's windows have closed")
    crew_end = left + timedelta(days=37)
    advance(client, (crew_end - timedelta(seconds=1)).isoformat())
    report.check(
        "one second before its end Crew rosters could still restore it",
        play.crew.deleted(other) is not None,
    )
    advance(client, crew_end.isoformat())
    report.equal("at its end it is gone", play.crew.deleted(other), None)
    park_end = left + timedelta(days=42)
    report.check(
        "the reporting database keeps the role parked, marked with its end",
        "parked until" in play.reporting.mark(other),
        play.reporting.mark(other),
    )
    advance(client, (park_end - timedelta(seconds=1)).isoformat())
    report.equal("until the last second", play.reporting.role(other), False)
    advance(client, (left + timedelta(days=12 + 31)).isoformat())
    report.equal("then there is no such role any more", play.reporting.role(other), None)
    states = {a.state for a in client.people.show(other).accounts}
    report.equal("Yugum shows what is left", states, {"purged", "deleted"})
    ended = {a.application_id for a in client.people.show(other).accounts if a.state == "purged"}
    report.equal("both are purged", ended, {"crew-rosters", "reporting-database"})
    report.equal("nothing is stuck", client.dockets.page(stuck=True).items, [])


def _audit(play: Play) -> None:
    report = play.report
    report.section("The record")
    _seal_settled(play.client)
    lines = list(play.client.audit.export())
    count = verify_export(lines, "")
    report.check(f"{count} events verify offline against the signed head", count > 100, count)
    changed = [line.replace("PROOF-1", "PROOF-2") for line in lines]
    caught = False
    try:
        verify_export(changed, "")
    except Exception as error:  # noqa: BLE001 - whatever it is, it is shown
        caught = True
        report.note(f"changed by hand: {error}")
    report.check("a change by hand is found", caught)


def _seal_settled(client: Client) -> None:
    """Wait until the sealer has caught up."""
    for _ in range(50):
        page = client.audit.page(limit=1)
        if page.items and page.items[0].leaf_index is not None:
            return
        time.sleep(0.2)


@dataclass(frozen=True, slots=True)
class Proof:
    """An example and what it begins with."""

    play: Callable[[Play], None]
    trust: Trust = Trust.FULL
    ruled: bool = True
    left: Callable[[], list[str]] = list


PROOFS: dict[str, Proof] = {
    "story": Proof(story),
    "findings": Proof(findings, Trust.WATCH, ruled=False, left=those_who_left),
    "faults": Proof(faults),
    "joiner": Proof(joiner),
    "mover": Proof(mover),
    "leaver": Proof(leaver),
    "restore": Proof(restore),
    "standing": Proof(standing),
    "return": Proof(returning),
    "guard": Proof(guard),
    "attributes": Proof(attributes),
    "coming-in": Proof(coming_in),
    "seats": Proof(seats),
    "handover": Proof(handover),
}


def prove(name: str, folder: Path) -> int:
    """Run one proof on a fresh stage; returns the exit code."""
    if name not in PROOFS:
        click.echo(f"There is no proof {name}; known are: {', '.join(PROOFS)}.", err=True)
        return 2
    shutil.rmtree(folder, ignore_errors=True)
    report = Report()
    stage, _ = raise_stage(folder, port=0)
    try:
        token = json.loads((folder / "client.json").read_text())["token"]
        with Client(stage.url, token) as client:
            click.echo("Morrow Sound Ferries, on a simulated clock")
            proof = PROOFS[name]
            connect(
                client,
                stage,
                report.note,
                trust=proof.trust,
                ruled=proof.ruled,
                left=proof.left(),
            )
            proof.play(Play(stage, client, report))
    except Exception:
        click.echo(f"The stage's logs are in {folder}.", err=True)
        stage.stop()
        raise
    stage.stop()
    code = report.close()
    if code == 0:
        shutil.rmtree(folder, ignore_errors=True)
    return code
