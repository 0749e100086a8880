"""Who may call what: each cell of docs/reference/rights.md, tried on every route that there is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from tests.acceptance.test_service import raw
from tests.conftest import Theatre
from tests.signing import PASSWORD, for_now, session_of, token_of
from yugum.client import Client
from yugum.wire import operators as wop

TABLE = Path(__file__).parents[2] / "docs/reference/rights.md"
CALLERS = ("nobody", "viewer", "operator", "administrator", "integration", "session")
"""The middle three by a token of that scope, the integration has an administrator's role."""
YES, NO = "✓", "–"


def decided() -> dict[str, dict[str, str]]:
    """The table: by call, what each caller gets."""
    found = {}
    for line in TABLE.read_text().splitlines():
        if match := re.match(r"\| `([A-Z]+ [^`]+)` \|(.*)\|$", line):
            cells = [c.strip() for c in match[2].split("|")]
            found[match[1]] = dict(zip(CALLERS, cells, strict=True))
    return found


@pytest.fixture(scope="module")
def callers(theatre: Theatre) -> Iterator[dict[str, httpx.Client]]:
    """Each caller with an address of its own beside, so that signing in touches nobody's session."""
    with for_now(theatre.client, "matrix", "administrator"):
        made = _callers(theatre)
        yield made
        for one in made.values():
            one.close()


def _callers(theatre: Theatre) -> dict[str, httpx.Client]:
    client, url = theatre.client, theatre.stage.url
    held = {s: token_of(client, url, "matrix", s) for s in CALLERS[1:4]}
    with session_of(client, url, "matrix") as own:
        if "matrix-feed" not in {i.login for i in client.integrations.all()}:
            new_one = {"login": "matrix-feed", "name": "F", "role": "administrator"}
            own.integrations.add(wop.NewIntegration.model_validate(new_one))
        new = wop.NewToken(
            name="feed", scope="administrator", password=PASSWORD, integration="matrix-feed"
        )
        held["integration"] = own.tokens.add(new).token
    link = client.operators.link("matrix").link.rsplit("#", 1)[1]
    made = {"nobody": httpx.Client(timeout=60), "session": httpx.Client(timeout=60)}
    reply = made["session"].post(f"{url}/api/v1/session/link", json={"token": link})
    made["session"].headers["X-Yugum-CSRF"] = reply.json()["csrf"]
    for caller, token in held.items():
        bearer = {"Authorization": f"Bearer {token}"}
        made[caller] = httpx.Client(timeout=60, headers=bearer)
    return made


def calls_of(theatre: Theatre) -> list[str]:
    document = raw(theatre, "GET", "/openapi.json").json()
    return [
        f"{method.upper()} {path.removeprefix('/api/v1')}"
        for path, methods in document["paths"].items()
        for method in methods
    ]


def test_every_cell_of_the_table_is_as_it_is_decided(
    theatre: Theatre, callers: dict[str, httpx.Client]
) -> None:
    table = decided()
    calls = calls_of(theatre)
    assert set(calls) == set(table), "a route without a line, or a line without a route"
    wrong = []
    for call in calls:
        for caller in CALLERS:
            if call == "DELETE /session" and caller == "session":
                continue  # it would end here; the console's tests sign out
            got = answered(theatre, callers[caller], call)
            if (got not in (401, 403)) is not (table[call][caller] == YES):
                wrong.append((call, caller, table[call][caller], got))
    assert wrong == []
    assert len(table) * len(CALLERS) > 700


def answered(theatre: Theatre, caller: httpx.Client, call: str) -> int:
    """The status of a call for something that is not there; a stream's without its end."""
    method, path = call.split(" ")
    filled = re.sub(r"\{[^}]+\}", "no-such", path)
    body = {"no": "such"} if method in ("POST", "PUT", "PATCH") else None
    url = f"{theatre.stage.url}/api/v1{filled}"
    with caller.stream(method, url, json=body) as reply:
        return reply.status_code


def test_a_scope_is_never_more_than_the_role(theatre: Theatre) -> None:
    """Every pair of role and scope: what counts is the lesser, from the moment the role is lowered."""
    client, url = theatre.client, theatre.stage.url
    ranked = CALLERS[1:4]
    with for_now(client, "lowering", "administrator") as row:
        held = {s: token_of(client, url, "lowering", s) for s in ranked}
        for role in reversed(ranked):
            client.operators.change(row.id, wop.OperatorChange(role=role))
            for scope in ranked:
                with Client(url, held[scope]) as own:
                    lesser = min(role, scope, key=ranked.index)
                    assert own.session().operator.role == lesser, (role, scope)
