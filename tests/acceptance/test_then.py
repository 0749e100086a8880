"""Somebody as they were: before a move, between, and what is refused."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput, NotFound
from yugum.wire import plans as wl
from yugum_standins.load import do


def test_somebody_is_shown_as_they_were_before_a_move(theatre: Theatre) -> None:
    client = theatre.client
    boss = theatre.play.organisation.of("Deck").user_name
    login = joined(theatre, "Engine Room")
    before = client.people.then(login, client.clock.show().now)
    assert before.fields["department"] == "Engine Room"
    assert "manager" not in before.fields
    groups = theatre.crew.groups(login)
    crew = next(a for a in before.accounts if a.application_name == "Crew rosters")
    assert (crew.state, {*crew.entitlements}) == ("active", groups)
    early = client.people.then(login, client.clock.show().now - timedelta(days=30))
    assert early.accounts == []
    for _ in client.clock.advance((client.clock.show().now + timedelta(minutes=5)).isoformat()):
        pass
    between = client.clock.show().now
    for _ in client.clock.advance((between + timedelta(minutes=5)).isoformat()):
        pass
    client.people.change(login, {"title": "Oiler"}, reason="misread")
    changes = {"department": "Ticketing", "manager_id": client.people.show(boss).id}
    number = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.MOVER, who=[login], changes=changes))
    )[0].number
    assert list(client.dockets.follow(number))[-1].state == "done"
    client.applications.read("crew-rosters")
    now = client.people.then(login, client.clock.show().now)
    assert now.fields["department"] == "Ticketing"
    assert now.fields["title"] == "Oiler"
    assert now.fields["manager"] == client.people.show(boss).display_name
    then = client.people.then(login, between)
    assert then.fields == before.fields
    old = next(a for a in then.accounts if a.application_name == "Crew rosters")
    assert old.entitlements == crew.entitlements
    told = cli(theatre, "people", "then", login, between.isoformat())
    assert told.returncode == 0, told.stderr
    assert "department: Engine Room" in told.stdout
    assert "Crew rosters" in told.stdout
    do(client, Verb.LEAVER, login)


def test_what_has_not_come_and_who_is_not_there_is_refused(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Deck")
    with pytest.raises(InvalidInput, match="not come yet"):
        client.people.then(login, client.clock.show().now + timedelta(seconds=1))
    with pytest.raises(NotFound):
        client.people.then("nobody-of-that-name", client.clock.show().now)
    assert cli(theatre, "people", "then", login, "whenever").returncode == 4
