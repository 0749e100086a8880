"""A rename whose former name is nobody's business."""

from __future__ import annotations

import httpx

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import token_of
from yugum.core.people import Person
from yugum.core.veils import MARK, Veil, former_names


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
