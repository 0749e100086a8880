"""Leavers of a period against their moments: in time, told late, left out, open still; as rows, counts, files."""

from __future__ import annotations

import csv
import io
from collections import Counter
from datetime import timedelta

import httpx
import pytest

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.cut_offs import Lateness
from yugum.core.dockets import Settlement
from yugum.core.verbs import Verb
from yugum.core.views import ExportForm, ReportName
from yugum.errors import InvalidInput, NotFound
from yugum.wire import plans as wl
from yugum.wire import reports as wp
from yugum_standins.load import do


def of(theatre: Theatre, login: str) -> dict[str, wp.CutOffRow]:
    rows = theatre.client.reports.leavers()
    return {r.application_name: r for r in rows if r.user_name == login}


def counts(theatre: Theatre) -> dict[str, int]:
    return {c.lateness: c.count for c in theatre.client.reports.cut_offs().counts}


def test_each_account_of_a_leaver_is_told_with_when_it_was_shut(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Deck")
    before = counts(theatre)
    number = do(client, Verb.LEAVER, login)
    steps = [s for s in client.dockets.show(number).steps if s.action in ("cut_off", "lock")]
    mine = of(theatre, login)
    assert sorted(mine) == sorted(s.application_name for s in steps)
    assert {r.number for r in mine.values()} == {number}
    crew = theatre.crew.user(login) or {}
    assert not crew["active"], "the application itself says so"
    assert all(r.cut_at and r.seconds is not None for r in mine.values())
    rows = Counter(r.lateness for r in mine.values())
    after = counts(theatre)
    assert {w: after[w] - before[w] for w in Lateness} == {w: rows[w] for w in Lateness}


def test_what_was_known_late_is_measured_from_when_it_was_known(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Deck")
    since = client.clock.show().now - timedelta(days=3)
    do(client, Verb.LEAVER, login, since=since.isoformat())
    row = of(theatre, login)["Crew rosters"]
    assert row.cut_at is not None
    assert row.known_at - row.ended_at > timedelta(days=2)
    assert row.cut_at - row.ended_at > timedelta(days=2)
    assert row.seconds is not None
    assert row.seconds < 3600


def test_an_account_that_stays_open_and_one_that_was_left_out(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Safety")
    theatre.crew.fault(read_only=1)
    try:
        batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
        (docket,) = client.plans.confirm(batch)
        until(lambda: of(theatre, login).get("Crew rosters"))
        open_still = of(theatre, login)["Crew rosters"]
        assert (open_still.lateness, open_still.cut_at) == (Lateness.OPEN, None)
        until(lambda: [s for s in client.dockets.show(docket.number).steps if s.stuck])
        stuck = next(s for s in client.dockets.show(docket.number).steps if s.stuck)
        client.dockets.settle(stuck.id, Settlement.LEFT_OUT, "the harbour office does it")
        left = of(theatre, login)["Crew rosters"]
        assert (left.lateness, left.seconds) == (Lateness.LEFT_OUT, None)
    finally:
        theatre.crew.fault(read_only=0)


def test_periods_pages_and_files(theatre: Theatre) -> None:
    client = theatre.client
    do(client, Verb.LEAVER, joined(theatre, "Deck"))
    rows = list(client.reports.leavers())
    assert [r.ended_at for r in rows] == sorted(r.ended_at for r in rows)
    assert sum(counts(theatre).values()) == len(rows)
    headers = {"Authorization": f"Bearer {theatre.token}"}
    url = f"{theatre.stage.url}/api/v1/reports/leavers"
    first = httpx.get(url, params={"limit": 1}, headers=headers).json()
    assert first["total"] == len(rows)
    following = {"limit": 1, "cursor": first["next"]}
    assert httpx.get(url, params=following, headers=headers).json()["items"][0]["id"] == rows[1].id
    today = client.clock.show().now.date()
    long_ago = today - timedelta(days=3000)
    assert not list(client.reports.leavers(long_ago, long_ago + timedelta(days=1)))
    for wrong in ((today, today - timedelta(days=1)), (today - timedelta(days=4000), today)):
        with pytest.raises(InvalidInput):
            client.reports.cut_offs(*wrong)
    text = b"".join(client.views.export(ReportName.LEAVERS, ExportForm.CSV, {})).decode("utf-8-sig")
    told = list(csv.DictReader(io.StringIO(text)))
    assert [t["id"] for t in told] == [r.id for r in rows]
    assert (
        "ended_at,known_at,cut_at" in cli(theatre, "--output", "csv", "reports", "leavers").stdout
    )
    assert "within a minute" in cli(theatre, "reports", "cut-offs").stdout
    assert cli(theatre, "reports", "leavers", "tomorrow").returncode == 2


def test_a_batch_says_how_it_stands_and_how_long_cutting_off_took(theatre: Theatre) -> None:
    client = theatre.client
    logins = [joined(theatre, "Deck") for _ in range(3)]
    plan = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=logins))
    dockets = client.plans.confirm(plan)
    for docket in dockets:
        list(client.dockets.follow(docket.number))
    (batch,) = {client.dockets.show(d.number).batch_id for d in dockets}
    assert batch is not None
    found = client.dockets.batch(batch)
    assert (found.dockets, found.done, found.stuck, found.cut_offs) == (3, 3, 0, 3)
    took = sorted(client.dockets.show(d.number).cut_off_ms or 0 for d in dockets)
    assert found.half_ms == pytest.approx(took[1], abs=1)
    assert found.longest_ms == pytest.approx(took[2], abs=1)
    assert {d.number for d in client.dockets.all(batch=batch)} == {d.number for d in dockets}
    told = cli(theatre, "dockets", "batch", dockets[0].number).stdout
    assert "3 dockets: 3 done" in told
    assert "3 cut off: half within" in told
    with pytest.raises(NotFound):
        client.dockets.batch("no-such-batch")
