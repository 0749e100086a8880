"""Reports about seats: who held what in a period, and whether whoever begins soon has theirs."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from pathlib import Path

import pytest

from tests.acceptance.test_orders import other
from tests.acceptance.test_seats import adopt, done, held, named, pool_of, restored
from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.core.views import ReportName
from yugum.errors import InvalidInput, NotFound
from yugum.wire import orders as wo
from yugum.wire import reservations as wr
from yugum_standins.morrow import REPORTING

__all__ = ["other", "restored"]


def test_who_held_what_in_a_period(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 5)
    adopt(client, {}, Period7=[license])
    login = newcomer(theatre, title="Period7")
    done(client, login)
    done(client, login, Verb.MOVER, changes={"title": "Deckhand"})
    assert held(client, login) == {}
    today = client.clock.show().now.date()
    (row,) = client.seats.held(today, today, pool.id)
    assert (row.login, row.license) == (login, license)
    assert row.until_at
    before = today - timedelta(days=1)
    assert not list(client.seats.held(before, before, pool.id))
    name = f"{REPORTING}/{license}"
    assert login in cli(theatre, "seats", "held", str(today), str(today), "--pool", name).stdout
    with pytest.raises(NotFound):
        list(client.seats.held(today, today, "no-such"))
    with pytest.raises(InvalidInput, match="before it begins"):
        list(client.seats.held(today, before, pool.id))


def test_whoever_begins_soon_has_a_seat_or_what_brings_it(
    theatre: Theatre, restored: None, other: Client
) -> None:
    client, license = theatre.client, named()
    today = client.clock.show().now.date()
    pool = pool_of(client, license, 1)
    adopt(client, {}, Soon7=[license])
    begins = [today + timedelta(days=n) for n in (1, 2, 3, 4)]
    logins = [newcomer(theatre, title="Soon7", starts=str(day)) for day in begins]

    def ready() -> dict[str, str]:
        ids = {client.people.show(w).id: w for w in logins}
        rows = client.seats.starting(10).rows
        return {ids[r.person_id]: r.readiness.value for r in rows if r.license == license}

    assert [ready()[w] for w in logins] == ["free", "lacking", "lacking", "lacking"]
    said = cli(theatre, "seats", "starting")
    assert said.returncode == 1, "somebody has neither"
    assert "are lacking" in said.stdout
    new = wr.NewReservation(person=logins[3], reason="the night watch")
    client.seats.reserve(pool.id, new)
    assert [ready()[w] for w in logins] == ["lacking", "lacking", "lacking", "set-aside"]
    order = client.orders.ask(wo.NewOrder(pool_id=pool.id, count=2, reason="the new watch"))
    other.orders.decide(order.id, agreed=True)
    client.orders.expect(order.id, begins[1])
    assert [ready()[w] for w in logins] == ["lacking", "ordered", "lacking", "set-aside"], (
        "it comes a day late for the first, who is before the others all the same"
    )
    client.orders.expect(order.id, begins[0])
    assert [ready()[w] for w in logins] == ["ordered", "ordered", "lacking", "set-aside"]
    row = next(r for r in client.seats.starting(10).rows if r.license == license)
    assert row.order == order.name
    client.orders.arrive(order.id)
    pool_of_more = client.seats.show(pool.id)
    assert pool_of_more.bought == 3
    assert [ready()[w] for w in logins] == ["free", "free", "lacking", "set-aside"]
    soon = client.seats.starting(1)
    assert all(r.starts <= soon.until for r in soon.rows)


def test_what_seats_cost_month_by_month_and_which_could_come_back(
    theatre: Theatre, restored: None, tmp_path: Path
) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 1, price=Decimal("120.00"), currency="NOK", period="year")
    adopt(
        client, {license: {"when_empty": "overrun", "who": 'title eq "Costs7"'}}, Costs7=[license]
    )
    logins = [newcomer(theatre, title="Costs7") for _ in range(2)]
    for login in logins:
        done(client, login)
    month = client.clock.show().now.date().replace(day=1)
    mine = [r for r in client.seats.costs() if r.license == license]
    assert [(r.month, r.department, r.seats, r.amount, r.currency) for r in mine] == [
        (month, "Safety", 2, Decimal("20.00"), "NOK")
    ], "nobody held one in a month before"
    (over,) = [r for r in client.seats.over() if r.id == pool.id]
    assert (over.bought, over.held, over.over) == (1, 2, 1)
    assert [r for r in client.seats.all_reclaimable() if r.license == license] == []
    done(client, logins[0], Verb.ABSENCE, until="+200d")
    adopt(client, {license: {"who": 'title eq "Nobody7"'}}, Costs7=[license])
    rows = [r for r in client.seats.all_reclaimable("not-for-them") if r.license == license]
    assert {r.login for r in rows} == set(logins)
    assert {(r.department, r.amount, r.currency) for r in rows} == {("Safety", Decimal(10), "NOK")}
    assert license in cli(theatre, "seats", "reclaimable", "--because", "not-for-them").stdout
    done(client, logins[1], Verb.MOVER, changes={"title": "Deckhand"}, overlap_days=0)
    assert [r.seats for r in client.seats.costs() if r.license == license] == [1], (
        "one gave it back"
    )
    for report in ReportName:
        written = cli(
            theatre,
            "export",
            report.value,
            "--to",
            str(tmp_path / f"{report}.xlsx"),
            "--form",
            "xlsx",
        )
        assert written.returncode == 0, written.stderr
        assert (tmp_path / f"{report}.xlsx").read_bytes().startswith(b"PK")
    told = cli(theatre, "export", "seats-costs", "--filter", f"begin={month:%Y-%m}")
    assert told.returncode == 0, told.stderr
    assert f"{month},Safety," in told.stdout
    assert "10.00,NOK" in told.stdout
    for begin, end, wrong in (
        ("2031-13", "", "no month"),
        ("", "2091-01", "is to come"),
        (f"{month:%Y-%m}", f"{month.year - 1}-01", "before it begins"),
        ("2001-01", "", "at once"),
    ):
        with pytest.raises(InvalidInput, match=wrong):
            list(client.seats.costs(begin, end))
