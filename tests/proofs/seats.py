"""The proof ``seats``: no seat wasted, none missing on the day; counted in the application itself."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import yaml

from tests.proofs.play import Play
from tests.proofs.reasons import without_reason
from tests.signing import for_now, token_of
from yugum.client import Client
from yugum.core.decisions import DecisionKind
from yugum.core.verbs import Verb
from yugum.errors import Forbidden
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import orders as wo
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import reservations as wrs
from yugum.wire import seats as wse
from yugum_standins.load import advance
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, MAIL, MAILBOX, PLANNER, RULES

DESK = "desk"
BASE, EXTRA, PART, SUITE = "Desk basic", "Desk charts", "Desk notes", "Desk complete"
BUYER = "purchasing@morrowsound.example"
LICENSES = {BASE: 90, EXTRA: 90, PART: 90, SUITE: 90}


def seats(play: Play) -> None:
    """A line by priority, what needs what, a suite without a gap, overruns, terms, the unused."""
    look = _desk(play)
    _line(play, look)
    _order(play, look)
    _suite(play, look)
    _overrun(play, look)
    _back(play, look)
    _passed_on(play, look)
    _carries_mail(play)
    _terms(play, look)
    _asked(play)
    report, client = play.report, play.client
    report.section("The books and the application")
    for pool in _pools(play):
        report.equal(
            f"{pool.license}: the books say what the application counts",
            pool.held,
            look.taken(pool.license),
        )
    holders = {
        h.person_id for p in client.seats.all() for h in client.seats.holders(p.id) if h.person_id
    }
    report.check("many hold a seat", len(holders) > 40, len(holders))
    report.equal(
        "every holder who works has a reason in force",
        [seat for who in sorted(holders) for seat in without_reason(client, who)],
        [],
    )
    kinds = {f.kind.value for f in client.findings.all()}
    report.check("another number than was entered is a finding", "seats-differ" in kinds, kinds)


def _desk(play: Play) -> CrewLook:
    """An application that sells four licenses, and roles by title that give them."""
    document: dict[str, Any] = {"groups": [], "users": [], "licenses": LICENSES}
    made = play.stage.standin(DESK, document)
    client = play.client
    client.applications.connect(
        wap.ConnectApplication(
            id=DESK,
            name="Service desk",
            kind="scim",
            trust="full",
            url=f"{made['url']}/scim/v2",
            secret=made["token"],
        )
    )
    rules = yaml.safe_load(RULES)
    gives = {
        "Desk hand": [BASE],
        "Desk reader": [EXTRA],
        "Desk drawer": [EXTRA, BASE],
        "Desk writer": [PART],
        "Desk head": [SUITE, PART],
        "Desk guest": [SUITE],
    }
    for title, items in gives.items():
        given = [{"application": DESK, "seats": items}]
        rules["roles"][title] = {"when": f'title eq "{title}"', "gives": given}
    rules["licenses"] = {
        DESK: {
            BASE: {"priority": ['site eq "Brae Point"']},
            EXTRA: {"requires": [BASE]},
            SUITE: {"contains": [PART], "instead_of": [EXTRA], "when_empty": "overrun"},
        }
    }
    mailer = {"application": MAIL, "seats": [MAILBOX]}
    rules["roles"]["Desk mailer"] = {"when": 'title eq "Desk mailer"', "gives": [mailer]}
    rules["licenses"][MAIL] = {MAILBOX: {"carries": ["mail"]}}
    rules["licenses"][CREW] = {PLANNER: {"unused_days": 30, "ask_days": 3}}
    rules["seats"] = {"orders_to": [BUYER]}
    client.rules.adopt(yaml.safe_dump(rules), "service desk", take_away=10_000)
    for license in LICENSES:
        _buy(play, license, 0)
    return CrewLook(made["url"], made["headers"])


def _pools(play: Play) -> list[wse.PoolRow]:
    return [p for p in play.client.seats.all() if p.application_id == DESK]


def _pool(play: Play, license: str) -> wse.PoolRow:
    return next(p for p in _pools(play) if p.license == license)


def _buy(play: Play, license: str, bought: int, **more: Any) -> None:
    body = wse.PutPool(application_id=DESK, license=license, bought=bought, **more)
    play.client.seats.put(body)


def _new(play: Play, login: str, title: str, **more: str) -> str:
    person = wp.NewPerson(
        user_name=login,
        given_name=login.title(),
        family_name="Deskman",
        title=title,
        **more,
    )
    play.client.people.create([person])
    play.client.plans.confirm(play.plan(Verb.JOINER, login))
    return login


def _holds(play: Play, look: CrewLook, login: str, wanted: Sequence[str]) -> bool:
    def seen() -> bool:
        return look.user(login) is not None and sorted(look.seats(login)) == sorted(wanted)

    play.until(seen)
    return seen()


def _line(play: Play, look: CrewLook) -> None:
    report, client = play.report, play.client
    report.section("Nobody's seat is free: a line by priority, served within one batch")
    _buy(play, BASE, 1)
    first = _new(play, "desk1", "Desk hand")
    report.check("the first has the seat", _holds(play, look, first, [BASE]))
    late = _new(play, "desk2", "Desk hand", site="Oxhaven")
    early = _new(play, "desk3", "Desk hand", site="Brae Point")
    play.until(lambda: _pool(play, BASE).waiting == 2)
    line = [h.login for h in client.seats.holders(_pool(play, BASE).id) if h.place]
    report.equal("the stated priority is first in line", line, [early, late])
    report.equal("the application counts one", look.taken(BASE), 1)
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[first, "desk2"], urgent=True))
    play.follow(client.plans.confirm(batch))
    report.check("the leaver's seat reached her at once", _holds(play, look, early, [BASE]))
    report.equal("who left gave up the place", _pool(play, BASE).waiting, 0)


def _order(play: Play, look: CrewLook) -> None:
    report = play.report
    report.section("What needs what")
    _buy(play, EXTRA, 9)
    _new(play, "desk4", "Desk reader")
    report.check("an add-on without its base is not given", _holds(play, look, "desk4", []))
    line = next(x for x in play.client.people.show("desk4").standing if x.item == EXTRA)
    report.equal("and is a finding", (line.status, line.code), ("finding", "no-base"))
    _new(play, "desk5", "Desk drawer")
    play.until(lambda: _pool(play, BASE).waiting == 1)
    report.check("an add-on waits with its base", _holds(play, look, "desk5", []))
    _buy(play, BASE, 2)
    report.check("both come once there is one", _holds(play, look, "desk5", [BASE, EXTRA]))
    taken = [e["detail"] for e in look.log() if e["effect"] == "seat.taken"][-2:]
    report.equal("the base first, by the application's log", taken, [BASE, EXTRA])
    play.confirm(play.plan(Verb.MOVER, "desk5", changes={"title": "Deckhand"}))
    report.check("and both go", _holds(play, look, "desk5", []))
    freed = [e["detail"] for e in look.log() if e["effect"] == "seat.freed"][-2:]
    report.equal("the add-on first", freed, [EXTRA, BASE])


def _suite(play: Play, look: CrewLook) -> None:
    report = play.report
    report.section("A suite takes the place of its part without a gap")
    _buy(play, PART, 2)
    _new(play, "desk6", "Desk writer")
    report.check("the part is held", _holds(play, look, "desk6", [PART]))
    _buy(play, SUITE, 1)
    batch = play.plan(Verb.MOVER, "desk6", changes={"title": "Desk head"})
    play.client.plans.confirm(batch)
    report.check("then the suite alone", _holds(play, look, "desk6", [SUITE]))
    last = [e for e in look.log() if e["effect"].startswith("seat.")][-2:]
    said = [(e["effect"], e["detail"]) for e in last]
    report.equal(
        "taken before the part was freed", said, [("seat.taken", SUITE), ("seat.freed", PART)]
    )


def _overrun(play: Play, look: CrewLook) -> None:
    report = play.report
    report.section("A license that may be overrun")
    _new(play, "desk7", "Desk guest")
    report.check("a seat is taken though none is free", _holds(play, look, "desk7", [SUITE]))
    pool = _pool(play, SUITE)
    report.equal("flagged and counted", (pool.bought, pool.held, pool.over), (1, 2, 1))
    _buy(play, SUITE, 2)
    report.equal("cured", _pool(play, SUITE).over, 0)


def _back(play: Play, look: CrewLook) -> None:
    report, client = play.report, play.client
    report.section("A seat that is one too many comes back")
    _buy(play, SUITE, 3, price=Decimal("31.50"))
    payload = {"application": DESK, "kind": "seat", "item": SUITE}
    _new(play, "desk8", "Desk drawer")
    report.check("base and add-on", _holds(play, look, "desk8", [BASE, EXTRA]))
    client.decisions.make(
        wde.NewDecision(
            who="desk8", kind=DecisionKind.GRANT, payload=payload, reason="for the fair"
        )
    )
    play.confirm(play.plan(Verb.RECHECK, "desk8"))
    report.check("and a suite by hand", _holds(play, look, "desk8", [BASE, EXTRA, SUITE]))
    rows = list(client.seats.reclaimable(_pool(play, SUITE).id))
    report.equal(
        "listed with why and what it costs",
        [(r.login, str(r.reason), {c: str(a) for c, a in r.cost.items()}) for r in rows],
        [("desk8", "twice", {"EUR": "31.50"})],
    )
    batch = client.seats.reclaim(
        _pool(play, SUITE).id, [r.person_id or "" for r in rows], "the charts do"
    )
    report.check("looked at, nothing taken", _holds(play, look, "desk8", [BASE, EXTRA, SUITE]))
    play.follow(client.plans.confirm(batch))
    report.check("confirmed, it is back", _holds(play, look, "desk8", [BASE, EXTRA]))


def _terms(play: Play, look: CrewLook) -> None:
    report, client = play.report, play.client
    report.section("Terms, the day it runs short, the order that arrives")
    today = play.now.date()
    pool = _pool(play, PART)
    _new(play, "desk9", "Desk writer")
    report.check("a seat of the part", _holds(play, look, "desk9", [PART]))
    whole = client.seats.show(pool.id).purchases[0]
    ends = today + timedelta(days=10)
    client.seats.change(pool.id, whole.id, wse.PutPurchase(count=2, ends=ends, reference="PO 1"))
    client.people.create(
        [
            wp.NewPerson(
                user_name="desk10",
                given_name="Ten",
                family_name="Deskman",
                title="Desk writer",
                starts=str(today + timedelta(days=5)),
            )
        ]
    )
    found = client.seats.forecast(pool.id)
    report.equal("it names the day the term ends", found.short_on, ends + timedelta(days=1))
    report.equal("and how many are lacking then", found.lacking, 2)
    begins = ends + timedelta(days=1)
    order = _order_of_the_lacking(play, pool.id, begins)
    report.equal("the order covers it", client.seats.forecast(pool.id).short_on, None)
    advance(client, f"{begins} 09:00")
    play.until(lambda: _pool(play, PART).bought == 0)
    report.equal("the term has ended, nobody lost a seat", _pool(play, PART).over, 2)
    waits = _new(play, "desk13", "Desk writer")
    play.until(lambda: _pool(play, PART).waiting == 1)
    report.equal(
        "the order says whom it serves",
        [s.login for s in client.orders.show(order).serves],
        [waits],
    )
    arrived = client.orders.arrive(order)
    report.equal("it has arrived", (arrived.state.value, arrived.arrived), ("arrived", 3))
    report.check("and serves", _holds(play, look, waits, [PART]))
    report.equal("cured", _pool(play, PART).over, 0)


def _order_of_the_lacking(play: Play, pool_id: str, on: date) -> str:
    """Ask for one more than the forecast says are lacking; somebody else agrees, and it is promised."""
    report, client = play.report, play.client
    found = client.seats.forecast(pool_id)
    new = wo.NewOrder(
        pool_id=pool_id, count=found.lacking + 1, needed_by=found.short_on, reason="the forecast"
    )
    order = client.orders.ask(new)
    refused = ""
    with (
        for_now(client, "buyer", "administrator"),
        Client(play.stage.url, token_of(client, play.stage.url, "buyer")) as other,
    ):
        try:
            client.orders.decide(order.id, agreed=True)
        except Forbidden as error:
            refused = error.message
        report.equal(
            "who asked does not agree to it", refused, "Nobody agrees to what they asked for."
        )
        other.orders.decide(order.id, agreed=True)
    mail = play.post.wait(BUYER, order.name)
    report.check("the order goes out", f"{order.name},Service desk,{PART},3" in mail["text"], mail)
    client.orders.expect(order.id, on, "K 12")
    return order.id


def _passed_on(play: Play, look: CrewLook) -> None:
    report, client = play.report, play.client
    report.section("A seat passed to a named replacement does not go to the line")
    pool = _pool(play, BASE)
    _buy(play, BASE, pool.held)
    waits = _new(play, "desk11", "Desk hand", site="Brae Point")
    client.people.create(
        [
            wp.NewPerson(
                user_name="desk12", given_name="Twelve", family_name="Deskman", title="Desk hand"
            )
        ]
    )
    play.until(lambda: _pool(play, BASE).waiting > 0)
    holder = next(h.login for h in client.seats.holders(pool.id) if h.state == "held" and h.login)
    new = wrs.NewReservation(person="desk12", holder=holder, reason="takes over")
    client.seats.reserve(pool.id, new)
    taken = look.taken(BASE)
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[holder], urgent=True))
    play.follow(client.plans.confirm(batch))
    report.check("the leaver's seat is back", _holds(play, look, holder, []))
    report.equal("the application counts one less", look.taken(BASE), taken - 1)
    report.check("and the line still waits", _holds(play, look, waits, []))
    client.plans.confirm(play.plan(Verb.JOINER, "desk12"))
    report.check("the replacement has it", _holds(play, look, "desk12", [BASE]))
    report.equal("as many as before", look.taken(BASE), taken)


def _carries_mail(play: Play) -> None:
    """A leaver's mailbox stays while mail is forwarded, and goes on its day."""
    report, client = play.report, play.client
    report.section("A seat that carries mail waits for its date")
    other = play.organisation.others[MAIL]
    mail = CrewLook(other["url"], other["headers"])
    boss = play.organisation.of("Safety")
    login = _new(play, "desk20", "Desk mailer", manager=boss.user_name)
    report.check("somebody has a mailbox", _holds(play, mail, login, [MAILBOX]))
    taken = mail.taken(MAILBOX)
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
    stays = [s.reason for s in batch.plans[0].stays if s.item == MAILBOX]
    report.note(" ".join(stays))
    ends = play.now.date() + timedelta(days=21)
    report.equal("the plan says until when", stays, [f"carries mail until {ends:%-d %b %Y}"])
    play.follow(client.plans.confirm(batch))
    report.check("they have left, the mailbox is there", _holds(play, mail, login, [MAILBOX]))
    advance(client, f"{ends + timedelta(days=1)} 09:00")
    report.check("on its day it goes by itself", _holds(play, mail, login, []))
    report.equal("the application counts one less", mail.taken(MAILBOX), taken - 1)


def _asked(play: Play) -> None:
    """Whoever does not use a seat is asked: one keeps it, another's is taken back."""
    report, client = play.report, play.client
    report.section("One who does not use a seat is asked and keeps it, another's is taken back")
    pool = next(p for p in client.seats.all() if p.license == PLANNER)
    report.check("somebody is asked", client.seats.ask_unused(pool.id) > 1)
    asked = [r.login for r in client.seats.asked(pool.id)]
    keeps, silent = sorted(asked)[:2]
    mail = play.post.wait(client.people.show(keeps).mail, "Do you still need")
    said = client.seats.answer(mail["text"].rsplit("/k#", 1)[1].strip(), keeps=True)
    report.equal("the answer is kept", said.answer.value, "kept")
    early = {r.login for r in client.seats.reclaimable(pool.id)}
    report.check("nobody else is listed before the time to answer is over", silent not in early)
    advance(client, f"{play.now.date() + timedelta(days=4)} 09:00")
    rows = {r.login: r for r in client.seats.reclaimable(pool.id)}
    report.check("who said nothing is", silent in rows)
    report.check("who answered is not", keeps not in rows)
    taken = play.crew.taken(PLANNER)
    batch = client.seats.reclaim(pool.id, [rows[silent].person_id or ""], "not used")
    play.follow(client.plans.confirm(batch))
    play.until(lambda: PLANNER not in play.crew.seats(silent))
    report.check("the seat is back", PLANNER not in play.crew.seats(silent))
    report.check("the other is there", PLANNER in play.crew.seats(keeps))
    report.check("the application counts", play.crew.taken(PLANNER) <= taken, taken)
