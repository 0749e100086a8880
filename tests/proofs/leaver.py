"""Proofs ``leaver`` and ``restore``: cut off everywhere, kept as long as needed, back if wanted."""

from __future__ import annotations

import csv
import io
import json
from datetime import timedelta
from typing import Any

import httpx

from tests.proofs.joiner import rules_text
from tests.proofs.mail import mail_goes_on
from tests.proofs.play import Play
from tests.signing import token_of
from yugum.client import Client
from yugum.core.actions import Action
from yugum.core.verbs import Verb
from yugum.errors import YugumError
from yugum.wire import decisions as wde
from yugum.wire import dockets as wd
from yugum.wire import operators as wop
from yugum.wire import plans as wl
from yugum_standins.load import advance, loaded
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, MAIL, MAINTENANCE, REPORTING, TICKETS

WAYS = ("app password", "SSH key", "certificate", "consent", "trusted device")


def leaver(play: Play) -> None:
    """From a confidential plan to the last window, over simulated months."""
    _guards(play)
    who = _confidential(play)
    _record(play, who)
    _dates(play)
    _left_out(play)
    _months(play, who)
    mail_goes_on(play)
    _operator(play)


def restore(play: Play) -> None:
    """Quick actions, archive, holds, purge with a second operator, undo compared field by field."""
    _undo(play)
    _archive(play)
    _devices(play)
    _delete_and_restore(play)
    _application_on_hold(play)
    _purge(play)
    _final(play)
    _two_at_once(play)


def second(play: Play, login: str = "bkrog") -> Client:
    """Another operator's client."""
    client = play.client
    if login not in {o.login for o in client.operators.all()}:
        client.operators.add(wop.NewOperator(login=login, name=login.title(), role="administrator"))
    return Client(play.stage.url, token_of(client, play.stage.url, login))


def refused(call: Any) -> str:
    """What is said against a call; empty when it is not refused."""
    try:
        call()
    except YugumError as error:
        return f"{error.message} {error.remedy}"
    return ""


def _guards(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Guards: what speaks against it stands in the preview")
    text = rules_text(profiles={CREW: {"admin_group": "Night duty"}})
    client.rules.adopt(text, "administrators", take_away=10_000)
    head = next(p for p in play.organisation.people if p.title == "Head of Timetables")
    batch = play.plan(Verb.LEAVER, head.user_name)
    codes = {c.code for c in batch.plans[0].cautions}
    report.check("direct reports are counted", "guard:reports" in codes, codes)
    holders = [a for a in client.accounts.all(application=CREW) if "Night duty" in a.entitlements]
    keep = holders[0]
    others = [a.id for a in holders[1:] if a.person_id]
    plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=others, action="suspend")
    play.follow(client.plans.confirm(client.plans.make(plan)))
    batch = play.plan(Verb.LEAVER, keep.login)
    report.check(
        "the last administrator is",
        any(c.code == "guard:last-administrator" for c in batch.plans[0].cautions),
        batch.plans[0].cautions,
    )
    said = refused(lambda: client.plans.confirm(batch))
    report.check("it is refused without a reason", "--override" in said, said)
    plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=others, action="resume")
    play.follow(client.plans.confirm(client.plans.make(plan)))


def _confidential(play: Play) -> str:
    report, client = play.report, play.client
    report.section("A dismissal is prepared in confidence and fired by one press")
    who = play.organisation.of("Timetables", skip=2).user_name
    _equip(play, who)
    batch = play.plan(Verb.LEAVER, who, urgent=True, confidential=True)
    with second(play) as other:
        said = refused(lambda: other.plans.show(batch.id))
        report.check("another operator does not find the plan", "no plan" in said, said)
        report.equal("nor in any list of theirs", other.plans.prepared(), [])
        seen = other.people.show(who).model_dump_json() + other.day().model_dump_json()
        seen += "".join(e.model_dump_json() for e in other.audit.page(limit=200).items)
        seen += "".join(d.model_dump_json() for d in other.dockets.all(who=who))
        report.check("nothing they can open speaks of it", batch.id not in seen)
        report.equal("and the person is as before", other.people.show(who).access_ends, None)
    names = [p.names for p in client.plans.prepared()]
    report.check("its author finds it", any(len(n) == 1 for n in names), names)
    client.people.change(who, {"title": "Timetable planner II"}, reason="meanwhile")
    numbers = client.plans.fire(batch.id, reference="HR-1", reason="dismissed")
    view = list(client.dockets.follow(numbers[0].number))[-1]
    cuts = [s for s in view.steps if s.action == "cut_off"]
    report.check(
        "fired although something had changed: every account cut off",
        len(cuts) >= 4 and all(s.state == "done" for s in cuts),
        [(s.application_id, s.state) for s in cuts],
    )
    report.note(f"cut off in {(view.cut_off_ms or 0) / 1000:.2f} s")
    report.equal("further ways in to mail have ended too", _ways(play, who), [])
    report.equal("Crew rosters: no way in", play.crew.ways_in(who), 0)
    report.equal("reporting database: no login", play.reporting.role(who), False)
    report.check("directory: locked", play.directory.locked(who))
    mails = [m for m in client.mails.all(who) if m.kind == "notice"]
    report.equal("no notice went out for it", mails, [])
    client.dockets.tell(view.number)
    mails = [m for m in client.mails.all(who) if m.kind == "notice"]
    report.equal("until it was told", len(mails), 1)
    return who


def _mail_user(play: Play, login: str, where: str = MAIL) -> dict[str, Any]:
    """A user of a simulated application as it shows it itself."""
    reach = play.organisation.others[where]
    found = httpx.get(
        f"{reach['url']}/scim/v2/Users",
        params={"filter": f'userName eq "{login}"'},
        headers=reach["headers"],
    ).json()["Resources"]
    return dict(found[0]) if found else {}


def _ways(play: Play, login: str) -> list[str]:
    more = _mail_user(play, login).get("urn:yugum:scim:schemas:1.0:Account", {})
    return [w["kind"] for w in more.get("waysIn", [])]


def _equip(play: Play, login: str) -> None:
    """Ways in that somebody has made for themselves."""
    reach = play.organisation.others[MAIL]
    key = _mail_user(play, login)["id"]
    for kind in WAYS:
        httpx.post(
            f"{reach['url']}/panel/ways",
            json={"user": key, "kind": kind},
            headers=reach["headers"],
        ).raise_for_status()
    play.report.equal("five further ways in to mail", sorted(_ways(play, login)), sorted(WAYS))


def _record(play: Play, who: str) -> None:
    report, client = play.report, play.client
    report.section("The record of what was taken away")
    docket = next(d for d in client.people.show(who).dockets if d.verb == "leaver")
    rows = list(csv.DictReader(io.StringIO(client.dockets.record(docket.number, "csv"))))
    view = client.dockets.show(docket.number)
    report.equal("one line for each step", len(rows), len(view.steps))
    cut = next(r for r in rows if r["what"] == "cut off" and r["application"] == "Crew rosters")
    report.check(
        "each says before, after, when, why and that it was read back",
        bool(cut["before"] and cut["after"] and cut["at"] and cut["because"])
        and cut["verified"] == "read back",
        cut,
    )
    same = json.loads(client.dockets.record(docket.number, "json"))
    report.equal("as JSON the same", [r["what"] for r in same], [r["what"] for r in rows])
    page = client.dockets.record(docket.number, "html")
    report.check(
        "as a page with nothing loaded from elsewhere", "http" not in page and "<table" in page
    )
    sheet = client.cut_off_sheet([play.organisation.of("Deck", skip=8).user_name])
    report.check("a sheet to print beforehand names whom to call", "Jun Aster" in sheet)


def _dates(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Three dates: garden leave")
    who = play.organisation.of("Safety", "Drill", skip=1).user_name
    now = play.now
    batch = play.plan(
        Verb.LEAVER,
        who,
        at="+3d",
        last_day=(now + timedelta(days=1)).date().isoformat(),
        contract_ends=(now + timedelta(days=90)).date().isoformat(),
    )
    play.confirm(batch)
    view = client.people.show(who)
    report.check(
        "last working day, end of access and end of contract are three",
        view.last_working_day is not None
        and view.access_ends is not None
        and view.contract_ends is not None
        and view.last_working_day < view.access_ends.date() < view.contract_ends,
    )
    said = refused(
        lambda: play.plan(Verb.LEAVER, who, at="+3d", last_day="+5d", contract_ends="+2d")
    )
    report.check("in an order that cannot be they are refused", "contract" in said, said)


def _left_out(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A step is left out of one docket, with its reason")
    who = play.organisation.of("Engine Room", skip=5).user_name
    key = "vessel-maintenance/free_seat/Planner"
    batch = play.plan(Verb.LEAVER, who, left_out={key: "the seat is handed on by hand"})
    told = [c.text for c in batch.plans[0].cautions if c.code == "left-out"]
    report.check("the preview says so", bool(told), told)
    play.confirm(batch)
    held = {s.license for s in client.people.show(who).seats if s.state == "held"}
    report.check("the seat is still held", "Planner" in held, held)
    report.equal("all else went", play.crew.groups(who), set())


def _months(play: Play, who: str) -> None:
    report, client = play.report, play.client
    report.section("Months later: each application by its own window, exact to the second")
    ended = client.people.show(who).access_ends
    assert ended is not None
    crew_close = ended + timedelta(days=7)
    advance(client, crew_close.isoformat())
    report.equal("after 7 days Crew rosters has deleted it", play.crew.user(who), None)
    rows = {(r.login, r.application_name): r for r in client.last_call()}
    mine = rows[who, "Crew rosters"]
    report.equal(
        "last call: back until 30 days later",
        mine.recoverable_until,
        crew_close + timedelta(days=30),
    )
    order = [r.recoverable_until for r in client.last_call()]
    report.equal("what is lost first stands first", order, sorted(order))
    last = crew_close + timedelta(days=30)
    advance(client, (last - timedelta(seconds=1)).isoformat())
    report.check("one second before it could come back", play.crew.deleted(who) is not None)
    advance(client, last.isoformat())
    report.equal("at its end it is gone", play.crew.deleted(who), None)
    report.check(
        "and is on no list",
        (who, "Crew rosters") not in {(r.login, r.application_name) for r in client.last_call()},
    )
    advance(client, (ended + timedelta(days=100)).isoformat())
    report.equal("the directory's park has ended too", play.directory.entry(who), {})
    report.equal("and the database's", play.reporting.role(who), None)
    states = {a.state for a in client.people.show(who).accounts}
    report.equal("Yugum says so", states, {"purged"})
    report.equal("nothing is stuck", client.dockets.page(stuck=True).items, [])


def _operator(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A leaver who works with Yugum")
    who = play.organisation.of("Finance", skip=1)
    client.operators.add(
        wop.NewOperator(login="fhelp", name="Help", role="operator", person=who.user_name)
    )
    token = token_of(client, play.stage.url, "fhelp", "operator")
    with Client(play.stage.url, token) as other:
        report.equal("works with it", other.session().operator.login, "fhelp")
        play.confirm(play.plan(Verb.LEAVER, who.user_name))
        said = refused(other.session)
        report.check("and does not any more", bool(said), said)


def _fields(play: Play, login: str) -> dict[str, Any]:
    """All that can be compared of somebody in the applications themselves."""
    user = play.crew.user(login) or {}
    mail = _mail_user(play, login)
    entry = play.directory.entry(login)
    return {
        "crew": (user.get("active"), user.get("displayName"), play.crew.groups(login)),
        "crew seats": play.crew.seats(login),
        "rosters": play.crew.rosters(login),
        "mail": (mail.get("active"), sorted(g["display"] for g in mail.get("groups", []))),
        "mail settings": mail.get("urn:yugum:scim:schemas:1.0:Account", {}).get("settings"),
        "directory": (
            play.directory.container(login),
            play.directory.groups(login),
            play.directory.locked(login),
            [str(m) for m in entry.get("manager", [])],
            entry.get("yugumHidden") == [True],
            entry.get("description"),
        ),
        "database": (play.reporting.role(login), play.reporting.groups(login)),
    }


def _undo(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A leaver is put back: compared field by field")
    who = play.organisation.of("Timetables", skip=5).user_name
    play.crew.add_roster(who, "Whitsun roster")
    before = _fields(play, who)
    docket = play.confirm(play.plan(Verb.LEAVER, who, reason="a mistake"))
    report.check("everything differs", _fields(play, who) != before)
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=docket.number))
    lost = [f.what for f in batch.plans[0].fidelity if not f.comes_back]
    report.note(f"named as lost: {', '.join(lost)}")
    report.check(
        "named as lost are passwords and sessions only",
        bool(lost) and all("password" in w or "session" in w or "key" in w for w in lost),
        lost,
    )
    play.confirm(batch)
    after = _fields(play, who)
    for name, value in before.items():
        report.equal(f"{name} as before", after[name], value)


def _one(play: Play, login: str, application: str) -> Any:
    return next(
        a for a in play.client.people.show(login).accounts if a.application_id == application
    )


def _quick(play: Play, accounts: list[str], action: str, **more: str) -> wd.DocketView:
    plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=accounts, action=action)
    batch = play.client.plans.make(plan)
    for line in batch.plans[0].fidelity[:6]:
        play.report.note(f"{'back' if line.comes_back else 'LOST'}: {line.what} ({line.why})")
    docket = play.client.plans.confirm(batch, **more)[0]
    return list(play.client.dockets.follow(docket.number))[-1]


def _archive(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Archived in bulk, and reopened")
    some = [play.organisation.of("Deck", skip=n).user_name for n in range(3, 8)]
    ids = [_one(play, login, MAIL).id for login in some]
    plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=ids, action="archive")
    play.follow(client.plans.confirm(client.plans.make(plan)))
    states = {_one(play, login, MAIL).state for login in some}
    report.equal("five mailboxes are archived", states, {"archived"})
    flags = {
        _mail_user(play, login)["urn:yugum:scim:schemas:1.0:Account"]["archived"] for login in some
    }
    report.equal("in the application itself", flags, {True})
    play.confirm(play.plan(Verb.MOVER, some[0], changes={"title": "Deckhand II"}))
    report.equal("the rules do not open it again", _one(play, some[0], MAIL).state, "archived")
    said = refused(
        lambda: client.plans.make(
            wl.NewPlan(verb=Verb.ACCOUNT, accounts=[_one(play, some[0], CREW).id], action="archive")
        )
    )
    report.check("an application without an archive says so", "no archive" in said, said)
    _quick(play, [ids[0]], "reopen")
    report.equal("one is reopened and in use", _one(play, some[0], MAIL).state, "active")


def _trusted(play: Play, login: str) -> int:
    """On how many devices the application itself trusts somebody."""
    more = _mail_user(play, login, MAINTENANCE).get("urn:yugum:scim:schemas:1.0:Account", {})
    return len(more.get("devices", []))


def _devices(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Trusted devices end with the cut-off, and stay ended")
    crowd = (play.organisation.of("Engine Room", skip=n).user_name for n in range(12, 24))
    who = next(login for login in crowd if _trusted(play, login) == 2)
    batch = play.plan(Verb.LEAVER, who)
    planned = [s for p in batch.plans for s in p.steps if s.action is Action.END_DEVICES]
    report.equal("planned where they are", [s.application_id for s in planned], [MAINTENANCE])
    view = play.confirm(batch)
    report.equal("the application trusts no device any more", _trusted(play, who), 0)
    (step,) = [s for s in view.steps if s.action is Action.END_DEVICES]
    receipt = step.receipt
    told = (receipt.found.devices, receipt.seen.devices) if receipt else None
    report.equal("the receipt says what was and what is", told, (2, 0))
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=view.number))
    lost = [f.what for f in undo.plans[0].fidelity if not f.comes_back]
    report.check("an undo says that they stay ended", any("2 trusted" in w for w in lost), lost)
    again = [s for s in undo.plans[0].steps if s.action is Action.END_DEVICES]
    report.equal("and plans nothing about them", again, [])


def _delete_and_restore(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Deleted by hand, restored in its window")
    who = play.organisation.of("Engine Room", skip=2).user_name
    account = _one(play, who, MAINTENANCE).id
    _quick(play, [account], "delete")
    gone = client.accounts.page(who=who, application=MAINTENANCE).items[0]
    report.equal("deleted", gone.state, "deleted")
    assert gone.recoverable_until is not None
    report.equal(
        "for the 14 days of that application",
        gone.recoverable_until - play.now < timedelta(days=15),
        True,
    )
    said = refused(lambda: _quick(play, [account], "resume"))
    report.check("what is deleted cannot be resumed; it says what to do", "Restore" in said, said)
    client.decisions.make(wde.NewDecision(who=who, kind="hold", reason="inquiry"))
    advance(client, "+1h")
    back = client.accounts.page(who=who, application=MAINTENANCE).items[0]
    report.equal("a hold brings back what is deleted already, suspended", back.state, "suspended")
    said = refused(lambda: _quick(play, [account], "delete"))
    report.check("under the hold it cannot be deleted", "on hold" in said, said)
    hold = next(d for d in client.people.decisions(who) if d.kind == "hold")
    client.decisions.end(hold.id)
    _quick(play, [account], "delete")
    ends = client.accounts.page(who=who, application=MAINTENANCE).items[0].recoverable_until
    assert ends is not None
    advance(client, (ends - timedelta(seconds=1)).isoformat())
    _quick(play, [account], "restore")
    report.equal(
        "in the last second it is restored",
        client.accounts.page(who=who, application=MAINTENANCE).items[0].state,
        "suspended",
    )
    _quick(play, [account], "resume")
    report.equal("and resumed", _one(play, who, MAINTENANCE).state, "active")


def _application_on_hold(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A hold on a whole application")
    who = play.organisation.of("Deck", skip=12).user_name
    client.hold(CREW, "audit of the rosters", "+20d")
    play.confirm(play.plan(Verb.LEAVER, who))
    advance(client, "+8d")
    state = client.accounts.page(who=who, application=CREW).items[0].state
    report.equal("on its day the account is not deleted", state, "suspended")
    report.check("it is still in the application", play.crew.user(who) is not None)
    advance(client, "+20d")
    state = client.accounts.page(who=who, application=CREW).items[0].state
    report.equal("after the hold it is", state, "deleted")


def _final(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Where deletion is final: a deletion asks for what a purge asks")
    reach = loaded(play.stage).others[TICKETS]
    tickets = CrewLook(reach["url"], reach["headers"])
    who = play.organisation.of("Ticketing", skip=9).user_name
    account = client.accounts.page(who=who, application=TICKETS).items[0].id
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete"))
    said = refused(lambda: client.plans.confirm(batch))
    report.check("it has to be typed", "Type" in said, said)
    with second(play) as other:
        number = client.plans.confirm(batch, typed="purge 1")[0].number
        report.equal("it waits", client.dockets.show(number).state, "awaiting")
        report.check("the application still has it", tickets.user(who) is not None)
        (row,) = client.approvals.all(docket=number)
        other.approvals.answer(row.id, agrees=True, note="seen")
    list(client.dockets.follow(number))
    report.equal("gone from the application", tickets.user(who), None)


def _purge(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Purged before its time: typed, and agreed to by a second operator")
    who = play.organisation.of("Deck", skip=14).user_name
    play.confirm(play.plan(Verb.LEAVER, who))
    account = client.accounts.page(who=who, application=REPORTING).items[0].id
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="purge"))
    report.check("the plan says it cannot be put back", batch.plans[0].steps[0].irreversible)
    said = refused(lambda: client.plans.confirm(batch))
    report.check("it has to be typed", "Type" in said, said)
    with second(play) as other:
        number = client.plans.confirm(batch, typed=who)[0].number
        report.equal("it waits", client.dockets.show(number).state, "awaiting")
        row = client.approvals.all(docket=number)[0]
        said = refused(lambda: client.approvals.answer(row.id, agrees=True))
        report.check("whoever asked cannot agree", "their own doing" in said, said)
        other.approvals.answer(row.id, agrees=True, note="seen")
    list(client.dockets.follow(number))
    report.equal("gone from the database", play.reporting.role(who), None)
    left = [a.application_name for a in client.people.show(who).accounts if a.state != "purged"]
    report.check("what is left elsewhere is listed", bool(left), left)
    report.note(f"left: {', '.join(sorted(left))}")


def _two_at_once(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Two operators act on the same person")
    who = play.organisation.of("Deck", skip=16).user_name
    with second(play) as other:
        mine = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who]))
        plan = wl.NewPlan(verb=Verb.MOVER, who=[who], changes={"department": "Safety"})
        theirs = other.plans.make(plan)
        play.follow(client.plans.confirm(mine))
        said = refused(lambda: other.plans.confirm(theirs))
    report.check("the second is told", "have changed" in said, said)
    report.equal("and nothing of it happened", client.people.show(who).department, "Deck")
