"""Who may do what: every call of the description, tried by nobody, a viewer and an operator."""

from __future__ import annotations

import re
from typing import Any

import httpx
import pytest

from tests.conftest import Theatre
from yugum.wire import operators as wop

Call = tuple[str, str]

OPEN = {
    ("POST", "/session"),
    ("POST", "/session/link"),
    ("POST", "/approval-links/open"),
    ("POST", "/approval-links/answer"),
    ("POST", "/credentials/open"),
    ("POST", "/credentials/choose"),
    ("POST", "/credentials/rules"),
}
"""What needs nobody signed in: signing in itself, and what a one-time link opens."""
OF_EVERYBODY = {
    ("DELETE", "/session"),
    ("PUT", "/session/password"),
    ("POST", "/tokens"),
    ("DELETE", "/tokens/{token_id}"),
    ("POST", "/names/suggest"),
    ("POST", "/people/would-get"),
    ("POST", "/rules/check"),
    ("POST", "/rules/try"),
    ("POST", "/approvals/{approval_id}/answer"),
}
"""What changes nothing but one's own: whoever may read may ask, and whoever is asked may answer."""
OF_ADMINISTRATORS = {
    ("POST", "/applications"),
    ("PATCH", "/applications/{application_id}/profile"),
    ("PATCH", "/applications/{application_id}/trust"),
    ("POST", "/operators"),
    ("POST", "/operators/{login}/link"),
    ("PATCH", "/operators/{operator_id}"),
    ("POST", "/applications/{application_id}/hold"),
    ("POST", "/seats"),
    ("DELETE", "/status/stop"),
    ("POST", "/rules"),
}


@pytest.fixture(scope="module")
def calls(theatre: Theatre) -> list[Call]:
    document = httpx.get(
        f"{theatre.stage.url}/api/v1/openapi.json",
        headers={"Authorization": f"Bearer {theatre.token}"},
    ).json()
    return [
        (method.upper(), path.removeprefix("/api/v1"))
        for path, methods in document["paths"].items()
        for method in methods
    ]


@pytest.fixture(scope="module")
def tokens(theatre: Theatre) -> dict[str, str]:
    """A token of each lower scope, both of an administrator: the scope is what counts."""
    made = {}
    for scope in ("viewer", "operator"):
        reply = httpx.post(
            f"{theatre.stage.url}/api/v1/tokens",
            json={"name": f"rights {scope}", "scope": scope},
            headers={"Authorization": f"Bearer {theatre.token}"},
        )
        made[scope] = reply.json()["token"]
    return made


def attempt(theatre: Theatre, call: Call, token: str = "") -> httpx.Response:
    method, path = call
    filled = re.sub(r"\{[^}]+\}", "no-such", path)
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    body: Any = {"no": "such"} if method in ("POST", "PUT", "PATCH") else None
    url = f"{theatre.stage.url}/api/v1{filled}"
    return httpx.request(method, url, headers=headers, json=body, timeout=60)


def test_nothing_is_told_to_who_is_not_signed_in(theatre: Theatre, calls: list[Call]) -> None:
    assert set(calls) >= OPEN, "the list above follows the description"
    for call in calls:
        if call in OPEN:
            continue
        reply = attempt(theatre, call)
        assert reply.status_code == 401, (call, reply.status_code, reply.text)
        assert reply.headers["Content-Type"] == "application/problem+json", call
        wrong = attempt(theatre, call, "yg_" + "x" * 40)
        assert wrong.status_code == 401, (call, "with a token that is none")


def test_a_viewer_changes_nothing(
    theatre: Theatre, calls: list[Call], tokens: dict[str, str]
) -> None:
    changing = [c for c in calls if c[0] != "GET" and c not in OPEN | OF_EVERYBODY]
    assert len(changing) > 30
    for call in changing:
        reply = attempt(theatre, call, tokens["viewer"])
        assert reply.status_code == 403, (call, reply.status_code, reply.text)
        assert reply.json()["code"] == "forbidden", call
        assert "viewer" in reply.json()["detail"], call


def test_an_operator_does_the_daily_work_and_not_the_administrators(
    theatre: Theatre, calls: list[Call], tokens: dict[str, str]
) -> None:
    changing = {c for c in calls if c[0] != "GET" and c not in OPEN | OF_EVERYBODY}
    refused = {c for c in changing if attempt(theatre, c, tokens["operator"]).status_code == 403}
    assert (
        refused
        == OF_ADMINISTRATORS
        | {
            ("POST", "/applications/{application_id}/accounts-file"),
            ("DELETE", "/status/stop"),
        }
        & refused
        | OF_ADMINISTRATORS
    )


def test_a_token_has_at_most_its_owners_rights(theatre: Theatre, tokens: dict[str, str]) -> None:
    url = f"{theatre.stage.url}/api/v1/tokens"
    headers = {"Authorization": f"Bearer {tokens['viewer']}"}
    reply = httpx.post(url, json={"name": "more", "scope": "administrator"}, headers=headers)
    if reply.status_code == 201:
        more = reply.json()["token"]
        assert attempt(theatre, ("POST", "/operators"), more).status_code == 403
    else:
        assert reply.status_code in (403, 422)


def test_who_is_no_operator_any_more_is_out_at_once(theatre: Theatre) -> None:
    made = theatre.client.operators.add(
        wop.NewOperator(login="temporary", name="Temporary", role="operator")
    )
    with httpx.Client(base_url=f"{theatre.stage.url}/api/v1") as browser:
        link = made.link.rsplit("#", 1)[1]
        csrf = browser.post("/session/link", json={"token": link}).json()["csrf"]
        headers = {"X-Yugum-CSRF": csrf}
        token = browser.post("/tokens", json={"name": "own"}, headers=headers).json()["token"]
        bearer = {"Authorization": f"Bearer {token}"}
        assert httpx.get(f"{theatre.stage.url}/api/v1/people", headers=bearer).status_code == 200
        operator = next(o for o in theatre.client.operators.all() if o.login == "temporary")
        theatre.client.operators.change(operator.id, wop.OperatorChange(active=False))
        assert browser.get("/people").status_code == 401
        assert httpx.get(f"{theatre.stage.url}/api/v1/people", headers=bearer).status_code == 401


def test_a_lower_role_counts_for_sessions_that_are_open(theatre: Theatre) -> None:
    made = theatre.client.operators.add(
        wop.NewOperator(login="lowered", name="Lowered", role="operator")
    )
    with httpx.Client(base_url=f"{theatre.stage.url}/api/v1") as browser:
        link = made.link.rsplit("#", 1)[1]
        csrf = browser.post("/session/link", json={"token": link}).json()["csrf"]
        plan = {"verb": "leaver", "who": ["nobody at all"]}
        headers = {"X-Yugum-CSRF": csrf}
        assert browser.post("/plans", json=plan, headers=headers).status_code == 404
        operator = next(o for o in theatre.client.operators.all() if o.login == "lowered")
        theatre.client.operators.change(operator.id, wop.OperatorChange(role="viewer"))
        assert browser.post("/plans", json=plan, headers=headers).status_code == 403
        assert browser.get("/people").status_code == 200


def test_a_sign_in_link_is_good_once_and_the_newest_only(theatre: Theatre) -> None:
    made = theatre.client.operators.add(
        wop.NewOperator(login="forgetful", name="Forgetful", role="viewer")
    )
    newer = theatre.client.operators.link("forgetful")
    url = f"{theatre.stage.url}/api/v1/session/link"
    secret = newer.link.rsplit("#", 1)[1]
    assert httpx.post(url, json={"token": secret}).status_code in (200, 201)
    for used in (secret, made.link.rsplit("#", 1)[1][:-1], ""):
        assert httpx.post(url, json={"token": used}).status_code in (401, 422)
