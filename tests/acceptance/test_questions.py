"""Whoever does not use a seat is asked by mail whether it is still needed, and keeps it on an answer."""

from __future__ import annotations

from datetime import timedelta

import pytest
import yaml

from tests.acceptance.test_seats import restored
from tests.commands import cli
from tests.conftest import Theatre
from yugum.client import Client
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum_standins.load import advance
from yugum_standins.look import PostLook
from yugum_standins.morrow import CREW, PLANNER, RULES

__all__ = ["restored"]


def link(theatre: Theatre, to: str) -> str:
    """The token of the link in the newest mail that asks somebody."""
    mail = PostLook(theatre.stage.folder).wait(to, "Do you still need")
    return mail["text"].rsplit("/k#", 1)[1].strip()


def unused(client: Client, pool: str) -> dict[str, str]:
    return {
        r.login: r.reason.value
        for r in client.seats.reclaimable(pool)
        if r.reason in ("unused", "never-used", "given-up")
    }


def test_who_is_asked_keeps_it_gives_it_up_or_says_nothing(
    theatre: Theatre, restored: None
) -> None:
    client = theatre.client
    pool = next(p for p in client.seats.all() if p.license == PLANNER)
    name, before = f"{CREW}/{PLANNER}", dict[str, str]()
    with pytest.raises(InvalidInput, match="have nobody asked"):
        client.seats.ask_unused(pool.id)
    document = yaml.safe_load(RULES)
    for ask_days in (0, 3):
        said = {"unused_days": 20, "ask_days": ask_days}
        document["licenses"] = {CREW: {PLANNER: said}}
        client.rules.adopt(yaml.safe_dump(document), "asked first", take_away=10_000)
        before = unused(client, pool.id) if not ask_days else before
    assert len(before) > 3
    assert unused(client, pool.id) == {}, "nobody was asked yet"
    assert "asked." in cli(theatre, "seats", "ask", name).stdout, "if nobody was asked by itself"
    assert "0 people asked." in cli(theatre, "seats", "ask", name).stdout, "and not twice"
    rows = {r.login: r for r in client.seats.asked(pool.id)}
    assert set(rows) == set(before)
    assert unused(client, pool.id) == {}, "they have time to answer"
    keeps, gives_up, silent = sorted(before)[:3]
    tokens = {w: link(theatre, client.people.show(w).mail) for w in (keeps, gives_up, silent)}
    shown = client.seats.question(tokens[keeps])
    assert (shown.license, shown.login, shown.answer) == (PLANNER, keeps, "")
    assert client.seats.answer(tokens[keeps], keeps=True).answer == "kept"
    with pytest.raises(Conflict, match="answered: kept"):
        client.seats.answer(tokens[keeps], keeps=False)
    with pytest.raises(NotFound):
        client.seats.answer("made up", keeps=True)
    client.seats.answer(tokens[gives_up], keeps=False)
    assert unused(client, pool.id) == {gives_up: "given-up"}
    now = client.clock.show().now
    advance(client, f"{(now + timedelta(days=4)).date()} 09:00")
    after = unused(client, pool.id)
    assert after[silent] == before[silent]
    assert keeps not in after
    assert "kept" in cli(theatre, "seats", "asked", name).stdout
    assert client.seats.ask_unused(pool.id) == 0, "who said nothing is not asked again"
    row = next(r for r in client.seats.asked(pool.id) if r.login == keeps)
    assert row.kept_until
    advance(client, f"{(row.kept_until + timedelta(days=1)).date()} 09:00")
    client.seats.ask_unused(pool.id)
    again = next(r for r in client.seats.asked(pool.id) if r.login == keeps)
    assert (again.answer, again.asked_at > row.asked_at) == ("", True), "kept so long, asked again"
    assert again.login not in unused(client, pool.id)
