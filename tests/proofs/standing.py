"""What should be stays so: the scenes, each with what the applications themselves answer."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from tests.proofs.leaver import refused
from tests.proofs.play import Play
from yugum.core.accounts import AccountKind
from yugum.core.dockets import Settlement
from yugum.core.lines import LineKind, Side
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import standing as wst
from yugum_standins.load import advance, loaded
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, REPORTING, TICKETS

INCIDENT_LOG, INCIDENTS = "incident-log", "Incident log"


def standing(play: Play) -> None:
    """Ends, faults, holds, links and looks: after each the applications hold what they should."""
    _one_application_down(play)
    _closing_day(play)
    _under_a_hold(play)
    _differences(play)
    _suspended_outside(play)
    _linked_late(play)
    _linked_by_hand(play)
    _pair(play)
    _times(play)
    _exceptions(play)
    _clock_change(play)


def lines(play: Play, who: str) -> dict[tuple[str, str, str, str], wst.StandingRow]:
    """The lines of somebody by application, kind, item and side."""
    rows = play.client.people.show(who).standing
    return {(r.application_id, r.kind.value, r.item, r.side.value): r for r in rows}


def _one_application_down(play: Play) -> None:
    report, client = play.report, play.client
    report.section("One application is down: nothing else waits for it")
    who = play.organisation.of("Safety", skip=0).user_name
    play.crew.fault(down=1)
    batch = play.plan(Verb.LEAVER, who)
    docket = client.plans.confirm(batch, reference="PROOF-2")[0]
    left = play.now
    play.until(lambda: play.reporting.role(who) is False)
    report.equal("the database lets nobody in", play.reporting.role(who), False)
    play.until(lambda: play.directory.locked(who))
    report.check("the directory is locked", play.directory.locked(who))
    key = (CREW, "account", "", "too_much")
    play.until(lambda: lines(play, who)[key].status.value == "waiting")
    line = lines(play, who)[key]
    report.equal("the line waits for the application", line.code, "no-answer")
    report.equal("since the end of access", line.since, left)
    report.equal("with the docket", line.docket, docket.number)
    advance(client, (left + timedelta(days=14)).isoformat())
    mark = play.reporting.mark(who)
    report.check("14 days on the database has parked it all the same", "until" in mark, mark)
    report.check("a docket still has it in hand", lines(play, who)[key].docket is not None)
    seen = client.day().standing
    report.check(
        "the day sheet says so", any(r.user_name == who and r.code == "no-answer" for r in seen)
    )
    play.crew.fault(down=0)
    play.until(lambda: play.crew.user(who) is None, 90)
    report.check(
        "it answers again: cut off, then closed, its day being past",
        play.crew.deleted(who) is not None,
    )
    advance(client, "+1h")
    report.equal("nothing is left of it", lines(play, who), {})


def _closing_day(play: Play) -> None:
    report, client = play.report, play.client
    report.section("The closing day of a mover's account stays what it is")
    who = play.organisation.of("Safety", skip=1).user_name
    play.confirm(play.plan(Verb.MOVER, who, changes={"department": "Harbour Operations"}))
    moved = play.now

    def due() -> list[datetime]:
        entries = client.calendar(kinds=["close"])
        name = client.people.show(who).display_name
        return [e.at for e in entries if (e.display_name, e.application_name) == (name, INCIDENTS)]

    play.until(lambda: bool(due()))
    day = moved + timedelta(days=30)
    report.equal("30 days after the move", due(), [day])
    advance(client, "+3d")
    play.confirm(play.plan(Verb.MOVER, who, changes={"title": "Berth planner"}))
    held = client.hold(CREW, reason="an audit")
    advance(client, "+3d")
    client.decisions.end(held.id)
    advance(client, "+1h")
    report.equal("a later docket and the end of a hold elsewhere move nothing", due(), [day])
    texts = [s.text for s in client.people.show(who).next]
    report.check(
        "their page says the same", f"Deleted in {INCIDENTS}, can come back" in texts, texts
    )
    advance(client, (day - timedelta(seconds=1)).isoformat())
    report.equal("a second before it is there", _state(play, who, INCIDENT_LOG), "suspended")
    advance(client, day.isoformat())
    play.until(lambda: _state(play, who, INCIDENT_LOG) == "deleted")
    report.equal("on its day it is closed", _state(play, who, INCIDENT_LOG), "deleted")


def _state(play: Play, who: str, application: str) -> str:
    return play.account(who, application).state.value


def _under_a_hold(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Under a hold nothing promises a deletion")
    who = play.organisation.of("Safety", skip=2).user_name
    made = client.decisions.make(wde.NewDecision(who=who, kind="hold", reason="a claim"))
    play.confirm(play.plan(Verb.LEAVER, who))
    left = play.now
    view = client.people.show(who)
    texts = [s.text for s in view.next]
    report.check("not their page", not any("Deleted" in t or "cannot" in t for t in texts), texts)
    bars = {b.state.value for a in view.accounts for b in a.bars if b.planned}
    report.equal("not the lifeline", bars & {"deleted", "purged"}, set())
    entries = [e for e in client.calendar(kinds=["close", "purge"]) if e.person_id == view.id]
    report.equal("not the calendar", entries, [])
    advance(client, (left + timedelta(days=31)).isoformat())
    report.equal("a month on it is there", (play.crew.user(who) or {})["active"], False)
    client.decisions.end(made.id)
    play.until(lambda: play.crew.user(who) is None)
    report.check("once the hold is ended it is closed", play.crew.deleted(who) is not None)


def _differences(play: Play) -> None:
    report, client = play.report, play.client
    report.section("What is missing is found, accepted, and put right by one press")
    one = play.organisation.of("Engine Room", skip=2).user_name
    play.crew.leave(one, "Rosters")
    client.applications.read(CREW)
    key = (CREW, "entitlement", "Rosters", "missing")
    play.until(lambda: key in lines(play, one))
    report.equal("it is a finding", lines(play, one)[key].status.value, "finding")
    play.until(lambda: any(f.login == one for f in client.findings.all("missing")))
    found = [f.text for f in client.findings.all("missing") if f.login == one]
    report.equal(
        "among the findings too", found, ["entitlement Rosters is missing (role Engine Room)"]
    )
    client.standing.accept(
        wst.Accept(
            who=one,
            application_id=CREW,
            kind=LineKind.ENTITLEMENT,
            item="Rosters",
            side=Side.MISSING,
            reason="on another watch",
            ends="+2d",
        )
    )
    report.equal("accepted for two days", lines(play, one)[key].status.value, "accepted")
    said = refused(
        lambda: client.standing.accept(
            wst.Accept(
                who=one,
                application_id=CREW,
                kind=LineKind.SEAT,
                item="x",
                side=Side.MISSING,
                reason="y",
            )
        )
    )
    report.check("what does not differ cannot be", "differs" in said, said)
    advance(client, "+2d")
    report.equal("then it counts again", lines(play, one)[key].status.value, "finding")
    play.confirm(play.plan(Verb.RECHECK, one))
    report.check("the application has it again", "Rosters" in play.crew.groups(one))
    report.equal("and nothing is left", lines(play, one), {})
    report.section("A move with a date stands in what happens next")
    two = play.organisation.of("Engine Room", skip=3).user_name
    wednesday = play.now + timedelta(days=3)
    batch = play.plan(Verb.MOVER, two, changes={"department": "Safety"}, at=wednesday.isoformat())
    docket = client.plans.confirm(batch)[0]
    steps = [(s.at, s.docket) for s in client.people.show(two).next if s.docket]
    report.equal("with its docket", steps, [(docket.due_at, docket.number)])


def _suspended_outside(play: Play) -> None:
    report, client = play.report, play.client
    report.section("An account is suspended outside")
    who = play.organisation.of("Timetables", skip=4).user_name
    play.crew.suspend(who)
    client.applications.read(CREW)
    row = next(d for d in client.findings.outside(CREW) if d.login == who)
    means = [m.value for m in row.means]
    report.equal("it may mean three things", means, ["leaver", "absence", "precaution"])
    asked = wl.NewPlan(verb=Verb.ACCOUNT, action=Quick.SUSPEND, accounts=row.elsewhere)
    play.confirm(client.plans.make(asked))
    report.equal("as a precaution: the database lets nobody in", play.reporting.role(who), False)
    report.check("the directory is locked", play.directory.locked(who))


def _linked_late(play: Play) -> None:
    report, client = play.report, play.client
    report.section("An account is there before its person is known")
    play.crew.add("early1", "Early Bird")
    client.applications.read(CREW)
    account = next(a for a in client.accounts.all(application=CREW) if a.login == "early1")
    report.equal("it is nobody's", account.person_id, None)
    client.people.create(
        [
            wp.NewPerson(
                user_name="early1", given_name="Early", family_name="Bird", department="Engine Room"
            )
        ]
    )
    mine = client.people.show("early1").accounts
    report.equal("it is theirs as soon as they are there", [a.login for a in mine], ["early1"])
    key = (CREW, "entitlement", "Engine crew", "missing")
    play.until(lambda: key in lines(play, "early1"))
    play.confirm(play.plan(Verb.RECHECK, "early1"))
    report.check("what their role gives follows", "Engine crew" in play.crew.groups("early1"))


def _linked_by_hand(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A docket is stuck for want of an account, which somebody links by hand")
    play.crew.add("late2", "Late Bird", kind="service")
    client.people.create(
        [
            wp.NewPerson(
                user_name="late2", given_name="Late", family_name="Bird", department="Engine Room"
            )
        ]
    )
    docket = play.confirm(play.plan(Verb.JOINER, "late2"))
    key = (CREW, "entitlement", "Engine crew", "missing")
    play.until(lambda: lines(play, "late2")[key].status.value == "waiting")
    report.equal("the login is taken there", lines(play, "late2")[key].status.value, "waiting")
    report.equal("the application gave nothing", play.crew.groups("late2"), set())
    client.applications.read(CREW)
    account = next(a for a in client.accounts.all(application=CREW) if a.login == "late2")
    report.equal("the account that is there is nobody's", account.person_id, None)
    client.accounts.link(account.id, "late2", AccountKind.PERSON)
    play.until(lambda: "Engine crew" in play.crew.groups("late2"))
    report.check("linked, what the role gives follows", "Engine crew" in play.crew.groups("late2"))
    play.until(lambda: not lines(play, "late2"))
    report.equal("nothing is left that differs", lines(play, "late2"), {})
    play.until(lambda: client.dockets.show(docket.number).state != "running")
    report.check(
        "and the docket is not stuck any more",
        client.dockets.show(docket.number).state in ("done", "superseded"),
        client.dockets.show(docket.number).state,
    )


def _pair(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Of a pair that excludes itself, the one that comes waits for the one that goes")
    who = play.organisation.of("Ticketing", skip=1).user_name
    reach = loaded(play.stage).others[TICKETS]
    tickets = CrewLook(reach["url"], reach["headers"])
    tickets.fault(down=1)
    for kind, application, item in (
        ("deny", TICKETS, "Counter"),
        ("grant", REPORTING, "finance_reports"),
    ):
        payload = wde.DecisionPayload(application=application, kind="entitlement", item=item)
        asked = wde.NewDecision(who=who, kind=kind, payload=payload, reason="books from now on")
        client.decisions.make(asked)
    docket = play.confirm(play.plan(Verb.RECHECK, who))
    key = (REPORTING, "entitlement", "finance_reports", "missing")
    play.until(lambda: lines(play, who)[key].code == "pair")
    report.equal("it waits for the other", lines(play, who)[key].code, "pair")
    mine = play.reporting.groups(who)
    report.check("the database has not given it", "finance_reports" not in mine, mine)
    tickets.fault(down=0)
    for step in client.dockets.show(docket.number).steps:
        if step.application_id == TICKETS and step.problem is not None:
            with suppress(Conflict):  # it has gone on by itself meanwhile
                client.dockets.settle(step.id, Settlement.RETRY)
    play.until(lambda: "finance_reports" in play.reporting.groups(who), seconds=90)
    report.equal("the one is gone", tickets.groups(who), set())
    mine = play.reporting.groups(who)
    report.check("then the other has come", "finance_reports" in mine, mine)


def _times(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A last working day ends with its shift")
    who = play.organisation.of("Safety", skip=6).user_name
    zone = ZoneInfo(client.people.show(who).time_zone)
    day = (play.now.astimezone(zone) + timedelta(days=2)).date()
    batch = play.plan(Verb.LEAVER, who, at=day.isoformat())
    ends = datetime.combine(day, time(17), zone)
    report.equal("the plan is due at 17:00 there", batch.plans[0].due_at, ends)
    client.plans.confirm(batch, reference="PROOF-2")
    advance(client, (ends - timedelta(minutes=1)).isoformat())
    report.equal("a minute before, the database lets them in", play.reporting.role(who), True)
    advance(client, ends.isoformat())
    play.until(lambda: play.reporting.role(who) is False)
    report.equal("then it does not", play.reporting.role(who), False)
    name = client.people.show(who).display_name
    due = {
        e.application_name: e.at for e in client.calendar(kinds=["close"]) if e.display_name == name
    }
    closes = datetime.combine(day + timedelta(days=14), time(17), zone)
    report.equal("a closing is so many calendar days later", due["Reporting database"], closes)

    report.section("Access that goes on after the last working day ends at midnight")
    other = play.organisation.of("Safety", skip=7).user_name
    last = (day + timedelta(days=3)).isoformat()
    batch = play.plan(Verb.LEAVER, other, at=last, last_day=day.isoformat())
    midnight = datetime.combine(day + timedelta(days=4), time(0), zone)
    report.equal("after that day", batch.plans[0].due_at, midnight)


def _given(play: Play, who: str, ends: str) -> list[str]:
    """An exception for an entitlement and a seat of an application that no role of theirs gives."""
    client, made = play.client, []
    for kind, item in (("entitlement", "Counter"), ("seat", "Seller")):
        payload = wde.DecisionPayload(application=TICKETS, kind=kind, item=item)
        asked = wde.NewDecision(
            who=who, kind="grant", payload=payload, reason="the fair", ends=ends
        )
        made.append(client.decisions.make(asked).id)
    play.confirm(play.plan(Verb.MOVER, who, changes={"title": "Helps at the fair"}))
    return made


def _exceptions(play: Play) -> None:
    report, client = play.report, play.client
    reach = loaded(play.stage).others[TICKETS]
    tickets = CrewLook(reach["url"], reach["headers"])
    report.section("An exception ends, in an application where no role gives an account")
    one, two = (play.organisation.of("Safety", skip=n).user_name for n in (3, 4))
    _given(play, one, "+2d")
    by_hand = _given(play, two, "")
    for who in (one, two):
        report.equal("the application has the account", tickets.groups(who), {"Counter"})
        report.equal("and its seat is taken", tickets.seats(who), ["Seller"])
    advance(client, "+2d")
    play.until(lambda: not (tickets.user(one) or {})["active"])
    report.equal("the account is cut off there", (tickets.user(one) or {})["active"], False)
    play.until(lambda: not tickets.seats(one))
    report.equal("the entitlement is gone", tickets.groups(one), set())
    report.equal("the seat is free", tickets.seats(one), [])
    dockets = list(client.dockets.all(who=one))
    reasons = {s.reason for s in client.dockets.show(dockets[0].number).steps}
    report.check("the docket says why", "the exception has ended" in reasons, reasons)

    report.section("An exception is ended by hand")
    for made in by_hand:
        client.decisions.end(made)
    play.until(lambda: not (tickets.user(two) or {})["active"])
    report.equal("the account is cut off there", (tickets.user(two) or {})["active"], False)
    play.until(lambda: not tickets.seats(two))
    report.equal("the seat is free", tickets.seats(two), [])
    said = refused(lambda: client.decisions.end(by_hand[0]))
    report.check("a second ending is refused", "in force" in said, said)

    report.section("Closing days later, once")
    advance(client, "+31d")
    for who in (one, two):
        play.until(lambda who=who: tickets.user(who) is None)  # type: ignore[misc]
        report.equal("the application has it no more", tickets.user(who), None)
        left = [d.verb for d in client.dockets.all(who=who)]
        report.equal("by one docket", left.count(Verb.CLOSE), 1)
    others = {a.application_id: a.state for a in client.people.show(one).accounts}
    others.pop(TICKETS)
    report.equal("everything else is as it was", set(others.values()), {"active"})


def _clock_change(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A time that there is not, on the night the clocks change")
    who = play.organisation.of("Safety", skip=5).user_name
    asked = wl.NewPlan(verb=Verb.LEAVER, who=[who], at="2032-03-28 01:30")
    said = refused(lambda: client.plans.make(asked))
    report.check("it is refused with both neighbours", "00:59" in said and "02:00" in said, said)
