"""Seats given and taken by hand, for one or many, as a file says; and who has what, side by side."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.acceptance.test_seats import adopt, done, held, named, pool_of, restored
from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import for_now, token_of
from tests.waiting import until
from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.errors import Forbidden, InvalidInput, NotFound
from yugum.wire import allocations as wa
from yugum.wire import plans as wl
from yugum_standins.morrow import REPORTING

__all__ = ["restored"]


def test_seats_are_given_and_taken_by_hand_whatever_roles_say(
    theatre: Theatre, restored: None
) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    for license in (one, other):
        pool_of(client, license, 5)
    adopt(client, {}, Hand7=[one])
    login = newcomer(theatre, title="Hand7")
    done(client, login)
    cli(theatre, "seats", "give", f"{REPORTING}/{other}", login, "--reason", "the fair", "--yes")
    until(lambda: held(client, login) == {one: "held", other: "held"})
    (grant,) = client.people.decisions(login)
    assert (grant.kind, grant.reason) == ("grant", "the fair")
    cli(theatre, "seats", "take", f"{REPORTING}/{other}", login, "--reason", "over", "--yes")
    until(lambda: held(client, login) == {one: "held"})
    assert not [d for d in client.people.decisions(login) if not d.ends_at], "the exception ended"
    cli(theatre, "seats", "take", f"{REPORTING}/{one}", login, "--reason", "not needed", "--yes")
    until(lambda: held(client, login) == {})
    done(client, login, Verb.RECHECK)
    assert held(client, login) == {}, "it does not come again"
    cli(theatre, "seats", "give", f"{REPORTING}/{one}", login, "--reason", "needed", "--yes")
    until(lambda: held(client, login) == {one: "held"})
    assert not [d for d in client.people.decisions(login) if not d.ends_at], "the role gives it"


def test_nothing_is_decided_before_the_plan_is_confirmed_and_undo_ends_it(
    theatre: Theatre, restored: None
) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 5)
    login = newcomer(theatre)
    done(client, login)
    turn = wa.SeatTurn(person=login, pool_id=pool.id, give=True)
    batch = client.allocations.plan([turn], "for a week")
    assert [s.item for s in batch.plans[0].steps if s.action == "take_seat"] == [license]
    assert not client.people.decisions(login)
    number = client.plans.confirm(batch)[0].number
    list(client.dockets.follow(number))
    assert held(client, login) == {license: "held"}
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=str(number)))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert held(client, login) == {}
    assert not [d for d in client.people.decisions(login) if not d.ends_at]
    both = [turn, wa.SeatTurn(person=login, pool_id=pool.id, give=False)]
    with pytest.raises(InvalidInput, match="is given a seat"):
        client.allocations.plan(both, "a slip")
    with pytest.raises(NotFound):
        client.allocations.plan([wa.SeatTurn(person=login, pool_id="no", give=True)], "a slip")
    with pytest.raises(NotFound):
        client.allocations.plan([wa.SeatTurn(person="nobody", pool_id=pool.id, give=True)], "slip")


def test_a_file_is_looked_at_row_by_row_before_anything_is_planned(
    theatre: Theatre, restored: None, tmp_path: Path
) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 1)
    adopt(client, {}, File7=[license])
    has, first, second, stays = (newcomer(theatre, title=t) for t in ("File7", "", "", ""))
    done(client, has)
    for login in (first, second, stays):
        done(client, login)
    file = tmp_path / "seats.csv"
    rows = [
        "Person;License;Seat",
        f"{first};{license};give",
        f"{second};{license.upper()};give",
        f"{has};{license};take",
        f"{stays};{license};leave",
        f"nobody-at-all;{license};give",
        f"{first};No such;give",
        f"{first};{license};take",
        f"{second};{license};perhaps",
    ]
    file.write_text("\n".join(rows))
    found = client.allocations.check(file.read_bytes())
    assert [(r.line, r.place) for r in found.rows if r.problem] == [
        (6, "person"),
        (7, "license"),
        (8, "line"),
        (9, "seat"),
    ]
    (demand,) = found.demand
    assert (demand.pool.id, demand.asked, demand.returned, demand.short) == (pool.id, 2, 1, 1)
    said = cli(theatre, "seats", "file", str(file), "--reason", "the new watch", "--yes")
    assert "2 asked for, 1 come back, 0 free, 1 will wait" in said.stderr
    assert "4 rows not taken" in said.stderr
    assert "nobody-at-all" in (tmp_path / "seats-rejected.csv").read_text()
    until(lambda: held(client, has) == {})
    # The one that came back reached the next in line, within the same batch.
    until(
        lambda: (
            sorted(s for w in (first, second) for s in held(client, w).values())
            == ["held", "waiting"]
        )
    )
    assert held(client, stays) == {}
    for head, wrong in (
        ("Person;Licence;Seat", "'licence'"),
        ("Person;Seat", "license is missing"),
    ):
        file.write_text(f"{head}\n")
        with pytest.raises(InvalidInput, match=wrong):
            client.allocations.check(file.read_bytes())


def test_people_and_licenses_side_by_side(theatre: Theatre, restored: None) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    for license, bought in ((one, 5), (other, 0)):
        pool_of(client, license, bought)
    adopt(client, {}, Side7=[one, other])
    login = newcomer(theatre, title="Side7")
    done(client, login)
    view = client.allocations.matrix(REPORTING, filter='title eq "Side7"')
    names = {p.id: p.license for p in view.pools}
    assert {one, other} <= set(names.values())
    assert {p.application_id for p in view.pools} == {REPORTING}
    (row,) = view.items
    cells = {names[c.pool_id]: (c.state, c.origin, c.because) for c in row.cells}
    assert cells[one] == ("held", "role", "Side7")
    assert cells[other][0] == "waiting"
    said = cli(
        theatre, "seats", "matrix", "--application", REPORTING, "--filter", 'title eq "Side7"'
    )
    assert f"{one} +" in said.stdout
    assert f"{other} 1" in said.stdout
    with pytest.raises(NotFound):
        client.allocations.matrix("no-such")


def test_nobody_ends_what_keeps_a_seat_from_them(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 5)
    adopt(client, {}, Self7=[license])
    login = newcomer(theatre, title="Self7")
    done(client, login)
    name, url = f"o{login}", theatre.stage.url
    with (
        for_now(client, name, "operator", person=login),
        Client(url, token_of(client, url, name, "operator")) as mine,
    ):
        turn = wa.SeatTurn(person=login, pool_id=pool.id, give=True)
        none = turn.model_copy(update={"give": False})
        refused = client.allocations.plan([none], "not theirs")
        list(client.dockets.follow(client.plans.confirm(refused)[0].number))
        with pytest.raises(Forbidden, match="Nobody decides about themselves"):
            mine.allocations.plan([turn], "I need it all the same")
    assert held(client, login) == {}
