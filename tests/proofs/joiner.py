"""Proof ``joiner``: prepared ahead, approved, named, told of, postponed, with steps of one's own."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import httpx
import yaml

from tests.proofs.play import Play
from yugum.core.applications import Trust
from yugum.core.names import NameKind
from yugum.core.verbs import Verb
from yugum.errors import YugumError
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum_standins.load import advance
from yugum_standins.morrow import CREW, REPORTING, RULES, ZONE

DESK = "badge-desk"
LOCKERS = "locker-list"
START = datetime(2031, 2, 10, 0, 0, tzinfo=UTC)


def joiner(play: Play) -> None:
    """People who begin: by rules that are adopted first."""
    _own_steps(play)
    _rules(play)
    login = _names(play)
    _prepared(play, login)
    _first_day(play, login)
    _later_steps(play, login)
    _own_password(play, login)
    _approval(play)
    _postponed(play)
    _no_manager(play)


def _own_steps(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Two steps of the organisation's own: a signed web hook and a local program")
    desk = json.loads((play.stage.folder / f"{DESK}.json").read_text())
    url = f"http://127.0.0.1:{desk['port']}/hook"
    refused = ""
    try:
        client.applications.connect(
            wap.ConnectApplication(
                id=DESK, name="Badge desk", kind="web-hook", url=url, secret=desk["secret"]
            )
        )
    except YugumError as error:
        refused = error.message
    report.check("an address that is not on the allow-list is refused", "hosts" in refused, refused)
    client.applications.connect(
        wap.ConnectApplication(
            id=DESK,
            name="Badge desk",
            kind="web-hook",
            url=url,
            secret=desk["secret"],
            options={"hosts": "127.0.0.1", "timeout": "2"},
            trust=Trust.FULL,
            contact="Harbour gate, +00 555 0120",
        )
    )
    client.applications.connect(
        wap.ConnectApplication(
            id=LOCKERS,
            name="Locker list",
            kind="script",
            options={"program": "locker-list", "timeout": "2"},
            trust=Trust.FULL,
        )
    )
    can = {a.id: a.capabilities for a in client.applications.all()}
    report.equal("the badge desk runs steps and has no accounts", can[DESK], ["run"])


def rules_text(**changes: Any) -> str:
    """The demo's rules with some sections changed."""
    document = yaml.safe_load(RULES)
    for section, values in changes.items():
        for name, value in values.items():
            document.setdefault(section, {})[name] = value
    return yaml.safe_dump(document, sort_keys=False, allow_unicode=True)


def _rules(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Rules: prepared own steps, and who is told of credentials")
    text = rules_text(
        procedures={
            "joiner": {
                "steps": [
                    {"name": "print badge", "application": DESK, "phase": "access"},
                    {
                        "name": "locker",
                        "application": LOCKERS,
                        "phase": "access",
                        "when": 'department eq "Deck"',
                    },
                    {
                        "name": "welcome call",
                        "application": DESK,
                        "at": "starts +5d 09:00 working",
                    },
                    {
                        "name": "boat key",
                        "application": DESK,
                        "wait_for": 'site eq "Brae Point"',
                    },
                ]
            }
        },
        credentials={"to": ["outside_mail", "manager", "help_desk"]},
    )
    broken = text.replace("prepare_days: 5", "prepare_days: five", 1)
    problems = client.rules.check(broken)
    where = broken.splitlines().index("    prepare_days: five") + 1
    report.check(
        "a mistake is found with line, column and remedy",
        [(p.line, p.column) for p in problems] == [(where, 19)] and bool(problems[0].remedy),
        problems,
    )
    trial = client.rules.try_out(text)
    report.equal("trying it: nobody gains or loses anything", (trial.gained, trial.lost), (0, 0))
    made = client.rules.adopt(text, "joiners", after=trial.version)
    report.equal("adopted as version 2", made.version, 2)


def _names(play: Play) -> str:
    report, client = play.report, play.client
    report.section("Zoë Ångström-O'Hara is hired; her login is suggested")
    found = client.names.suggest(given="Zoë", family="Ångström-O'Hara", department="Deck")
    names = {s.kind: s for s in found.names}
    report.equal(
        "accents and the apostrophe are gone", names[NameKind.LOGIN].name, "zangstrom-ohara"
    )
    report.equal(
        "her address, in the usual domain",
        names[NameKind.MAIL].name,
        "zoe.angstrom-ohara@morrowsound.example",
    )
    report.equal(
        "the display name keeps them", names[NameKind.DISPLAY_NAME].name, "Zoë Ångström-O'Hara"
    )
    other = play.organisation.people[30]
    again = client.names.suggest(given=other.given_name, family=other.family_name)
    login = next(s for s in again.names if s.kind == "login")
    report.check(
        "a second person of a known name gets another login, and is told why",
        login.name != other.user_name and any(t.problem for t in login.tried),
        login,
    )
    for tried in login.tried:
        report.note(f"{tried.name}: {tried.problem or 'free'}")
    return names[NameKind.LOGIN].name


def _prepared(play: Play, login: str) -> None:
    report, client = play.report, play.client
    report.section("Accounts are made five days before her first day, closed until then")
    boss = next(p for p in play.organisation.people if p.title == "Head of Deck")
    client.people.create(
        [
            wp.NewPerson(
                user_name=login,
                given_name="Zoë",
                family_name="Ångström-O'Hara",
                employee_number="49101",
                department="Deck",
                title="Deck officer",
                site="Oxhaven",
                manager=boss.user_name,
                starts="2031-02-10",
                time_zone=ZONE,
                mail="zoe.angstrom-ohara@morrowsound.example",
                outside_mail="zoe@home.example",
            )
        ]
    )
    batch = play.plan(Verb.JOINER, login)
    due = batch.plans[0].due_at
    report.equal("the docket is due five days before", due, START - timedelta(days=5))
    docket = play.confirm(batch)
    advance(client, (due - timedelta(seconds=1)).isoformat())
    report.equal("one second before there is no entry", play.directory.entry(login), {})
    advance(client, due.isoformat())
    report.equal("then there is one", play.directory.container(login), "people")
    report.check("and it is closed", play.directory.locked(login))
    report.equal("with its group", play.directory.groups(login), {"Staff"})
    report.equal("Crew rosters is for the day itself", play.crew.user(login), None)
    report.equal("the docket is done", client.dockets.show(docket.number).state, "done")
    report.equal("nobody was told of a credential yet", play.post.mails("zoe@home.example"), [])


def _first_day(play: Play, login: str) -> None:
    report, client = play.report, play.client
    report.section("Her first day")
    advance(client, START.isoformat())
    report.check("the directory entry is open", not play.directory.locked(login))
    user = play.crew.user(login) or {}
    report.equal("Crew rosters: an active account", user.get("active"), True)
    report.equal("reporting database: a role that can log in", play.reporting.role(login), True)
    desk = _desk(play)
    report.check(
        "the badge desk printed her badge, once",
        [c["login"] for c in desk["calls"] if c["what"] == "step.run"].count(login) == 1,
        desk["calls"],
    )
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline and len(play.post.mails("zoe@home.example")) < 4:
        time.sleep(0.3)
    mails = play.post.mails("zoe@home.example")
    report.check("one mail for each initial credential", len(mails) >= 4, len(mails))
    rows = {c.application_name: c for c in client.credentials.of(login)}
    report.check(
        "it is on record who was told",
        all(c.told_to and c.told_how == "outside_mail" for c in rows.values()),
        rows,
    )
    kept = [m.text for m in client.mails.all(login)]
    report.check("no link that opens something is kept", all("/c#" not in t for t in kept), kept)


def _later_steps(play: Play, login: str) -> None:
    report, client = play.report, play.client
    report.section("Steps at their time, and when what they wait for is known")
    saturday = datetime(2031, 2, 15, 9, tzinfo=ZoneInfo(ZONE))
    monday = datetime(2031, 2, 17, 8, tzinfo=ZoneInfo(ZONE))
    entries = [e for e in client.calendar(kinds=["recheck"]) if "welcome call" in e.text]
    moments = [e.at for e in entries if e.display_name.startswith("Zoë")]
    report.equal("the call stands in the calendar, on the Monday", moments, [monday])
    advance(client, (saturday + timedelta(hours=1)).isoformat())
    report.equal("on the Saturday five days on nobody calls", _steps(play, login), ["print badge"])
    advance(client, monday.isoformat())
    report.equal(
        "when work begins on Monday, they do", _steps(play, login), ["print badge", "welcome call"]
    )
    client.people.change(login, {"site": "Brae Point"}, reason="posted there")
    play.until(lambda: "boat key" in _steps(play, login))
    report.equal(
        "posted to Brae Point she gets the key she had to wait for",
        _steps(play, login),
        ["print badge", "welcome call", "boat key"],
    )


def _steps(play: Play, login: str) -> list[str]:
    """The desk's steps for somebody, in the order in which they ran."""
    calls = _desk(play)["calls"]
    return [c["step"] for c in calls if c["what"] == "step.run" and c["login"] == login]


def _own_password(play: Play, login: str) -> None:
    report, client = play.report, play.client
    report.section("She opens a link and chooses a password of her own")
    mail = next(m for m in play.post.mails("zoe@home.example") if "Staff directory" in m["subject"])
    token = mail["text"].split("/c#")[1].split()[0]
    rules = client.credentials.rules(token)
    report.note(f"{rules.application}: {rules.length} characters, {', '.join(rules.needs)}")
    weak = ""
    try:
        client.credentials.choose(token, "short")
    except YugumError as error:
        weak = error.message
    report.check("a weak one is refused, with what it lacks", "20 characters" in weak, weak)
    password = "Harbour-Light-2031-Seven"
    made = client.credentials.choose(token, password)
    list(client.dockets.follow(made.docket))
    report.check("she signs in with it", play.directory.sign_in(login, password))
    used = ""
    try:
        client.credentials.choose(token, password)
    except YugumError as error:
        used = error.message
    report.check("the link is used up", "used" in used, used)
    report.section("A second credential, handed over by the help desk")
    account = next(a for a in client.people.show(login).accounts if a.application_id == CREW)
    made = client.credentials.renew(account.id, "lost the mail")
    list(client.dockets.follow(made.docket))
    link = client.credentials.hand_over(account.id, "staff card 49101 and date of birth")
    secret = client.accounts.open_credential(link.link.rsplit("#", 1)[1]).secret
    report.check("it opens Crew rosters", play.crew.sign_in(login, secret))
    events = client.audit.page(who=login, action="credential.link").items
    report.check(
        "the identity check is in the audit log",
        any("staff card" in str(e.payload) for e in events),
        events,
    )


def _approval(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A role that somebody has to agree to")
    boss = next(p for p in play.organisation.people if p.title == "Head of Finance")
    client.people.create(
        [
            wp.NewPerson(
                user_name="tnordahl",
                given_name="Tilda",
                family_name="Nordahl",
                employee_number="49102",
                department="Finance",
                title="Accountant",
                site="Oxhaven",
                manager=boss.user_name,
                time_zone=ZONE,
            )
        ]
    )
    docket = client.plans.confirm(play.plan(Verb.JOINER, "tnordahl"))[0]
    report.equal("the docket waits", client.dockets.show(docket.number).state, "awaiting")
    report.equal("nothing has happened", play.reporting.role("tnordahl"), None)
    waiting = client.approvals.all(docket=docket.number)
    report.equal("the manager is asked", [a.name for a in waiting[0].asked], [boss.display_name])
    own = ""
    try:
        client.approvals.answer(waiting[0].id, agrees=True)
    except YugumError as error:
        own = error.message
    report.check("whoever asked for it cannot agree", "their own doing" in own, own)
    address = f"{boss.user_name}@morrowsound.example"
    mail = play.post.wait(address, "Your approval")
    token = mail["text"].split("/a#")[1].split()[0]
    report.equal(
        "by the link in the mail", client.approvals.by_link(token, agrees=True).state, "given"
    )
    list(client.dockets.follow(docket.number))
    report.equal("then it is done", client.dockets.show(docket.number).state, "done")
    report.equal("reporting database: a role", play.reporting.role("tnordahl"), True)


def _postponed(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Somebody starts a week later, after accounts exist")
    client.people.create([_deckhand("ovik", "Odd", "Vik", "49103", "2031-02-20")])
    play.confirm(play.plan(Verb.JOINER, "ovik"))
    report.check("prepared at once, for it is less than five days", play.directory.locked("ovik"))
    batch = play.plan(Verb.JOINER, "ovik", at="2031-02-27")
    play.confirm(batch)
    advance(client, "2031-02-20 12:00")
    report.check("on the first date nothing is opened", play.directory.locked("ovik"))
    report.equal("no account in Crew rosters either", play.crew.user("ovik"), None)
    advance(client, "2031-02-27 00:00")
    report.check("on the new one everything is", not play.directory.locked("ovik"))
    report.equal("Crew rosters: active", (play.crew.user("ovik") or {}).get("active"), True)
    report.section("Somebody does not come at all")
    client.people.create([_deckhand("rfalk", "Runa", "Falk", "49104", "2031-03-03")])
    play.confirm(play.plan(Verb.JOINER, "rfalk"))
    report.check("prepared", play.directory.locked("rfalk"))
    play.confirm(play.plan(Verb.LEAVER, "rfalk"))
    report.equal("moved to the leavers", play.directory.container("rfalk"), "leavers")
    advance(client, "2031-03-03 12:00")
    report.equal("on the day nothing is made", play.crew.user("rfalk"), None)


def _no_manager(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Somebody without a manager and without an outside address")
    client.people.create([_deckhand("sreed", "Siv", "Reed", "49105", "")])
    play.confirm(play.plan(Verb.JOINER, "sreed"))
    deadline = time.monotonic() + 15
    rows = client.credentials.of("sreed")
    while time.monotonic() < deadline and not all(r.told_at for r in rows):
        time.sleep(0.3)
        rows = client.credentials.of("sreed")
    report.equal(
        "the help desk has it: the last in the chain",
        {r.told_how for r in rows},
        {"help_desk"},
    )
    opened = play.secret("sreed", REPORTING)
    report.check("and a link made there opens it", play.reporting.sign_in("sreed", opened))


def _deckhand(login: str, given: str, family: str, number: str, starts: str) -> wp.NewPerson:
    return wp.NewPerson(
        user_name=login,
        given_name=given,
        family_name=family,
        employee_number=number,
        department="Deck",
        title="Deckhand",
        site="Brae Point",
        starts=starts,
        time_zone=ZONE,
    )


def _desk(play: Play) -> dict[str, Any]:
    port = json.loads((play.stage.folder / f"{DESK}.json").read_text())["port"]
    found: dict[str, Any] = httpx.get(f"http://127.0.0.1:{port}/panel/log").json()
    return found
