"""Seats: what was bought for which term, who may have one, in which order, and what comes."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from datetime import timedelta
from decimal import Decimal
from typing import Any

import pytest
import yaml

from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.waiting import until
from yugum.client import Client
from yugum.core.reclaim import ReclaimReason
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.wire import plans as wl
from yugum.wire import seats as ws
from yugum_standins.morrow import CREW, PLANNER, REPORTING, RULES

USUAL = ("Mailbox", "Reporting user")
"""What everybody of the department has."""


def pool_of(client: Client, license: str, bought: int | None = None, **more: Any) -> ws.PoolView:
    body = ws.PutPool(application_id=REPORTING, license=license, bought=bought, **more)
    return client.seats.put(body)


def named(word: str = "License") -> str:
    return f"{word} {uuid.uuid4().hex[:6]}"


def held(client: Client, login: str) -> dict[str, str]:
    """Seats of the licenses that a test made, by their states."""
    seats = client.people.show(login).seats
    return {s.license: s.state.value for s in seats if s.license not in USUAL}


def planned(client: Client, login: str, verb: Verb = Verb.JOINER, **more: Any) -> wl.PlanView:
    batch = client.plans.make(wl.NewPlan(verb=verb, who=[login], **more))
    return batch.plans[0]


def done(client: Client, login: str, verb: Verb = Verb.JOINER, **more: Any) -> str:
    batch = client.plans.make(wl.NewPlan(verb=verb, who=[login], **more))
    number = client.plans.confirm(batch)[0].number
    list(client.dockets.follow(number))
    return number


@pytest.fixture
def restored(theatre: Theatre) -> Iterator[None]:
    yield
    theatre.client.rules.adopt(RULES, "as before", take_away=10_000)


def adopt(client: Client, licenses: dict[str, Any], **roles: list[str]) -> None:
    """Roles by title that give seats, and what is said of licenses."""
    document = yaml.safe_load(RULES)
    for title, seats in roles.items():
        document["roles"][title] = {
            "when": f'title eq "{title}"',
            "gives": [{"application": REPORTING, "seats": seats}],
        }
    document["licenses"] = {REPORTING: licenses}
    client.rules.adopt(yaml.safe_dump(document, sort_keys=False), "licenses", take_away=10_000)


def test_what_is_left_out_of_a_pool_stays_and_fewer_than_are_held_is_asked_about(
    theatre: Theatre, restored: None
) -> None:
    client, license = theatre.client, named()
    assert pool_of(client, license).price is None, "nobody has said it"
    pool_of(client, license, 2, price=Decimal("12.50"), currency="NOK", period="year")
    view = pool_of(client, license, notice_days=90)
    assert (view.bought, view.price, view.currency, view.period) == (
        2,
        Decimal("12.50"),
        "NOK",
        "year",
    )
    with pytest.raises(InvalidInput, match="no amount of JPY"):
        pool_of(client, license, currency="JPY", price=Decimal("1.50"))
    with pytest.raises(InvalidInput, match=r"12\.5 is no amount of JPY"):
        pool_of(client, license, currency="JPY")
    with pytest.raises(InvalidInput, match="no currency XQX"):
        pool_of(client, license, currency="XQX")
    adopt(client, {}, Bosun9=[license])
    login = newcomer(theatre, title="Bosun9")
    done(client, login)
    assert held(client, login) == {license: "held"}
    with pytest.raises(Conflict, match="1 hold a seat"):
        pool_of(client, license, 0)
    assert client.seats.show(view.id).bought == 2, "nothing half-done"
    assert pool_of(client, license, 0, below=True).over == 1
    with pytest.raises(Conflict, match="1 hold a seat"):
        client.seats.remove(view.id)
    spare = pool_of(client, named(), 1)
    client.seats.remove(spare.id)
    with pytest.raises(NotFound):
        client.seats.show(spare.id)


def test_seats_are_bought_for_terms_by_commands(theatre: Theatre) -> None:
    client, license = theatre.client, named()
    today = client.clock.show().now.date()
    name = f"{REPORTING}/{license}"
    cli(theatre, "seats", "pool", REPORTING, license, "--price", "4.5", "--notice-days", "30")
    first, last = today - timedelta(days=9), today + timedelta(days=20)
    said = cli(
        theatre,
        *("seats", "buy", name, "5", "--begins", str(first), "--ends", str(last)),
        *("--reference", "PO 17"),
    ).stdout
    assert "5 bought" in said
    assert f"to {last} (PO 17)" in said
    begins = today + timedelta(days=5)
    view = client.seats.buy(
        _id(client, license),
        ws.PutPurchase(count=3, begins=begins),
    )
    assert view.bought == 5, "the other term has not begun"
    assert "4.50 EUR a month" in cli(theatre, "seats", "show", name).stdout
    forecast = client.seats.forecast(view.id)
    assert forecast.short_on is None
    assert forecast.periods[0].bought == 5
    assert min(p.bought for p in forecast.periods) == 3
    renewal = forecast.renewals[0]
    assert (renewal.ends, renewal.decide_by, renewal.lacking) == (last, today, 0)
    assert "decide by" in cli(theatre, "seats", "forecast", name).stdout
    with pytest.raises(Conflict, match="purchases with terms"):
        pool_of(client, license, 9)
    wrong = cli(theatre, "seats", "buy", name, "1", "--begins", "soon")
    assert "2031-03-07" in wrong.stderr
    wrong = cli(theatre, "seats", "buy", name, "1", "--begins", str(last), "--ends", str(first))
    assert "before it begins" in wrong.stderr
    term = next(p for p in client.seats.show(view.id).purchases if p.reference)
    cli(theatre, "seats", "change", name, term.id, "6")
    term = next(p for p in client.seats.show(view.id).purchases if p.reference)
    assert (term.count, term.begins, term.ends) == (6, first, last), "what is left out stays"
    cli(theatre, "seats", "change", name, term.id, "6", "--no-end")
    assert client.seats.forecast(view.id).renewals == []
    cli(theatre, "seats", "unbuy", name, term.id)
    assert client.seats.show(view.id).bought == 0
    with pytest.raises(NotFound):
        client.seats.unbuy(view.id, term.id)
    whole = pool_of(client, named(), 2)
    assert client.seats.unbuy(whole.id, whole.purchases[0].id).bought == 0, "nothing is left"


def _id(client: Client, license: str) -> str:
    return next(p.id for p in client.seats.all() if p.license == license)


def test_base_and_add_on_come_in_order_and_go_in_reverse(theatre: Theatre, restored: None) -> None:
    client, base, extra = theatre.client, named("Z base"), named("A add-on")
    for license in (base, extra):
        pool_of(client, license, 5)
    adopt(client, {extra: {"requires": [base]}}, Both7=[extra, base], Extra7=[extra])
    login = newcomer(theatre, title="Both7")
    taken = [s.item for s in planned(client, login).steps if s.action == "take_seat"]
    assert [i for i in taken if i in (base, extra)] == [base, extra]
    done(client, login)
    assert held(client, login).items() >= {base: "held", extra: "held"}.items()
    moved = planned(client, login, Verb.MOVER, changes={"title": "Deckhand"})
    assert [s.item for s in moved.steps if s.action == "free_seat"] == [extra, base]
    alone = newcomer(theatre, title="Extra7")
    plan = planned(client, alone)
    assert any(c.code == "no-base" and base in c.text for c in plan.cautions)
    assert extra not in [s.item for s in plan.steps]
    done(client, alone)
    (line,) = [x for x in client.people.show(alone).standing if x.item == extra]
    assert (line.status, line.code) == ("finding", "no-base")


def test_an_add_on_waits_until_its_base_is_there(theatre: Theatre, restored: None) -> None:
    client, base, extra = theatre.client, named("Base"), named("Add-on")
    pool_of(client, base, 0)
    pool_of(client, extra, 5)
    adopt(client, {extra: {"requires": [base]}}, Both8=[extra, base])
    login = newcomer(theatre, title="Both8")
    number = done(client, login)

    def problems() -> dict[str, str]:
        steps = client.dockets.show(number).steps
        return {s.item: s.problem.code for s in steps if s.problem}

    until(lambda: problems() == {base: "no-seat", extra: "needs-base"})
    pool_of(client, base, 1)
    until(lambda: held(client, login) == {base: "held", extra: "held"})


def test_a_suite_takes_the_place_of_its_part_without_a_gap(
    theatre: Theatre, restored: None
) -> None:
    client, suite, part = theatre.client, named("Suite"), named("Part")
    pool_of(client, suite, 0)
    pool_of(client, part, 5)
    adopt(client, {suite: {"contains": [part]}}, Part7=[part], Suite7=[suite, part])
    login = newcomer(theatre, title="Part7")
    done(client, login)
    batch = client.plans.make(wl.NewPlan(verb=Verb.MOVER, who=[login], changes={"title": "Suite7"}))
    assert any(f"not given beside {suite}" in c.text for c in batch.plans[0].cautions)
    number = client.plans.confirm(batch)[0].number
    list(client.dockets.follow(number))
    assert held(client, login) == {part: "held", suite: "waiting"}, "nothing goes before"
    pool_of(client, suite, 1)
    until(lambda: held(client, login) == {suite: "held"})
    until(lambda: client.dockets.show(number).state == "done")


def test_who_may_have_one_and_what_becomes_of_whom_where_none_is_free(
    theatre: Theatre, restored: None
) -> None:
    client, staff, none, more = theatre.client, named("Staff"), named("None"), named("More")
    for license, bought in ((staff, 5), (none, 0), (more, 0)):
        pool_of(client, license, bought)
    rules = {
        staff: {"who": 'userType eq "employee"'},
        none: {"when_empty": "block"},
        more: {"when_empty": "overrun"},
    }
    adopt(client, rules, Guest7=[staff, none, more])
    login = newcomer(theatre, title="Guest7", user_type="seasonal")
    plan = planned(client, login)
    codes = {c.code for c in plan.cautions}
    assert codes >= {"not-for-them", "no-seat-left", "overrun"}
    done(client, login)
    assert held(client, login) == {more: "held"}
    row = next(p for p in client.seats.all() if p.license == more)
    assert (row.held, row.bought, row.over) == (1, 0, 1)
    lines = {x.item: x.code for x in client.people.show(login).standing}
    assert lines == {staff: "not-for-them", none: "no-seat-left"}
    (over,) = [f for f in client.findings.all(kind="seats-over") if more in f.text]
    assert over.text == f"1 more of {more} are held than were bought"
    pool_of(client, more, 1)
    assert not [f for f in client.findings.all(kind="seats-over") if more in f.text]
    assert client.seats.show(row.id).over == 0, "cured"


def test_a_seat_goes_to_the_stated_priority_first(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    pool_of(client, license, 0)
    adopt(client, {license: {"priority": ['site eq "Oxhaven"']}}, Line7=[license])
    today = client.clock.show().now.date()
    people = [
        newcomer(theatre, title="Line7", starts=str(today)),
        newcomer(theatre, title="Line7", starts=str(today - timedelta(days=3))),
        newcomer(theatre, title="Line7", starts=str(today), site="Oxhaven"),
    ]
    for login in people:
        done(client, login)
    first, second, third = people[2], people[1], people[0]
    line = [h.login for h in client.seats.holders(_id(client, license))]
    assert line == [first, second, third]
    for bought, served in ((1, first), (2, second), (3, third)):
        pool_of(client, license, bought)
        until(lambda served=served: held(client, served) == {license: "held"})


def test_licenses_that_make_no_sense_are_mistakes_with_a_line(theatre: Theatre) -> None:
    base, extra = named("Base"), named("Extra")
    for license in (base, extra):
        pool_of(theatre.client, license, 1)
    licenses = {
        base: {"requires": [extra], "who": "nobody eq 1"},
        extra: {"requires": [base], "contains": ["No such"]},
    }
    document = {**yaml.safe_load(RULES), "licenses": {REPORTING: licenses}}
    problems = theatre.client.rules.check(yaml.safe_dump(document))
    texts = [p.message for p in problems]
    assert f"{base} requires itself." in texts
    assert "There is no pool of No such." in texts
    assert any("nobody" in t for t in texts)


def test_a_seat_comes_back_by_a_decision_and_stays_back(theatre: Theatre, restored: None) -> None:
    client, suite, part, found = theatre.client, named("Suite"), named("Part"), named("Found")
    for license in (suite, part, found):
        pool_of(client, license, 5, price=Decimal("7.50"))
    adopt(client, {}, Twice7=[suite, part], Kept7=[part])
    twice, kept = (newcomer(theatre, title=t) for t in ("Twice7", "Kept7"))
    for login in (twice, kept):
        done(client, login)
    assert not list(client.seats.reclaimable(_id(client, part)))
    adopt(client, {suite: {"instead_of": [part]}}, Twice7=[suite, part], Kept7=[part])
    (row,) = client.seats.reclaimable(_id(client, suite))
    assert (row.login, row.reason, row.cost) == (twice, "twice", {"EUR": Decimal("7.50")})
    name = f"{REPORTING}/{suite}"
    shown = cli(theatre, "seats", "reclaim", name).stdout
    assert "twice" in shown
    assert "7.50 EUR a month" in shown
    costs = [c for c in client.seats.cost() if c.license in (suite, part)]
    assert {(c.department, c.license, c.seats) for c in costs} == {
        ("Safety", suite, 1),
        ("Safety", part, 2),
    }
    assert {str(c.cost["EUR"]) for c in costs} == {"7.50", "15.00"}
    assert part in cli(theatre, "seats", "cost").stdout
    wrong = cli(theatre, "seats", "reclaim", name, kept, "--take", "--reason", "x", "--yes")
    assert "Nothing says" in wrong.stderr
    assert held(client, twice)[suite] == "held", "looking takes nothing"
    with pytest.raises(Conflict, match="has no seat"):
        client.seats.reclaim(_id(client, suite), [kept], "mistaken")
    with pytest.raises(NotFound):
        client.seats.reclaim(_id(client, suite), ["nobody-at-all"], "mistaken")
    client.seats.reclaim(_id(client, suite), [client.people.show(twice).id], "only looked at")
    assert not client.people.decisions(twice), "nothing is decided before it is confirmed"
    cli(theatre, "seats", "reclaim", name, "--take", "--reason", "one is enough", "--yes")
    assert held(client, twice) == {part: "held"}
    assert not [x for x in client.people.show(twice).standing if x.item == suite]
    done(client, twice, Verb.RECHECK)
    assert held(client, twice) == {part: "held"}, "it does not come again"
    (decision,) = [d for d in client.people.decisions(twice) if d.reason == "one is enough"]
    client.decisions.end(decision.id)
    done(client, twice, Verb.RECHECK)
    assert held(client, twice) == {part: "held", suite: "held"}


def test_unused_is_told_from_never_used_and_from_what_nobody_knows(
    theatre: Theatre, restored: None
) -> None:
    client = theatre.client
    planner = next(p for p in client.seats.all() if p.license == PLANNER)
    rows = list(client.seats.reclaimable(planner.id))
    assert {r.reason for r in rows} <= set(ReclaimReason)
    unused = [r for r in rows if r.reason == "unused"]
    assert unused
    now = client.clock.show().now
    assert all(r.last_used and r.last_used <= now - timedelta(days=60) for r in unused)
    document = yaml.safe_load(RULES)
    document["licenses"] = {CREW: {PLANNER: {"unused_days": 0, "never_used_days": 0}}}
    client.rules.adopt(yaml.safe_dump(document), "never", take_away=10_000)
    assert not [r for r in client.seats.reclaimable(planner.id) if "used" in r.reason]
    mail = next(p for p in client.seats.all() if p.license == "Mailbox")
    assert not [r for r in client.seats.reclaimable(mail.id) if r.reason == "never-used"], (
        "the mail store does not tell"
    )


def test_a_cheaper_license_that_does_takes_the_place_of_another(
    theatre: Theatre, restored: None
) -> None:
    client, dear, cheap = theatre.client, named("Dear"), named("Cheap")
    pool_of(client, dear, 2, price=Decimal("20.00"))
    pool_of(client, cheap, 0)
    adopt(client, {dear: {"cheaper": {cheap: 'title eq "Swap7"'}}}, Swap7=[dear], Swap8=[dear])
    one, other = newcomer(theatre, title="Swap7"), newcomer(theatre, title="Swap8")
    for login in (one, other):
        done(client, login)
    (row,) = client.seats.reclaimable(_id(client, dear))
    assert (row.login, row.reason) == (one, "cheaper")
    batch = client.seats.reclaim(_id(client, dear), [row.person_id or ""], "a cheaper one does")
    number = client.plans.confirm(batch)[0].number
    until(lambda: held(client, one) == {dear: "held", cheap: "waiting"})
    waits = {s.item: s.problem.code for s in client.dockets.show(number).steps if s.problem}
    assert waits == {cheap: "no-seat", dear: "needs-base"}, "nothing goes before"
    pool_of(client, cheap, 1)
    until(lambda: held(client, one) == {cheap: "held"})
    assert not list(client.seats.reclaimable(_id(client, dear)))
    problems = client.rules.check(
        yaml.safe_dump(
            {
                **yaml.safe_load(RULES),
                "licenses": {REPORTING: {dear: {"cheaper": {"No such": "title pr"}}}},
            }
        )
    )
    assert [p.message for p in problems] == ["There is no pool of No such."]


def test_a_seat_without_its_group_and_a_group_without_its_seat_are_findings(
    theatre: Theatre, restored: None
) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    for license in (one, other):
        pool_of(client, license, 5)
    adopt(client, {}, Pair7=[one])
    login = newcomer(theatre, title="Pair7")
    done(client, login)
    account = next(
        a for a in client.accounts.page(who=login).items if a.application_id == REPORTING
    )
    group = min(account.entitlements)
    adopt(client, {one: {"groups": ["Not theirs"]}, other: {"groups": [group]}}, Pair7=[one])

    def found(kind: str, license: str) -> list[str]:
        mine = [f for f in client.findings.all(kind=kind) if license in f.text]
        return [f.text for f in mine if f.login == account.login]

    assert found("seat-alone", one) == [
        f"has a seat of {one} without the group Not theirs that goes with it"
    ]
    assert found("group-alone", other) == [f"has the group {group} without a seat of {other}"]
    assert found("group-alone", one) == found("seat-alone", other) == []
    adopt(client, {one: {"groups": [group]}}, Pair7=[one])
    assert found("seat-alone", one) == found("group-alone", one) == [], "both are there"


def test_an_application_that_says_another_number_is_a_finding(theatre: Theatre) -> None:
    client = theatre.client
    planner = next(p for p in client.seats.all() if p.license == PLANNER)
    assert planner.differs
    (differs,) = [f for f in client.findings.all(kind="seats-differ") if PLANNER in f.text]
    assert f"{planner.bought} entered, {planner.reported} reported" in differs.text
