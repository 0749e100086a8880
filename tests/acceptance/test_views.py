"""Views of lists, kept and shared; lists taken along; all that match; and what is told as it changes."""

from __future__ import annotations

import csv
import io
import json
import threading
import zipfile
from collections.abc import Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests.acceptance.test_service import joined, newcomer
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.core.requests import MOST_AT_ONCE
from yugum.core.verbs import Verb
from yugum.core.views import ExportForm, ListName
from yugum.errors import Conflict, Forbidden, InvalidInput, NotFound
from yugum.wire import operators as wo
from yugum.wire import plans as wl
from yugum.wire import shared as ws
from yugum.wire import views as wv
from yugum_standins.morrow import CREW


@pytest.fixture(scope="module")
def other(theatre: Theatre) -> Iterator[Client]:
    """Another operator, who may look and not act."""
    body = wo.NewOperator(login="lookout", name="Lookout", role=OperatorRole.VIEWER)
    theatre.client.operators.add(body)
    link = theatre.client.operators.link("lookout").link
    with Client.by_link(theatre.stage.url, link.rpartition("#")[2]) as client:
        yield client


def view(name: str, **more: Any) -> wv.NewView:
    return wv.NewView(**{"page": ListName.PEOPLE, "name": name, "query": {"state": "left"}, **more})


def names(client: Client) -> dict[str, tuple[bool, bool]]:
    return {v.name: (v.mine, v.start) for v in client.views.all()}


def test_a_view_is_its_owners_until_it_is_shared_and_starts_whoever_wants_it(
    theatre: Theatre, other: Client
) -> None:
    mine = theatre.client.views
    kept = mine.keep(view("Gone", columns=["display_name", "access_ends"]))
    assert names(theatre.client)["Gone"] == (True, False)
    assert "Gone" not in names(other)
    with pytest.raises(NotFound):
        other.views.start(kept.id)
    shared = view("Gone", query={"state": "left", "sort": "leaves"}, shared=True)
    assert mine.change(kept.id, shared).query["sort"] == "leaves"
    assert names(other)["Gone"] == (False, False)
    with pytest.raises(Forbidden):
        other.views.change(kept.id, shared)
    with pytest.raises(Forbidden):
        other.views.drop(kept.id)
    other.views.start(kept.id)
    assert names(other)["Gone"] == (False, True)
    assert names(theatre.client)["Gone"] == (True, False), "each has a start of their own"
    with pytest.raises(Conflict):
        mine.keep(view("Gone"))
    mine.change(kept.id, view("Gone"))
    assert "Gone" not in names(other), "not shared any more: not theirs to start with"
    mine.drop(kept.id)
    with pytest.raises(NotFound):
        mine.drop(kept.id)


@pytest.mark.parametrize(
    ("wrong", "place"),
    [
        ({"query": {"stat": "left"}}, "query.stat"),
        ({"query": {"state": "gone"}}, "query.state"),
        ({"query": {"sort": "shoe"}}, "query.sort"),
        ({"columns": ["shoe_size"]}, "columns.shoe_size"),
    ],
)
def test_what_a_list_does_not_know_is_no_view(
    theatre: Theatre, wrong: dict[str, Any], place: str
) -> None:
    with pytest.raises(InvalidInput) as refused:
        theatre.client.views.keep(view("Wrong", **wrong))
    assert refused.value.place == place
    assert refused.value.remedy or "Input should be" in refused.value.message


def test_the_command_line_keeps_shows_and_takes_along(theatre: Theatre, tmp_path: Path) -> None:
    words = ("views", "keep", "Deck hands", "--page", "people")
    kept = cli(theatre, *words, "--filter", "department=Deck", "--column", "user_name")
    assert kept.returncode == 0, kept.stderr
    assert "Deck hands" in cli(theatre, "views", "list").stdout
    listed = [p.user_name for p in theatre.client.people.page(department="Deck").items]
    assert cli(theatre, "views", "show", "Deck hands").stdout.split()[1:][: len(listed)] == listed
    printed = cli(theatre, "export", "people", "--view", "Deck hands")
    assert printed.stdout.removeprefix("\ufeff").split()[1:][: len(listed)] == listed
    book = tmp_path / "deck.xlsx"
    assert "--to" in cli(theatre, "export", "people", "--form", "xlsx").stderr
    done = cli(
        theatre, "export", "people", "--view", "Deck hands", "--form", "xlsx", "--to", str(book)
    )
    assert done.returncode == 0, done.stderr
    assert listed[0] in zipfile.ZipFile(book).read("xl/worksheets/sheet1.xml").decode()
    assert cli(theatre, "views", "drop", "Deck hands").returncode == 0
    assert "no view" in cli(theatre, "views", "show", "Deck hands").stderr
    assert "--filter state=left" in cli(theatre, *words, "--filter", "state").stderr
    twice = cli(theatre, *words, "--filter", "state=left", "--filter", "state=active")
    assert "said twice" in twice.stderr
    for page in ("people", "dockets"):
        assert cli(theatre, "views", "keep", "Same", "--page", page).returncode == 0
    assert "Several views" in cli(theatre, "views", "drop", "Same").stderr, "neither is dropped"
    nowhere = cli(theatre, "export", "people", "--to", str(tmp_path / "no" / "such.csv"))
    assert "cannot be written" in nowhere.stderr


def test_a_file_has_the_rows_and_columns_that_are_shown(theatre: Theatre) -> None:
    query = {"sort": "login", "order": "descending", "site": "Oxhaven"}
    rows: list[Any] = list(theatre.client.views.rows(ListName.PEOPLE, query))
    columns = ["user_name", "open_accounts", "access_ends"]
    export = theatre.client.views.export
    text = b"".join(export(ListName.PEOPLE, ExportForm.CSV, query, columns)).decode("utf-8-sig")
    lines = list(csv.reader(io.StringIO(text)))
    assert lines[0] == columns
    assert [line[0] for line in lines[1:]] == [r.user_name for r in rows]
    documents = b"".join(
        export(ListName.PEOPLE, ExportForm.JSON_LINES, query, columns)
    ).splitlines()
    assert [json.loads(d) for d in documents] == [
        r.model_dump(mode="json", include=set(columns)) for r in rows
    ]
    for wrong in ({"format": "pdf"}, {"column": "shoe"}, {"stat": "left"}):
        reply = httpx.get(
            f"{theatre.stage.url}/api/v1/exports/people",
            params=wrong,
            headers={"Authorization": f"Bearer {theatre.token}"},
        )
        assert reply.status_code == 422, wrong


def test_findings_windows_and_mails_are_lists_like_the_others(theatre: Theatre) -> None:
    """Their filters are those of views and files; what they have not is refused everywhere."""
    client, login = theatre.client, joined(theatre, "Engine Room")
    newcomer(theatre, starts=f"{client.clock.show().now:%Y-%m-%d}")
    account = client.accounts.page(who=login, application=CREW).items[0].id
    wish = wl.NewPlan(verb=Verb.ACCOUNT, who=[login], accounts=[account], action="delete")
    for one in (wish, wl.NewPlan(verb=Verb.LEAVER, who=[login])):
        list(client.dockets.follow(client.plans.confirm(client.plans.make(one))[0].number))
    until(lambda: client.mails.all(kind="notice"))
    asked: dict[ListName, dict[str, str]] = {
        ListName.FINDINGS: {"kind": "sleeper"},
        ListName.LAST_CALL: {"application": CREW},
        ListName.MAILS: {"kind": "notice"},
        ListName.JOINERS: {"ready": "false"},
    }
    for page, query in asked.items():
        kept = client.views.keep(view(f"some {page}", page=page, query=query))
        fitting = [r.model_dump(mode="json") for r in client.views.rows(page, kept.query)]
        every = [r.model_dump(mode="json") for r in client.views.rows(page, {})]
        assert fitting, page
        told = b"".join(client.views.export(page, ExportForm.JSON_LINES, query)).splitlines()
        key = "account_id" if page is ListName.LAST_CALL else "key" if "key" in fitting[0] else "id"
        found = [row[key] for row in fitting]
        assert [json.loads(line)[key] for line in told] == found, page
        assert [row[key] for row in every if row[key] in found] == found, page
        with pytest.raises(InvalidInput):
            client.views.keep(view("wrong", page=page, query={"stat": "left"}))
    soon: list[Any] = list(client.views.rows(ListName.LAST_CALL, {"days": "1"}))
    assert account not in {r.account_id for r in soon}
    assert {m.kind for m in client.mails.all(kind="notice")} == {"notice"}
    assert {m.kind for m in client.mails.all(kind="approval")} <= {"approval"}
    assert not [m for m in client.mails.all(unsent=True) if m.sent_at]


def test_lists_of_who_has_access_are_lists_like_the_others(theatre: Theatre) -> None:
    """Each filter alone takes away what does not fit; a value that is False is said, not left out."""
    client = theatre.client
    for login, role in (("bosun", OperatorRole.VIEWER), ("bosun-2", OperatorRole.OPERATOR)):
        client.operators.add(wo.NewOperator(login=login, name="Quay_hand", role=role))
    client.operators.change(
        next(o.id for o in client.operators.all(q="bosun-2")), wo.OperatorChange(active=False)
    )
    for which, found in (
        ({"q": "QUAY_H"}, ["bosun", "bosun-2"]),
        ({"q": "quay%h"}, []),
        ({"q": "quay_h", "active": False}, ["bosun-2"]),
        ({"q": "quay_h", "role": "viewer"}, ["bosun"]),
    ):
        assert [o.login for o in client.operators.all(**which)] == found, which
    listed = cli(theatre, "operators", "list", "--search", "quay_h", "--disabled")
    assert "bosun-2" in listed.stdout
    assert "viewer" not in listed.stdout
    for login in ("gauge-a", "gauge-b"):
        client.integrations.add(wo.NewIntegration(login=login, name="Gauge", role="viewer"))
    client.integrations.pass_on("gauge-b", "bosun")
    assert [i.login for i in client.integrations.all(owner="bosun")] == ["gauge-b"]
    client.integrations.end("gauge-b")
    assert [i.login for i in client.integrations.all(q="gauge", active=False)] == ["gauge-b"]
    client.shared.put(ws.NewShared(id="gate-code", name="Gate code", place="North gate"))
    assert [s.id for s in client.shared.all(q="north G")] == ["gate-code"]
    assert [s.id for s in client.shared.all(q="north G", due=True)] == []
    mine = client.session().operator.login
    assert {t.of for t in client.tokens.all(mine)} == {mine}
    assert client.tokens.all("gauge-a") == []
    for nobody in (client.tokens.all, lambda owner: client.integrations.all(owner=owner)):
        with pytest.raises(NotFound):
            nobody("bosum")
    for page, query in (
        (ListName.OPERATORS, {"active": "false"}),
        (ListName.INTEGRATIONS, {"owner": mine}),
        (ListName.TOKENS, {"of": mine}),
        (ListName.SHARED, {"q": "gate"}),
        (ListName.AUDIT, {"action": "integration.ended"}),
    ):
        rows = [r.model_dump(mode="json") for r in client.views.rows(page, query)]
        told = b"".join(client.views.export(page, ExportForm.JSON_LINES, query)).splitlines()
        assert rows, page
        assert [json.loads(line)["id"] for line in told] == [r["id"] for r in rows], page
        with pytest.raises(InvalidInput):
            client.views.keep(view("wrong", page=page, query={"stat": "left"}))


def test_what_a_list_is_asked_as_no_or_none_is_said(theatre: Theatre) -> None:
    """``--not-ready`` and ``--before 0`` are values, and not left out."""
    today = theatre.client.clock.show().now
    login = newcomer(theatre, starts=f"{today - timedelta(days=2):%Y-%m-%d}")
    shown = [r.user_name for r in theatre.client.people.joiners(7, 14)]
    assert login in shown
    assert login not in [r.user_name for r in theatre.client.people.joiners(0, 14)]
    assert not any(r.ready for r in theatre.client.people.joiners(ready=False))
    said = cli(theatre, "people", "joiners", "--before", "0", "--not-ready").stdout
    assert login not in said


def test_all_that_match_are_those_at_the_preview(theatre: Theatre) -> None:
    client = theatre.client
    first, late = joined(theatre, "Timetables"), joined(theatre, "Safety")
    logins = f'userName eq "{first}" or userName eq "{late}"'
    matching = {"filter": f'department eq "Timetables" and ({logins})'}
    batch = client.plans.make(wl.NewPlan(verb=Verb.ABSENCE, matching=matching, until="+3d"))
    move = wl.NewPlan(verb=Verb.MOVER, who=[late], changes={"department": "Timetables"})
    list(client.dockets.follow(client.plans.confirm(client.plans.make(move))[0].number))
    assert {p.user_name for p in client.people.page(filter=matching["filter"]).items} == {
        first,
        late,
    }
    done = client.plans.confirm(batch)
    assert [client.dockets.show(d.number).subject_login for d in done] == [first]
    typed = cli(theatre, "absence", "--matching", f'filter=userName eq "{late}"', "--yes")
    assert typed.returncode == 0, typed.stderr
    assert len(typed.stdout.split("MS-")) > 1
    both = cli(theatre, "absence", first, "--matching", "site=Oxhaven", "--yes")
    assert "not both" in both.stderr
    # Of everybody who is known, which are more than one plan takes once other tests brought theirs.
    known, everybody = client.people.page().total, wl.NewPlan(verb=Verb.RECHECK, matching={})
    assert known is not None
    if known <= MOST_AT_ONCE:
        assert len(client.plans.make(everybody).plans) == known, "no filter is everybody"
    else:
        with pytest.raises(InvalidInput, match=f"{known} people fit"):
            client.plans.make(everybody)


@pytest.mark.parametrize(
    "wrong",
    [{"department": "Nowhere"}, {"shoe": "43"}, {"state": "gone"}, {}],
)
def test_who_matches_nothing_or_too_much_is_refused(
    theatre: Theatre, wrong: dict[str, str]
) -> None:
    who = [] if wrong else ["iholm"]
    matching = wrong or {"state": "active"}
    with pytest.raises(InvalidInput) as refused:
        theatre.client.plans.make(wl.NewPlan(verb=Verb.ABSENCE, who=who, matching=matching))
    assert refused.value.place.startswith("matching")


def test_what_changes_is_told_to_whoever_may_know_it(theatre: Theatre, other: Client) -> None:
    told: dict[str, list[str]] = {"iholm": [], "lookout": []}
    begun = {name: threading.Event() for name in told}

    def listen(name: str, client: Client) -> None:
        with suppress(httpx.HTTPError):  # whose client is closed at the end
            for nouns in client.views.changes():
                begun[name].set()
                told[name] += nouns

    for name, client in (("iholm", theatre.client), ("lookout", other)):
        threading.Thread(target=listen, args=(name, client), daemon=True).start()
        assert begun[name].wait(10)
    theatre.client.views.keep(view("Told"))
    until(lambda: "views" in told["iholm"] and "views" in told["lookout"])
    theatre.client.operators.add(
        wo.NewOperator(login="fresh", name="Fresh", role=OperatorRole.VIEWER)
    )
    until(lambda: "access" in told["iholm"])
    joined(theatre)
    until(lambda: {"people", "accounts", "dockets"} <= set(told["lookout"]))
    assert "access" not in told["lookout"], "who works with Yugum is not for a viewer"
