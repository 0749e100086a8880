"""Loading the demo organisation, and the weeks before the morning on which the demo begins."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable, Collection, Coroutine, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import bonsai

from yugum.bootstrap import open_house
from yugum.client import Client
from yugum.core.applications import Deletion, Trust
from yugum.core.decisions import DecisionKind
from yugum.core.operators import OperatorRole
from yugum.core.verbs import Verb
from yugum.engine.access import issue_token
from yugum.ports.views import Installation
from yugum.settings import Settings
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import equipment as we
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import seats as wse
from yugum_standins.calendars import fill_calendars
from yugum_standins.directory import BASE, person_entry
from yugum_standins.look import PostLook
from yugum_standins.morrow import (
    CREW,
    DIRECTORY,
    MAIL_DOMAIN,
    MAPS,
    OTHERS,
    PLANNER,
    RADIO,
    REPORTER,
    REPORTING,
    RULES,
    SHIP_MAIL,
    SPARE,
    ZONE,
    Employee,
    crew_seed,
    directory_entries,
    employees,
    radio_csv,
    reporting_sql,
    ship_mailboxes,
    simulated_seed,
)
from yugum_standins.stage import SAFE, Stage, run_sql, write_private

Say = Callable[[str], None]
BEGINNING = datetime(2031, 1, 27, 8, 0, tzinfo=UTC)
MORNING = "2031-03-03 08:40"
PLANNER_SEATS = 91
FREE_SEATS = 15
"""Seats of the simulated applications that nobody holds at the beginning."""
REPORTER_SEATS = 130
CREW_WINDOW = 30
PARK_WINDOW = 28
DIRECTORY_WINDOW = 60


@dataclass(frozen=True, slots=True)
class Loaded:
    """The demo's people, and how the applications are reached."""

    people: list[Employee]
    crew: dict[str, Any]
    reporting: str
    others: dict[str, dict[str, Any]]

    def of(self, department: str, title: str = "", *, skip: int = 0) -> Employee:
        """Somebody of a department; the same one every time."""
        fitting = [
            p
            for p in self.people
            if p.department == department
            and p.title.startswith(title)
            and not p.title.startswith("Head")
            and p.user_type == "employee"
        ]
        return fitting[skip]


def apart(work: Coroutine[Any, Any, str]) -> str:
    """Run a coroutine on a loop of its own thread: the caller may be inside another loop."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result()


def found(stage: Stage, begins: datetime) -> str:
    """Make an empty database a demo's: whose it is, its clock, its first administrator.

    Returns an API token.
    """

    async def run() -> str:
        settings = Settings(state=stage.folder, database_url=stage.env["YUGUM_DATABASE_URL"])
        async with open_house(settings) as house:
            async with house.database.unit() as unit:
                await unit.views.found(
                    Installation(
                        organisation="Morrow Sound Ferries", prefix="MS", zone=ZONE, demo=True
                    )
                )
                await unit.clock.set(begins)
            role = OperatorRole.ADMINISTRATOR
            operator, _ = await house.services.operators.add("iholm", "Ines Holm", role, "demo")
            async with house.database.unit() as unit:
                whose = await unit.operators.get(operator.id)
                _, token = await issue_token(unit, whose, "demo", role, None)
            return token

    return apart(run())


def sign_in_link(stage: Stage) -> str:
    """A fresh one-time sign-in link for the demo's administrator."""

    async def run() -> str:
        settings = Settings(state=stage.folder, database_url=stage.env["YUGUM_DATABASE_URL"])
        async with open_house(settings) as house:
            return await house.services.operators.link("iholm", "demo")

    return f"{stage.url}/welcome#{apart(run())}"


def raise_stage(
    folder: Path, *, port: int, workers: int = 1, settings: Mapping[str, str] = SAFE
) -> tuple[Stage, bool]:
    """Start everything below ``folder``, databases with these ``settings``; True when it is new and has to be loaded."""
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o711)
    stage = Stage(folder, settings=settings)
    try:
        stage.database()
        reporting = stage.cluster(
            "reporting", {"log_statement": "ddl", "log_line_prefix": "%m %u "}
        )
        done = folder / "loaded"
        people = employees()
        fresh = not done.exists()
        if fresh:
            _make_reporting(reporting, people)
        stage.standin(
            CREW,
            crew_seed(people, PLANNER_SEATS + SPARE) if fresh else None,
            window_days=CREW_WINDOW,
        )
        token_file = folder / "client.json"
        stage.directory(lambda: directory_entries(people))
        for other in OTHERS:
            seed = simulated_seed(other, people) if fresh else None
            stage.standin(other.id, seed, traits=other.traits)
        if fresh and not token_file.exists():
            token = found(stage, BEGINNING)
        else:
            token = json.loads(token_file.read_text())["token"]
        stage.mail_store(ship_mailboxes(people), MAIL_DOMAIN)
        stage.post_office()
        stage.calendars(lambda store: fill_calendars(store, people, BEGINNING))
        stage.badge_desk()
        stage.scripts()
        stage.serve(port)
        write_private(token_file, {"url": stage.url, "token": token})
        for index in range(workers):
            stage.worker(f"worker-{index + 1}")
    except BaseException:
        stage.stop()
        raise
    return stage, fresh


def _make_reporting(cluster: Any, people: list[Employee]) -> None:
    sql = reporting_sql(people)
    run_sql(cluster.url(), sql.pop(""))
    for database, statements in sql.items():
        cluster.create_database(database)
        run_sql(cluster.url(database), statements)


def loaded(stage: Stage) -> Loaded:
    return Loaded(
        employees(),
        _reach(stage, CREW),
        stage.clusters["reporting"].url(),
        {other.id: _reach(stage, other.id) for other in OTHERS},
    )


def _reach(stage: Stage, name: str) -> dict[str, Any]:
    """How a simulated application is reached."""
    notes = json.loads((stage.folder / f"{name}.json").read_text())
    return {
        "url": f"http://127.0.0.1:{notes['port']}",
        "token": notes["token"],
        "headers": {"Authorization": f"Bearer {notes['token']}"},
    }


def connect(
    client: Client,
    stage: Stage,
    say: Say,
    *,
    trust: Trust = Trust.FULL,
    ruled: bool = True,
    left: Collection[str] = (),
) -> Loaded:
    """People, applications, pools, rules and the first readings; without ``ruled`` no rules.

    Of those who ``left``, by login, the people file says that their contract is over.
    """
    organisation = loaded(stage)
    say("240 people")
    people = [wp.NewPerson(**p.document(), manager=p.manager) for p in organisation.people]
    for person in people:
        if person.user_name in left:
            person.contract_ends = "2031-01-17"
    client.people.create(people)
    say("eleven applications")
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=CREW,
            name="Crew rosters",
            kind="scim",
            url=f"{organisation.crew['url']}/scim/v2",
            secret=organisation.crew["token"],
            contact="Jun Aster, +00 555 0142",
            profile=wap.ProfileDocument(window_days=CREW_WINDOW, close_after_days=7),
        )
    )
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=REPORTING,
            name="Reporting database",
            kind="postgres",
            secret=organisation.reporting,
            contact="Olav Brandt, +00 555 0177",
            profile=wap.ProfileDocument(
                deletion=Deletion.PARK,
                window_days=PARK_WINDOW,
                close_after_days=14,
            ),
        )
    )
    client.seats.put(
        wse.PutPool(
            application_id=CREW, license=PLANNER, bought=PLANNER_SEATS, price=Decimal("19.00")
        )
    )
    client.seats.put(
        wse.PutPool(
            application_id=REPORTING, license=REPORTER, bought=REPORTER_SEATS, price=Decimal("7.00")
        )
    )
    directory = stage.directories[0]
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=DIRECTORY,
            name="Staff directory",
            kind="ldap",
            url=directory.url,
            secret=directory.password,
            options=directory.options,
            contact="Edda Vik, +00 555 0133",
            profile=wap.ProfileDocument(
                deletion=Deletion.PARK,
                window_days=DIRECTORY_WINDOW,
                close_after_days=30,
                leaver_settings={
                    "container": "leavers",
                    "hidden": "yes",
                    "manager": "",
                    "mark": "Has left Morrow Sound: {date} {reference}",
                },
                standard_settings={"container": "people", "hidden": "no", "mark": ""},
            ),
        )
    )
    for other in OTHERS:
        client.applications.connect(
            wap.ConnectApplication(
                trust=trust,
                id=other.id,
                name=other.name,
                kind="scim",
                url=f"{organisation.others[other.id]['url']}/scim/v2",
                secret=organisation.others[other.id]["token"],
                contact=other.contact,
                profile=wap.ProfileDocument(**other.profile),
            )
        )
        if other.license:
            pool = next(p for p in client.seats.all() if p.application_id == other.id)
            client.seats.put(
                wse.PutPool(
                    application_id=other.id,
                    license=other.license,
                    bought=pool.bought - SPARE + FREE_SEATS,
                    price=other.price,
                )
            )
    store, calendars = stage.mail_stores[0], stage.calendar_stores[0]
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=SHIP_MAIL,
            name="Ship mail",
            kind="dovecot",
            url=store.doveadm,
            secret=calendars.secret,
            options={**store.options, **calendars.options},
            contact="Runa Frost, +00 555 0119",
            profile=wap.ProfileDocument(
                deletion=Deletion.PARK,
                window_days=30,
                close_after_days=60,
                leaver_settings={
                    "forward": "{successor_mail}",
                    "reply": "{name} has left Morrow Sound Ferries. {successor_name} reads this.",
                },
                standard_settings={"forward": "", "reply": ""},
                leaver_setting_days={"forward": 45, "reply": 45},
                leaver_ground="works agreement 12, business mail only",
            ),
        )
    )
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=RADIO,
            name="Radio licences",
            kind="manual",
            contact="Marit Sund, harbour office, +00 555 0188",
            options={"help": "The register is the green folder in the harbour office."},
            profile=wap.ProfileDocument(
                deletion=Deletion.PARK, window_days=30, close_after_days=30
            ),
        )
    )
    client.applications.upload(RADIO, radio_csv(organisation.people))
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=MAPS,
            name="Harbour maps",
            kind="sign-on",
            options={"through": DIRECTORY},
            contact="Edda Vik, +00 555 0133",
        )
    )
    if ruled:
        client.rules.adopt(RULES, "first rules")
    for application in (CREW, REPORTING, DIRECTORY, SHIP_MAIL, RADIO, *(o.id for o in OTHERS)):
        counts = client.applications.read(application)
        say(f"{application}: {counts.accounts} accounts, {counts.linked} linked")
    return organisation


def do(client: Client, verb: Verb, who: str, **more: Any) -> str:
    """Plan, confirm and wait; returns the docket's number."""
    reason = more.pop("reason", "")
    reference = more.pop("reference", "")
    batch = client.plans.make(wl.NewPlan(verb=verb, who=[who], **more))
    docket = client.plans.confirm(batch, reference=reference, reason=reason)[0]
    for _ in client.dockets.follow(docket.number):
        pass
    return docket.number


READ = ("scim", "postgres", "ldap", "dovecot")
"""Kinds of application that show their accounts by themselves."""


def advance(client: Client, to: str) -> None:
    for _ in client.clock.advance(to):
        pass


def join(client: Client, login: str, given: str, family: str, number: str, **more: Any) -> str:
    """A new person with a joiner docket for the first day."""
    client.people.create(
        [
            wp.NewPerson(
                user_name=login,
                given_name=given,
                family_name=family,
                employee_number=number,
                time_zone=ZONE,
                **more,
            )
        ]
    )
    return do(client, Verb.JOINER, login)


def tell_story(client: Client, organisation: Loaded, stage: Stage, say: Say) -> None:
    """What happened at Morrow Sound since January, through the same calls anybody makes."""
    of = organisation.of
    say("five weeks of joiners, movers and leavers")
    manager = of("Safety", "Safety officer", skip=1).user_name
    client.people.create(
        [
            wp.NewPerson(
                user_name="drook",
                given_name="Dagny",
                family_name="Rook",
                employee_number="40987",
                department="Safety",
                title="Drill coordinator",
                site="Brae Point",
                manager=manager,
                time_zone=ZONE,
            )
        ]
    )
    do(client, Verb.JOINER, "drook")
    for skip, at in ((3, "2031-01-31 17:00"), (9, "2031-02-07 17:00")):
        do(client, Verb.LEAVER, of("Deck", "Bosun", skip=skip).user_name, at=at, reason="resigned")
    do(client, Verb.LEAVER, of("Timetables", skip=4).user_name, at="2031-02-14 17:00")
    head = next(p for p in organisation.people if p.title == "Head of Safety")
    director = next(p for p in organisation.people if p.title == "Managing director")
    advance(client, "2031-02-17 09:00")
    held = of("Deck", "Bosun", skip=9).user_name
    client.decisions.make(
        wde.NewDecision(
            who=held, kind=DecisionKind.HOLD, reason="wage dispute, do not delete anything"
        )
    )
    do(client, Verb.LEAVER, manager, reason="resigned")
    do(client, Verb.LEAVER, head.user_name, reason="retired", successor=director.user_name)
    client.people.change(head.user_name, {"manager_id": None}, reason="no longer in the chart")
    do(
        client,
        Verb.ABSENCE,
        of("Engine Room", "Second", skip=1).user_name,
        at="2031-02-24 08:00",
        until="2031-06-01 08:00",
        reason="parental leave",
    )
    desk = {"department": "Ticketing", "title": "Ticket clerk", "site": "Brae Point"}
    deck = {"department": "Deck", "title": "Deck officer", "site": "Oxhaven"}
    join(client, "ybrandt", "Yusuf", "Brandt", "41001", starts="2031-03-03", **desk)
    join(
        client,
        "lakerholm",
        "Liv",
        "Åkerholm",
        "41002",
        starts="2031-03-03",
        department="Safety",
        title="Safety officer",
        site="Oxhaven",
    )
    _leave_no_seat(client)
    join(client, "plund", "Pia", "Lund", "41003", starts="2031-03-03", **deck)
    join(client, "nevans", "Noor", "Evans", "41004", starts="2031-03-10", **deck)
    moves = do(
        client,
        Verb.MOVER,
        of("Ticketing", "Ticket clerk", skip=4).user_name,
        at="2031-03-03 08:00",
        changes={"department": "Finance", "title": "Accountant"},
    )
    _agree(client, stage, moves)
    married = of("Timetables", skip=9)
    do(
        client,
        Verb.RENAME,
        married.user_name,
        at="2031-03-06 12:00",
        reason="married",
        changes={
            "family_name": "Sund-Reef",
            "user_name": f"{married.given_name[0].lower()}sund-reef",
        },
    )
    do(
        client,
        Verb.MOVER,
        of("Deck", "Deck officer", skip=5).user_name,
        at="2031-03-05 12:00",
        changes={"department": "Safety", "title": "Safety officer"},
    )
    advance(client, "2031-03-03 08:31")
    do(
        client,
        Verb.LEAVER,
        of("Safety", "Safety officer", skip=3).user_name,
        urgent=True,
        reference="HR-7741",
        reason="dismissed",
    )
    advance(client, MORNING)
    _by_other_hands(client, organisation, stage)
    join(
        client,
        "mquill2",
        "Mara",
        "Quill",
        "41005",
        starts="2031-03-10",
        department="Finance",
        title="Accountant",
        site="Oxhaven",
        manager=next(p for p in organisation.people if p.title == "Head of Finance").user_name,
    )
    do(client, Verb.LEAVER, "drook", at="2031-03-07 17:00", reason="contract ends")
    do(
        client,
        Verb.LEAVER,
        of("Timetables", skip=7).user_name,
        at="2031-03-07 17:00",
        reason="resigned",
        reference="HR-7752",
    )
    _hand_out(client, organisation)
    _read_every_night(client)


def _hand_out(client: Client, organisation: Loaded) -> None:
    """Deck radios, and keys of the piers; two who have left still have theirs."""
    for number, person in enumerate(organisation.people):
        if person.title in ("Bosun", "Mooring lead"):
            what = "Deck radio" if person.title == "Bosun" else f"Pier key, {person.site}"
            thing = we.NewThing(id=f"e-{100 + number}", name=what, holder=person.user_name)
            client.equipment.put(thing)


def _read_every_night(client: Client) -> None:
    """From here on each application that can be read is read once a day, the first time now."""
    for application in client.applications.all():
        if application.kind in READ:
            profile = wap.ProfileDocument(read_every_hours=24)
            client.applications.change_profile(application.id, profile)
            client.applications.read(application.id)


def _agree(client: Client, stage: Stage, number: str) -> None:
    """A manager agrees by the link in the mail, as managers without a sign-in do."""
    row = client.approvals.all(docket=number)[0]
    mail = PostLook(stage.folder).wait("", subject="Your approval", text=row.subject_name)
    token = mail["text"].split("/a#")[1].split()[0]
    client.approvals.by_link(token, agrees=True, note="welcome")


def _by_other_hands(client: Client, organisation: Loaded, stage: Stage) -> None:
    """What somebody did in the staff directory itself, found by this morning's reading."""
    member = organisation.people[50].user_name
    with stage.directories[0].client().connect(timeout=5) as connection:
        connection.add(person_entry("quaycam", "Quay", "Camera", ""))
        group = bonsai.LDAPEntry(f"cn=Harbour radio,ou=groups,{BASE}", connection)
        group.change_attribute("member", bonsai.LDAPModOp.ADD, f"uid={member},ou=people,{BASE}")  # type: ignore[arg-type]
        group.modify()
    client.applications.read(DIRECTORY)


def _leave_no_seat(client: Client) -> None:
    """Buy so few planner seats that whoever needs one next finds none."""
    pool = next(p for p in client.seats.all() if p.license == PLANNER)
    client.seats.put(
        wse.PutPool(application_id=CREW, license=PLANNER, bought=pool.held, price=Decimal("19.00"))
    )
