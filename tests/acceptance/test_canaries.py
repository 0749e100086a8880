"""Secrets that were planted are nowhere to be read: not in a log, a table, a reply kept or an error."""

from __future__ import annotations

import uuid
from pathlib import Path

import httpx
import psycopg

from tests.acceptance.test_service import joined, raw
from tests.conftest import Theatre
from tests.signing import for_now, session_of
from yugum.client import Client
from yugum.wire import operators as wop
from yugum_standins.load import loaded
from yugum_standins.morrow import CREW, REPORTING


def rows_of(theatre: Theatre) -> str:
    """Everything that Yugum's own database holds, as text."""
    found = []
    with psycopg.connect(theatre.stage.env["YUGUM_DATABASE_URL"]) as connection:
        tables = connection.execute(
            "SELECT table_schema, table_name FROM information_schema.tables"
            " WHERE table_type = 'BASE TABLE'"
            " AND table_schema NOT IN ('pg_catalog', 'information_schema')"
        ).fetchall()
        for schema, table in tables:
            name = psycopg.sql.Identifier(schema, table)
            query = psycopg.sql.SQL("SELECT x::text FROM {} x").format(name)
            found += [row[0] for row in connection.execute(query)]
    return "\n".join(found)


def logs_of(theatre: Theatre) -> str:
    files = [p for p in Path(theatre.stage.folder).rglob("*.log") if p.is_file()]
    assert files
    for path in files:
        if path.parent == theatre.stage.folder:
            assert path.stat().st_mode & 0o007 == 0, f"{path} can be read by others"
    return "\n".join(p.read_text(errors="replace") for p in files)


def test_planted_secrets_are_nowhere_to_be_read(theatre: Theatre) -> None:
    mark = uuid.uuid4().hex[:12]
    with for_now(theatre.client, f"c{mark}", "administrator"):
        _plant_and_look(theatre, mark)


def _plant_and_look(theatre: Theatre, mark: str) -> None:
    client, url = theatre.client, f"{theatre.stage.url}/api/v1"
    planted: dict[str, str] = {}
    said: list[str] = []

    with session_of(client, theatre.stage.url, f"c{mark}") as session:
        planted["password"] = f"password {mark} of four words"
        session.sessions.set_password(planted["password"], "four words make it long")
        new = wop.NewToken(name="c", scope="viewer", password=planted["password"])
        planted["token"] = session.tokens.add(new).token
    link = raw(
        theatre, "POST", f"/operators/c{mark}/link", headers={"Idempotency-Key": f"k{mark}"}
    ).json()["link"]
    planted["sign-in link"] = link.rsplit("#", 1)[1]
    planted["guess"] = f"guess {mark} of somebody"
    body = {"login": f"c{mark}", "password": planted["guess"]}
    said.append(httpx.post(f"{url}/session", json=body).text)
    wrong = {"login": [planted["guess"]], "password": {"x": planted["guess"]}}
    said.append(httpx.post(f"{url}/session", json=wrong).text)
    said.append(httpx.post(f"{url}/session", content=f'{{"x": "{planted["guess"]}'.encode()).text)

    for kind, address in (("scim", "http://127.0.0.1:1/x"), ("postgres", ""), ("ldap", "ldap://[")):
        secret = planted[f"secret of {kind}"] = f"secret-{kind}-{mark}"
        new_one = {"id": "canary", "name": "C", "kind": kind, "trust": "full", "url": address}
        said.append(raw(theatre, "POST", "/applications", json=new_one | {"secret": secret}).text)
    planted["crew's token"] = str(loaded(theatre.stage).crew["token"])

    login = joined(theatre, "Timetables")
    for application in (CREW, REPORTING):
        account = next(
            a for a in client.people.show(login).accounts if a.application_id == application
        )
        handed = client.credentials.hand_over(account.id, "known in person")
        planted[f"link to {application}"] = handed.link.rsplit("#", 1)[1]
        if application == CREW:
            opened = client.accounts.open_credential(planted[f"link to {application}"])
            planted["initial credential"] = opened.secret
        else:
            planted["chosen"] = f"Chosen-{mark}-Aa1!"
            chosen = {"token": planted[f"link to {application}"], "password": planted["chosen"]}
            answer = httpx.post(f"{url}/credentials/choose", json=chosen)
            assert answer.status_code in (200, 201), answer.text
            for _ in client.dockets.follow(answer.json()["docket"]):
                pass
    said += [
        d.model_dump_json()
        for d in client.dockets.follow(client.people.show(login).dockets[0].number)
    ]
    said += list(client.audit.export())

    places = {"an answer": "\n".join(said), "a table": rows_of(theatre), "a log": logs_of(theatre)}
    found = [
        (what, where)
        for what, secret in planted.items()
        for where in places
        if secret in places[where]
    ]
    assert found == []
    assert planted["initial credential"], "it was there"
    with Client(theatre.stage.url, planted["token"]) as own:
        assert own.session().operator.login == f"c{mark}"
