"""What is not known is refused and named: parameters, names, methods, lengths, kinds of value."""

from __future__ import annotations

import re
from typing import Any

import httpx
import pytest

from tests.acceptance.test_service import joined, raw
from tests.conftest import Theatre
from yugum.api.limits import MOST, OF_ANYBODY
from yugum.errors import InvalidInput
from yugum.wire import decisions as wde
from yugum_standins.morrow import CREW

METHODS = {"get", "post", "put", "patch", "delete"}


@pytest.fixture(scope="module")
def paths(theatre: Theatre) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = raw(theatre, "GET", "/openapi.json").json()["paths"]
    return {path.removeprefix("/api/v1"): methods for path, methods in found.items()}


def filled(path: str) -> str:
    return re.sub(r"\{[^}]+\}", "no-such", path)


def test_a_parameter_nobody_knows_is_refused_by_every_call(
    theatre: Theatre, paths: dict[str, dict[str, Any]]
) -> None:
    asked = 0
    for path, methods in paths.items():
        for method in methods:
            reply = raw(theatre, method.upper(), f"{filled(path)}?no_such=1")
            assert reply.status_code == 422, (method, path, reply.text)
            assert (reply.json()["place"], reply.json()["code"]) == ("no_such", "invalid-input")
            assert reply.json()["remedy"].startswith("Those there are"), path
            asked += 1
    assert asked > 100


def test_a_method_that_is_not_for_an_address_is_405_and_says_which_are(
    theatre: Theatre, paths: dict[str, dict[str, Any]]
) -> None:
    patterns = [re.compile(re.sub(r"\\\{[^}]+\\\}", "[^/]+", re.escape(p)) + "$") for p in paths]
    for path in paths:
        address = filled(path)
        there = {
            method
            for p, methods in paths.items()
            for method in methods
            if patterns[list(paths).index(p)].match(address)
        }
        named = there if "{" in path else set(paths[path])
        for method in METHODS - there:
            reply = raw(theatre, method.upper(), address)
            assert reply.status_code == 405, (method, path, reply.text)
            assert {m.lower() for m in re.split(r",\s*", reply.headers["Allow"])} == named, path
    assert raw(theatre, "GET", "/no/such/thing").status_code == 404


@pytest.mark.parametrize(
    ("path", "place"),
    [
        ("/people?limit=5&limit=6", "limit"),
        ("/people?limit=5.5", "limit"),
        ("/people?limit=0", "limit"),
        ("/people?cursor=%00", "cursor"),
        ("/people?filter=nosuch%20eq%20%22x%22", "filter"),
        ("/accounts?filter=active%20eq%20true", "filter"),
        ("/dockets?filter=x", "filter"),
        ("/audit?filter=x", "filter"),
        ("/last-call?days=1e3", "days"),
        ("/calendar?until=0.5", "until"),
        ("/calendar?begin=2031-03-03", "begin"),
    ],
)
def test_a_value_that_cannot_be_is_named(theatre: Theatre, path: str, place: str) -> None:
    reply = raw(theatre, "GET", path)
    assert reply.status_code == 422, reply.text
    assert place in (reply.json()["place"] or reply.json()["detail"])


@pytest.mark.parametrize(
    "path", ["/accounts", "/findings/outside", "/last-call", "/standing", "/tasks"]
)
def test_an_application_nobody_knows_is_not_answered_with_nothing(
    theatre: Theatre, path: str
) -> None:
    reply = raw(theatre, "GET", f"{path}?application=no-such")
    assert reply.status_code == 404, reply.text
    assert "no-such" in reply.json()["detail"]


@pytest.mark.parametrize(
    ("body", "place"),
    [
        ({"application_id": "crew", "license": "x", "bought": True}, "bought"),
        ({"application_id": "crew", "license": "x", "bought": "5"}, "bought"),
        ({"application_id": "crew", "license": "x", "bought": 5.5}, "bought"),
        ({"application_id": 7, "license": "x", "bought": 5}, "application_id"),
        ({"application_id": "crew", "license": "x", "bought": 5, "sold": 1}, "sold"),
    ],
)
def test_a_number_is_a_number(theatre: Theatre, body: dict[str, Any], place: str) -> None:
    reply = raw(theatre, "POST", "/seats", json=body)
    assert reply.status_code == 422, reply.text
    assert reply.json()["place"] == place


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("given_name", "A\u2028nna"),
        ("given_name", "A\u0085nna"),
        ("family_name", "Be\u202erg"),
        ("title", "Ma\u200bte"),
        ("mail", "a@morrow.example, b@morrow.example"),
        ("mail", "nobody"),
        ("outside_mail", "x@y@z.example"),
        ("outside_mail", "a\r\nBcc: all@morrow.example"),
    ],
)
def test_one_line_is_one_line_and_one_address_one(theatre: Theatre, field: str, value: str) -> None:
    body = {"people": [{"user_name": "nostrict", "given_name": "No", field: value}]}
    reply = raw(theatre, "POST", "/people", json=body)
    assert reply.status_code == 422, reply.text
    assert reply.json()["place"] == f"people.0.{field}"


def test_names_of_any_script_are_names(theatre: Theatre) -> None:
    login = joined(theatre)
    for name in ("Ægir", "می\u200cخواهم", "李小龍", "Ἀχιλλεύς", "O’Neil-Ng", "\U00010330"):
        changed = raw(theatre, "PATCH", f"/people/{login}", json={"changes": {"family_name": name}})
        assert changed.status_code == 200, changed.text
        assert theatre.client.people.show(login).family_name == name


def test_how_much_a_request_carries_is_limited_before_anybody_signs_in(theatre: Theatre) -> None:
    url = f"{theatre.stage.url}/api/v1"
    long = {"login": "x" * OF_ANYBODY, "password": "y"}
    reply = httpx.post(f"{url}/session", json=long)
    assert (reply.status_code, reply.json()["code"]) == (413, "too-large")

    def coming() -> Any:
        for _ in range(MOST // 65536 + 2):
            yield b" " * 65536

    reply = httpx.post(f"{url}/people", content=coming())  # of a length nobody has told
    assert reply.status_code in (401, 413)
    held = {"Authorization": f"Bearer {theatre.token}", "Content-Type": "application/json"}
    reply = httpx.post(f"{url}/people", content=coming(), headers=held)
    assert (reply.status_code, reply.json()["code"]) == (413, "too-large")


def test_rules_that_say_nothing_are_rules(theatre: Theatre) -> None:
    """Nobody is told apart by them: that is one combination of everybody."""
    reply = raw(theatre, "POST", "/rules/try", json={"text": ""})
    assert reply.status_code == 200, reply.text


@pytest.mark.parametrize(
    ("kind", "item", "near"),
    [
        ("entitlement", "Night dutty", "Night duty"),
        ("seat", "Rosters planer", "Rosters planner"),
        ("setting", "no-such", ""),
    ],
)
def test_an_exception_for_what_nobody_knows_is_refused_unless_it_is_new(
    theatre: Theatre, kind: str, item: str, near: str
) -> None:
    value = "x" if kind == "setting" else ""
    payload = wde.DecisionPayload(application=CREW, kind=kind, item=item, value=value)
    asked = wde.NewDecision(who=joined(theatre), kind="grant", payload=payload, reason="typed")
    with pytest.raises(InvalidInput, match=item) as refused:
        theatre.client.decisions.make(asked)
    assert refused.value.place == "payload.item"
    assert near in refused.value.remedy
    made = theatre.client.decisions.make(asked.model_copy(update={"new": True}))
    theatre.client.decisions.end(made.id)


@pytest.mark.parametrize("tag", ["", "soon", '"x"', "99999999999", "W/1"])
def test_an_etag_that_is_none_is_refused(theatre: Theatre, tag: str) -> None:
    path, body = f"/people/{joined(theatre)}", {"changes": {"title": "Cook"}}
    reply = raw(theatre, "PATCH", path, json=body, headers={"If-Match": tag})
    assert (reply.status_code, reply.json()["place"]) == (422, "header.if-match"), reply.text
