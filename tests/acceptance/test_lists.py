"""Every list of the command line, in each of its forms, and every list of the API, page by page."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import httpx
import pytest

from tests.commands import cli
from tests.conftest import Theatre

LISTS = [
    ("people", "list", "--search", "ashe"),
    ("accounts", "list", "--application", "crew-rosters", "--state", "active"),
    ("accounts", "proposals"),
    ("apps", "list"),
    ("seats", "list"),
    ("dockets", "list"),
    ("findings", "counts"),
    ("findings", "list"),
    ("findings", "outside"),
    ("standing", "list"),
    ("tasks", "list", "--state", ""),
    ("approvals", "list"),
    ("mails",),
    ("rules", "history"),
    ("roles",),
    ("operators", "list"),
    ("tokens", "list"),
    ("audit", "list"),
    ("plans", "list"),
    ("last-call",),
    ("calendar",),
    ("handovers",),
    ("shared", "list"),
    ("equipment", "list"),
    ("people", "joiners"),
    ("people", "would-get", "--department", "Deck"),
]


@pytest.mark.parametrize("words", LISTS, ids=" ".join)
def test_a_list_reads_as_a_table_as_json_and_as_csv(
    theatre: Theatre, words: tuple[str, ...]
) -> None:
    table = cli(theatre, *words)
    assert table.returncode == 0, table.stderr
    assert table.stdout.strip(), "an empty list says so"
    as_json = cli(theatre, "--output", "json", *words)
    assert as_json.returncode == 0, as_json.stderr
    rows = json.loads(as_json.stdout)
    as_csv = cli(theatre, "--output", "csv", *words)
    assert as_csv.returncode == 0, as_csv.stderr
    lines = list(csv.reader(io.StringIO(as_csv.stdout)))
    if isinstance(rows, list):
        assert len(lines) == len(rows) + 1
        assert {len(line) for line in lines} == {len(lines[0])}
        if rows:
            assert set(lines[0]) <= set(rows[0])


def lists_of(theatre: Theatre) -> dict[str, Any]:
    """The GETs of the description that take a cursor and need nothing else."""
    document = httpx.get(
        f"{theatre.stage.url}/api/v1/openapi.json",
        headers={"Authorization": f"Bearer {theatre.token}"},
    ).json()
    found = {}
    for path, calls in document["paths"].items():
        parameters = calls.get("get", {}).get("parameters", [])
        names = {p["name"] for p in parameters}
        if "cursor" in names and "{" not in path:
            found[path] = parameters
    return found


def test_every_list_of_the_api_is_paged_alike(theatre: Theatre) -> None:
    headers = {"Authorization": f"Bearer {theatre.token}"}
    lists = lists_of(theatre)
    assert len(lists) >= 12, sorted(lists)
    with httpx.Client(base_url=theatre.stage.url, headers=headers, timeout=60) as http:
        for path in sorted(lists):
            whole = http.get(path, params={"limit": 200})
            assert whole.status_code == 200, (path, whole.text)
            first = http.get(path, params={"limit": 2}).json()
            assert len(first["items"]) <= 2, path
            assert first["items"] == whole.json()["items"][:2], path
            if first["next"]:
                second = http.get(path, params={"limit": 2, "cursor": first["next"]}).json()
                assert second["items"] == whole.json()["items"][2:4], path
            for bad in ({"limit": 0}, {"limit": 201}, {"cursor": "%%%"}, {"cursor": "W10="}):
                reply = http.get(path, params=bad)
                assert reply.status_code == 422, (path, bad, reply.text)
                assert {"code", "detail", "remedy"} <= set(reply.json()), (path, reply.text)


def test_the_columns_that_are_asked_for_are_all_that_is_shown(theatre: Theatre) -> None:
    words = ("people", "list", "--department", "deck", "--sort", "login")
    for form in ("json", "csv", "table"):
        out = cli(theatre, "--output", form, "--columns", "login,begins", *words)
        assert out.returncode == 0, out.stderr
        assert "Deck" not in out.stdout, form
    rows = json.loads(cli(theatre, "--output", "json", "--columns", "login", *words).stdout)
    assert [r["user_name"] for r in rows] == sorted(r["user_name"] for r in rows)
    assert set(rows[0]) == {"user_name"}
    for wrong in (("--columns", "shoe size", *words), ("--columns", "login", "clock", "show")):
        out = cli(theatre, *wrong)
        assert out.returncode == 4, out.stderr
        assert "--columns" in out.stderr
