"""Orders of more seats: asked for, agreed to by somebody else, expected, arrived, and whom they serve."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from datetime import timedelta

import pytest
import yaml

from tests.acceptance.test_seats import adopt, done, held, named, pool_of, restored
from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import for_now, token_of
from tests.waiting import until
from yugum.client import Client
from yugum.errors import Conflict, Forbidden, InvalidInput, NotFound
from yugum.wire import orders as wo
from yugum_standins.morrow import REPORTING

__all__ = ["restored"]
BUYER = "purchasing@morrowsound.example"


@pytest.fixture
def other(theatre: Theatre) -> Iterator[Client]:
    """Another administrator than the one of the tests."""
    url = theatre.stage.url
    with (
        for_now(theatre.client, "buyer", "administrator"),
        Client(url, token_of(theatre.client, url, "buyer")) as client,
    ):
        yield client


def test_an_order_goes_out_arrives_and_serves(
    theatre: Theatre, other: Client, restored: None
) -> None:
    client, license = theatre.client, named()
    today = client.clock.show().now.date()
    pool = pool_of(client, license, 1)
    adopt(client, {}, Order7=[license])
    document = yaml.safe_load(client.rules.show().text)
    document["seats"] = {"orders_to": [BUYER]}
    client.rules.adopt(yaml.safe_dump(document), "who buys", take_away=10_000)
    first, second = newcomer(theatre, title="Order7"), newcomer(theatre, title="Order7")
    done(client, first)
    done(client, second)
    name = f"{REPORTING}/{license}"
    said = cli(theatre, "orders", "ask", name).stdout
    assert "1 seat of" in said
    (row,) = client.orders.all(pool_id=pool.id)
    assert (row.state, row.count, row.needed_by) == ("asked", 1, today)
    assert said.startswith(row.name)
    view = client.orders.show(row.name.lower())
    assert [s.login for s in view.serves] == [second]
    with pytest.raises(Forbidden, match="agrees to what they asked for"):
        client.orders.decide(row.id, agreed=True)
    with pytest.raises(Conflict, match="asked; it cannot be expected"):
        client.orders.expect(row.id, today)
    assert other.orders.decide(row.id, agreed=True, answer="go on").state == "agreed"
    (mail,) = [m for m in client.mails.all() if m.address == BUYER and license in m.subject]
    request = next(csv.DictReader(io.StringIO(client.orders.request(row.id))))
    assert (request["order"], request["seats"], request["license"]) == (row.name, "1", license)
    assert request["order"] in mail.text
    with pytest.raises(Conflict, match="cannot be decided"):
        other.orders.decide(row.id, agreed=False, answer="too late")
    begins = today + timedelta(days=9)
    assert client.seats.forecast(pool.id).lacking == 1
    cli(theatre, "orders", "expect", row.name, str(begins), "--reference", "K 77")
    found = client.seats.forecast(pool.id)
    assert [(o.name, o.left, o.expected) for o in found.orders] == [(row.name, 1, begins)]
    assert found.periods[2].bought == 2, "it counts from the day on which it is expected"
    assert row.name in cli(theatre, "seats", "forecast", name).stdout
    view = client.orders.arrive(row.id)
    assert (view.state, view.arrived, view.counted) == ("arrived", 1, None)
    until(lambda: held(client, second) == {license: "held"})
    shown = client.seats.show(pool.id)
    assert (shown.bought, shown.waiting) == (2, 0)
    assert {p.reference for p in shown.purchases} == {"", f"{row.name} K 77"}
    assert "arrived" in cli(theatre, "orders", "list", "--pool", name).stdout
    assert not list(client.orders.all(pool_id=pool.id, only_open=True))


def test_it_comes_in_parts_is_refused_or_withdrawn(theatre: Theatre, other: Client) -> None:
    client = theatre.client
    today = client.clock.show().now.date()
    pool = pool_of(client, named(), 1)
    new = wo.NewOrder(pool_id=pool.id, count=5, reason="the fair")
    order = client.orders.ask(new)
    other.orders.decide(order.id, agreed=True)
    client.orders.expect(order.id, today)
    with pytest.raises(InvalidInput, match=r"5 of .* are still to come"):
        client.orders.arrive(order.id, 6)
    view = client.orders.arrive(order.id, 2)
    assert (view.state, view.arrived, view.overdue) == ("expected", 2, False)
    assert client.seats.show(pool.id).bought == 3
    with pytest.raises(Conflict, match="is not over"):
        client.seats.remove(pool.id)
    view = client.orders.withdraw(order.id, "two are enough")
    assert (view.state, view.arrived, client.seats.show(pool.id).bought) == ("withdrawn", 2, 3)
    with pytest.raises(Conflict, match="withdrawn; it cannot be received"):
        client.orders.arrive(order.id)
    no = client.orders.ask(new)
    said = cli(theatre, "orders", "refuse", no.name, "--reason", "no money")
    assert "Nobody agrees" in said.stderr, "nor refuses what they asked for"
    assert other.orders.decide(no.id, agreed=False, answer="no money").state == "refused"
    with pytest.raises(InvalidInput, match="for a reason"):
        other.orders.decide(client.orders.ask(new).id, agreed=False)


def test_what_makes_no_sense_is_refused(theatre: Theatre) -> None:
    client = theatre.client
    today = client.clock.show().now.date()
    pool = pool_of(client, named(), 1)
    past = today - timedelta(days=1)
    with pytest.raises(NotFound):
        client.orders.ask(wo.NewOrder(pool_id="no-such", count=1, reason="x"))
    with pytest.raises(InvalidInput, match="past"):
        client.orders.ask(wo.NewOrder(pool_id=pool.id, count=1, reason="x", needed_by=past))
    term = wo.NewOrder(pool_id=pool.id, count=1, reason="x", begins=today, ends=past)
    with pytest.raises(InvalidInput, match="before it begins"):
        client.orders.ask(term)
    assert "Nothing will be lacking" in cli(theatre, "orders", "ask", pool.id).stderr
    with pytest.raises(NotFound):
        list(client.orders.all(pool_id="no-such"))
    assert "no order SO-99999" in cli(theatre, "orders", "show", "SO-99999").stderr
    whole = pool_of(client, named(), unlimited=True)
    with pytest.raises(InvalidInput, match="as many"):
        client.orders.ask(wo.NewOrder(pool_id=whole.id, count=1, reason="x"))
    assert not list(client.orders.all(pool_id=pool.id)), "nothing half-done"
