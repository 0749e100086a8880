"""A rename whose former name is nobody's business."""

from __future__ import annotations

import re

import httpx

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import token_of
from yugum.core.people import Person
from yugum.core.veils import MARK, Veil, former_names
from yugum.wire import decisions as wde
from yugum.wire import orders as wo
from yugum.wire import plans as wl
from yugum_standins.morrow import CREW


def everything_about(theatre: Theatre, token: str, login: str, docket: str) -> str:
    """All that a reader gets of a person and a docket, as it goes over the wire."""
    headers = {"Authorization": f"Bearer {token}"}
    with httpx.Client(base_url=f"{theatre.stage.url}/api/v1", headers=headers, timeout=60) as wire:
        paths = (
            f"/people/{login}",
            f"/people/{login}/decisions",
            f"/dockets/{docket}",
            f"/dockets?who={login}",
            f"/dockets/{docket}/events",
            f"/dockets/{docket}/record?form=json",
            f"/dockets/{docket}/record?form=csv",
            f"/dockets/{docket}/record?form=html",
            f"/accounts?who={login}",
            f"/audit?who={login}&limit=200",
        )
        replies = [wire.get(path) for path in paths]
    assert {r.status_code for r in replies} == {200}
    return "\n".join(r.text for r in replies)


def test_a_former_name_is_hidden_from_all_but_administrators(theatre: Theatre) -> None:
    before = joined(theatre)
    after = f"n{before[1:]}"
    done = cli(
        theatre, "rename", before, "--login", after, "--given", "Nova", "--sensitive", "--yes"
    )
    assert done.returncode == 0, done.stderr
    docket = theatre.client.people.show(after).dockets[0].number
    reader = token_of(theatre.client, theatre.stage.url, "iholm", "viewer")
    seen = everything_about(theatre, reader, after, docket)
    assert before.casefold() not in seen.casefold()
    assert MARK in seen
    assert after in seen
    known = everything_about(theatre, theatre.token, after, docket)
    assert before in known
    assert MARK not in known


def everywhere(theatre: Theatre, token: str, values: dict[str, str]) -> dict[str, str]:
    """What each GET of the description answers, its places filled with what is about one person."""
    headers = {"Authorization": f"Bearer {token}"}
    found = {}
    with httpx.Client(base_url=theatre.stage.url, headers=headers, timeout=60) as wire:
        document = wire.get("/api/v1/openapi.json").json()
        for path, methods in document["paths"].items():
            if "get" not in methods or path.endswith("/changes"):  # a stream has no end
                continue
            address, query = path, {}
            for place in methods["get"].get("parameters", ()):
                value = values.get(f"{place['name']} of {path}", values.get(place["name"], ""))
                if place["in"] == "path":
                    address = re.sub(rf"\{{{place['name']}\}}", value, address)
                elif value:
                    query[place["name"]] = value
            reply = wire.get(address, params=query)
            found[path] = f"{reply.status_code} {reply.text}"
    return found


def test_a_former_name_is_in_no_answer_of_any_call(theatre: Theatre) -> None:
    """Somebody renamed in confidence has a plan, dockets, mails, tasks, lines and a hold."""
    client, before = theatre.client, joined(theatre, "Timetables")
    other = joined(theatre, "Timetables")
    client.people.change(before, {"mail": f"{before}@morrowsound.example"})
    after = f"v{before[1:]}"
    done = cli(
        theatre, "rename", before, "--login", after, "--given", "Nova", "--family", "Changed",
        "--mail", f"{after}@morrowsound.example", "--sensitive", "--yes",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    rename = client.people.show(after).dockets[0].number
    client.decisions.make(wde.NewDecision(who=after, kind="hold", reason="a claim"))
    planned = client.plans.make(
        wl.NewPlan(verb="mover", who=[after], changes={"department": "Deck"})
    )
    leaver = client.plans.confirm(client.plans.make(wl.NewPlan(verb="leaver", who=[after])))[0]
    for _ in client.dockets.follow(leaver.number):
        pass
    undo = client.plans.make(wl.NewPlan(verb="undo", docket=rename))
    values = {
        "who": after,
        "like": other,
        "left": after,
        "right": other,
        "name": rename,
        "name of /api/v1/guide/{name}": "leavers",
        "docket": leaver.number,
        "q": before,
        "batch_id": planned.id,
        "application_id": CREW,
        "version": "1",
        "pool_id": client.seats.all()[0].id,
        "account_id": client.accounts.page(who=after).items[0].id,
        "shared_id": "none",
        "order_id": client.orders.ask(
            wo.NewOrder(pool_id=client.seats.all()[0].id, count=1, reason="test")
        ).id,
        "thing_id": "none",
        "group_id": next(iter(client.groups.all())).id,
        "hours": "0",
        "limit": "200",
        "form": "json",
        "field": "department",
        "kind of /api/v1/applications/{application_id}/names": "entitlement",
        "said": "Fri 17:00",
        "at": "2031-01-27T08:00:00Z",
    }
    reader = token_of(client, theatre.stage.url, "iholm", "operator")
    asked: set[str] = set()
    seen: dict[str, str] = {}
    # Plans that wait, and what was confirmed: each has calls that the others have not.
    for batch in (planned.id, undo.id, client.dockets.show(leaver.number).batch_id):
        seen = everywhere(theatre, reader, {**values, "batch_id": batch or ""})
        asked |= {p for p, text in seen.items() if text.startswith("200")}
        told = {p: _around(text, before) for p, text in seen.items() if before in text.casefold()}
        assert told == {}
    assert len(asked) > len(seen) - 9, "nearly every call has an answer"


def _around(text: str, name: str) -> str:
    at = text.casefold().index(name)
    return text[max(0, at - 80) : at + 60]


def test_only_whole_former_names_of_that_person_are_hidden() -> None:
    was = Person(
        id="p", user_name="aberg", given_name="Anna", family_name="Berg", mail="a@x.example"
    )
    now = Person(
        id="p", user_name="abreck", given_name="Anna", family_name="Breck", mail="b@x.example"
    )
    names = former_names(was, now)
    assert names[0] == "a@x.example"
    assert "Anna" not in names
    veil = Veil({"p": names})
    assert veil.hide("ABERG was Berg, Bergen stays", "p") == f"{MARK} was {MARK}, Bergen stays"
    assert veil.hide("mail to a@x.example.", "p") == f"mail to {MARK}."
    assert veil.hide("mail to a@x.example.", "q") == "mail to a@x.example."
