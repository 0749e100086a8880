"""Part of proof ``return``: precautions, mail that must go on, logins that cannot change, stuck dockets."""

from __future__ import annotations

from datetime import timedelta

import httpx

from tests.proofs.joiner import rules_text
from tests.proofs.leaver import refused, second
from tests.proofs.play import Play
from tests.proofs.standing import lines
from tests.signing import token_of
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.core.verbs import Measure, Quick, Verb
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import advance
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, MAIL, MAINTENANCE


def guarding(play: Play) -> None:
    """What is shut without being lost, and what takes another's place."""
    _suspended_whole(play)
    _secured_anew(play)
    _mail_goes_on(play)
    _renamed_by_replacing(play)
    _put_off_and_ended(play)
    _told_once(play)


def _look(play: Play, application: str) -> CrewLook:
    reach = play.organisation.others[application]
    return CrewLook(reach["url"], reach["headers"])


def _settled(play: Play, who: str) -> None:
    play.until(lambda: not lines(play, who))
    play.report.equal("nothing of theirs differs", lines(play, who), {})


def _suspended_whole(play: Play) -> None:
    report, client, crew = play.report, play.client, play.crew
    report.section("Precaution: a whole person is suspended, in confidence, nothing freed")
    who = play.organisation.of("Timetables", "Timetable planner", skip=8).user_name
    groups, seats, owned = crew.groups(who), crew.seats(who), crew.rosters(who)
    said = refused(lambda: _measure(play, who, Measure.SUSPEND, ground="x", review="2031-01-01"))
    report.check("not until a day that is past", "not to come" in said, said)
    ground = "a claim about tickets"
    play.confirm(_measure(play, who, Measure.SUSPEND, ground=ground, review="+14d"))
    report.check("the application says: suspended", not (crew.user(who) or {})["active"])
    report.equal("the database lets nobody in", play.reporting.role(who), False)
    held = (crew.groups(who), crew.seats(who), crew.rosters(who))
    report.equal("groups, seats and what is owned are there", held, (groups, seats, owned))
    _settled(play, who)
    viewer = wop.NewOperator(login="looker", name="Lo Looker", role=OperatorRole.VIEWER)
    client.operators.add(viewer)
    with _viewer(play) as other:
        row = next(r for r in other.decisions.precautions() if r.user_name == who)
        report.equal("who may not know reads no ground", row.ground, "(in confidence)")
        text = other.people.show(who).model_dump_json()
        report.check("nor on the person's page", ground not in text, text[:80])
    row = next(r for r in client.decisions.precautions() if r.user_name == who)
    report.equal("an administrator does", (row.ground, row.measure), (ground, "suspend"))
    account = play.account(who, CREW).id
    asked = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=Quick.RESUME)
    said = refused(lambda: client.plans.make(asked))
    report.check("one account is not opened past it", "precaution" in said, said)
    advance(client, "+15d")
    report.check(
        "on its day it stands on the day sheet",
        any(r.user_name == who for r in client.day().reviews),
    )
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=str(row.number))))
    report.check("lifted: open again", bool((crew.user(who) or {})["active"]))
    report.equal("the database lets them in", play.reporting.role(who), True)
    _settled(play, who)
    play.confirm(_measure(play, who, Measure.SUSPEND, ground=ground, review="+14d"))
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    play.confirm(play.plan(Verb.LEAVER, who, successor=heir))
    play.until(lambda: crew.rosters(who) == set())
    report.equal("turned into a leaver: handed over", crew.rosters(who), set())
    play.confirm(play.plan(Verb.RETURNER, who))
    play.until(lambda: bool((crew.user(who) or {}).get("active")))
    report.check("hired again: not held against them", bool((crew.user(who) or {})["active"]))
    _settled(play, who)


def _measure(play: Play, who: str, measure: Measure, *, ground: str, review: str) -> wl.BatchView:
    plan = wl.NewPlan(verb=Verb.ACCOUNT, who=[who], measure=measure, ground=ground, review=review)
    return play.client.plans.make(plan)


def _viewer(play: Play) -> Client:
    return Client(play.stage.url, token_of(play.client, play.stage.url, "looker", "viewer"))


def _secured_anew(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("Precaution: secured anew while working on")
    who = play.organisation.of("Timetables", "Timetable planner", skip=7).user_name
    before = (crew.user(who) or {})["urn:yugum:scim:schemas:1.0:Account"]["apiKeys"]
    docket = play.confirm(
        _measure(play, who, Measure.SECURE, ground="a lost telephone", review="+3d")
    )
    after = (crew.user(who) or {})["urn:yugum:scim:schemas:1.0:Account"]
    report.check("the account is open", bool((crew.user(who) or {})["active"]))
    report.equal("no session is left", after["sessions"], [])
    report.equal("keys go on", after["apiKeys"], before)
    report.equal("what it is called", docket.title, "precaution, secured anew")
    _settled(play, who)


def _mail_goes_on(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Mail must go on where a suspended account refuses it: locked, takes mail")
    mail = _look(play, MAIL)
    text = rules_text(profiles={MAIL: {"suspended_refuses_mail": True}})
    client.rules.adopt(text, "the mail store refuses mail of suspended accounts")
    who = play.organisation.of("Safety", skip=9).user_name
    left = play.now
    play.confirm(play.plan(Verb.LEAVER, who))
    report.equal("it takes mail, and forwards it", _post(mail, who), 200)
    entry = httpx.post(
        f"{mail.url}/panel/sign-in",
        json={"userName": who, "password": "wrong"},
        headers=dict(mail.headers),
    )
    report.equal("nobody gets in", entry.status_code, 403)
    more = (mail.user(who) or {})["urn:yugum:scim:schemas:1.0:Account"]
    ways = (more["sessions"], more["apiKeys"], more["recovery"])
    report.equal("no session, no key, no recovery data", ways, ([], [], []))
    row = play.account(who, MAIL)
    report.check("shown as locked", row.locked, row)
    rows = [f for f in client.findings.all("leaver-open") if f.login == who]
    report.equal("no finding", rows, [])
    _settled(play, who)
    advance(client, (left + timedelta(days=22)).isoformat())
    play.until(lambda: not (mail.user(who) or {}).get("active"))
    report.check("suspended when the forwarding ends", not (mail.user(who) or {}).get("active"))
    report.equal("it refuses mail by now", _post(mail, who), 422)
    _settled(play, who)


def _post(mail: CrewLook, who: str) -> int:
    body = {"userName": who}
    return httpx.post(f"{mail.url}/panel/mail", json=body, headers=dict(mail.headers)).status_code


def _renamed_by_replacing(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Renamed where a login cannot change: another account takes its place")
    ships = _look(play, MAINTENANCE)
    who = play.organisation.of("Engine Room", skip=2).user_name
    ships.add_roster(who, "Boiler survey")
    client.applications.read(MAINTENANCE)
    groups, seats, owned = ships.groups(who), ships.seats(who), ships.rosters(who)
    new = "nnamed"
    number = play.confirm(play.plan(Verb.RENAME, who, changes={"user_name": new})).number
    play.until(lambda: ships.user(who) is None)
    held = (ships.groups(new), ships.seats(new), ships.rosters(new))
    report.equal("the new account holds the same", held, (groups, seats, owned))
    report.check("and is open", bool((ships.user(new) or {}).get("active")))
    report.equal("the old one is closed", ships.user(who), None)
    report.equal("no seat is lost or doubled", _books(play, ships), True)
    _settled(play, new)
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)))
    play.until(lambda: ships.user(new) is None)
    held = (ships.groups(who), ships.seats(who), ships.rosters(who))
    report.equal("undone: the old account holds all of it", held, (groups, seats, owned))
    report.equal("and the new one is closed", ships.user(new), None)
    _settled(play, who)


def _books(play: Play, ships: CrewLook) -> bool:
    pools = [p for p in play.client.seats.all() if p.application_id == MAINTENANCE]
    return all(p.held == ships.taken(p.license) for p in pools)


def _put_off_and_ended(play: Play) -> None:
    report, client, crew = play.report, play.client, play.crew
    report.section("A joiner who did not come is put off; a docket is ended where it is stuck")
    person = wp.NewPerson(
        user_name="plate",
        given_name="Per",
        family_name="Late",
        employee_number="49981",
        department="Timetables",
        title="Timetable planner",
        starts=play.now.date().isoformat(),
    )
    client.people.create([person])
    play.confirm(play.plan(Verb.JOINER, "plate"))
    advance(client, "+2d")
    later = (play.now + timedelta(days=10)).date().isoformat()
    play.confirm(play.plan(Verb.JOINER, "plate", at=later))
    play.until(lambda: not (crew.user("plate") or {}).get("active"))
    report.check("closed until then", not (crew.user("plate") or {}).get("active"))
    advance(client, "+11d")
    play.until(lambda: bool((crew.user("plate") or {}).get("active")))
    report.check("open on the new first day", bool((crew.user("plate") or {}).get("active")))
    crew.fault(down=1)
    batch = play.plan(Verb.LEAVER, "plate")
    number = client.plans.confirm(batch, reference="PROOF-9")[0].number
    play.until(lambda: client.dockets.show(number).steps_stuck > 0)
    client.dockets.end(number, "played")
    play.until(lambda: client.dockets.show(number).state == "done")
    report.equal("ended, and not called done", client.dockets.show(number).outcome, "done in part")
    play.until(lambda: any(k[0] == CREW for k in lines(play, "plate")))
    left = [r.status.value for k, r in lines(play, "plate").items() if k[0] == CREW]
    report.check("what it left out stays a difference", "finding" in left, left)
    crew.fault(down=0)
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.RECHECK, who=["plate"])))
    _settled(play, "plate")


def _told_once(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A notice goes once an event, to the person too, with what to do again")
    text = rules_text(
        approvals={"leavers": {"by": ["bkrog"]}},
        procedures={"leaver": {"approval": "leavers"}},
        notices={
            "back": {
                "verb": "rename",
                "at": "done",
                "to": ["person"],
                "subject": "{name}: another login",
                "text": "{again}",
            },
            "people office": {
                "verb": "leaver",
                "at": "done",
                "to": ["people-office@morrowsound.example"],
                "subject": "{name} is cut off",
                "text": "",
            },
        },
    )
    other = second(play)
    client.rules.adopt(text, "notices", take_away=10_000)
    who = play.organisation.of("Safety", skip=10).user_name
    play.confirm(play.plan(Verb.RENAME, who, changes={"user_name": "othername"}))
    mail = play.post.wait("", "another login")
    report.check("what to do again", "the login is now othername" in mail["text"], mail["text"])
    name = client.people.show("othername").display_name
    number = client.plans.confirm(play.plan(Verb.LEAVER, "othername"))[0].number
    play.post.wait("people-office@", f"{name} is cut off")
    row = client.approvals.all(docket=number)[0]
    other.approvals.answer(row.id, agrees=True, note="yes")
    list(client.dockets.follow(number))
    advance(client, "+25d")
    told = [m for m in play.post.mails("people-office@") if m["subject"] == f"{name} is cut off"]
    report.equal("told once of the cut-off, weeks later too", len(told), 1)
    other.close()
