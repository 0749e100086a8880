"""Seats set aside for somebody, for those who are to come, and passed on from one to another."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.acceptance.test_seats import (
    adopt,
    done,
    held,
    named,
    planned,
    pool_of,
    restored,
)
from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.waiting import until
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.wire import reservations as wr
from yugum_standins.morrow import REPORTING

__all__ = ["restored"]


def test_a_seat_set_aside_is_nobody_elses(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 2)
    adopt(client, {}, Kept7=[license])
    mine, other, third = (newcomer(theatre, title="Kept7") for _ in range(3))
    name = f"{REPORTING}/{license}"
    said = cli(theatre, "seats", "reserve", name, "--for", mine, "--reason", "has the night watch")
    assert "1 set aside for" in said.stdout
    with pytest.raises(Conflict, match="set aside for"):
        client.seats.reserve(pool.id, wr.NewReservation(person=mine, reason="twice"))
    with pytest.raises(Conflict, match="1 free, 1 set aside, 0 wait"):
        client.seats.reserve(
            pool.id, wr.NewReservation(who='title eq "Kept7"', count=2, reason="too many")
        )
    done(client, other)
    assert held(client, other) == {license: "held"}
    assert "waits in line" in " ".join(c.text for c in planned(client, third).cautions)
    done(client, third)
    assert held(client, third) == {license: "waiting"}
    shown = client.seats.show(pool.id)
    assert (shown.bought, shown.held, shown.reserved, shown.free) == (2, 1, 1, 0)
    assert not planned(client, mine).cautions, "there is one for them"
    done(client, mine)
    assert held(client, mine) == {license: "held"}
    (row,) = client.seats.reservations(pool.id)
    assert (row.state, row.taken) == ("used", 1)
    with pytest.raises(Conflict, match="has a seat"):
        client.seats.reserve(pool.id, wr.NewReservation(person=mine, reason="late"))


def test_a_seat_passed_on_does_not_go_to_the_line(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 1)
    adopt(client, {}, Pass7=[license])
    leaver, waits, heir = (newcomer(theatre, title="Pass7") for _ in range(3))
    done(client, leaver)
    done(client, waits)
    name = f"{REPORTING}/{license}"
    said = cli(theatre, "seats", "pass", name, leaver, heir, "--reason", "takes over")
    assert said.stdout.startswith("The seat of")
    again = wr.NewReservation(person=waits, holder=leaver, reason="no")
    with pytest.raises(Conflict, match="passed on already"):
        client.seats.reserve(pool.id, again)
    (row,) = client.seats.reservations(pool.id)
    assert row.state == "with-holder"
    assert client.seats.show(pool.id).reserved == 0, "it is held"
    reasons = [s.reason for s in planned(client, leaver, Verb.LEAVER, urgent=True).steps]
    assert any("it is passed on to" in r for r in reasons)
    done(client, leaver, Verb.LEAVER, urgent=True)
    assert client.seats.show(pool.id).reserved == 1
    assert held(client, waits) == {license: "waiting"}, "a seat is free, and not for them"
    done(client, heir)
    assert held(client, heir) == {license: "held"}
    pool_of(client, license, 2)
    until(lambda: held(client, waits) == {license: "held"})


def test_one_who_waits_is_served_by_what_is_set_aside_and_withdrawn(
    theatre: Theatre, restored: None
) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 1)
    adopt(client, {}, Line8=[license])
    heir, waits, leaver = (newcomer(theatre, title="Line8") for _ in range(3))
    for login in (leaver, waits, heir):
        done(client, login)
    new = wr.NewReservation(person=heir, holder=leaver, reason="takes over")
    client.seats.reserve(pool.id, new)
    done(client, leaver, Verb.LEAVER, urgent=True)
    until(lambda: held(client, heir) == {license: "held"})
    assert held(client, waits) == {license: "waiting"}
    ahead = wr.NewReservation(who='title eq "No such"', reason="the fair", ahead=True)
    pool_of(client, license, 1)
    client.seats.reserve(pool.id, ahead)
    pool_of(client, license, 2)
    assert held(client, waits) == {license: "waiting"}, "the new one is set aside"
    name = f"{REPORTING}/{license}"
    rows = {r.state.value: r for r in client.seats.reservations(pool.id)}
    cli(theatre, "seats", "withdraw", name, rows["open"].id)
    until(lambda: held(client, waits) == {license: "held"})
    assert "used" in cli(theatre, "seats", "reservations", name).stdout


def test_what_is_set_aside_for_those_of_a_filter_counts_in_the_forecast(
    theatre: Theatre, restored: None
) -> None:
    client, license = theatre.client, named()
    today = client.clock.show().now.date()
    pool = pool_of(client, license, 1)
    adopt(client, {}, Crew8=[license], Crew9=[license])
    new = wr.NewReservation(who='title eq "Crew8"', reason="the June crew", ends=today)
    assert client.seats.reserve(pool.id, new).state == "open"
    begins = today + timedelta(days=10)
    later = wr.NewReservation(
        who='title eq "Crew8"',
        count=3,
        begins=begins,
        ends=begins + timedelta(days=20),
        reason="crew",
    )
    assert client.seats.reserve(pool.id, later).state == "later"
    found = client.seats.forecast(pool.id)
    assert (found.short_on, found.lacking) == (begins, 2)
    assert found.periods[0].taken == 1
    other, one = newcomer(theatre, title="Crew9"), newcomer(theatre, title="Crew8")
    done(client, other)
    done(client, one)
    assert (held(client, other), held(client, one)) == ({license: "waiting"}, {license: "held"})


def test_what_makes_no_sense_is_refused_by_its_place(theatre: Theatre) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 5)
    today = client.clock.show().now.date()
    login = newcomer(theatre)
    wrong = [
        ("person", {"reason": "for nobody"}),
        ("person", {"person": login, "who": 'title eq "x"', "reason": "two"}),
        ("count", {"person": login, "count": 2, "reason": "two of one"}),
        ("ends", {"person": login, "ends": today - timedelta(days=1), "reason": "over"}),
        ("who", {"who": "nothing like a filter", "reason": "a slip"}),
    ]
    for place, said in wrong:
        with pytest.raises(InvalidInput) as caught:
            client.seats.reserve(pool.id, wr.NewReservation.model_validate(said))
        assert caught.value.place == place, said
    with pytest.raises(Conflict, match="no seat"):
        client.seats.reserve(
            pool.id, wr.NewReservation(person=login, holder=newcomer(theatre), reason="x")
        )
    with pytest.raises(NotFound):
        client.seats.withdraw(pool.id, "no-such")
    assert not list(client.seats.reservations(pool.id)), "nothing half-done"
    assert "Nothing is set aside." in cli(theatre, "seats", "reservations", pool.id).stdout
