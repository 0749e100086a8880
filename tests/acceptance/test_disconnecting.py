"""Disconnecting an application: what is shown, what stops, what is kept, what comes back."""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import httpx
import psycopg
import pytest
from psycopg import sql

from tests.acceptance.test_rules import changed, restored  # noqa: F401
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import token_of
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound, PlanStale
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.look import CrewLook
from yugum_standins.stage import Stage


@dataclass
class Berths:
    """A small application of one's own, with three people in it and an account that is nobody's."""

    id: str
    logins: list[str]
    stray: str
    asked: wap.ConnectApplication
    look: CrewLook


@pytest.fixture
def berths(theatre: Theatre) -> Iterator[Berths]:
    name = f"berths-{uuid.uuid4().hex[:6]}"
    logins = [f"{w}{uuid.uuid4().hex[:7]}" for w in ("ann", "ben", "cas")]
    stray = f"x{uuid.uuid4().hex[:8]}"
    theatre.client.people.create(
        [wp.NewPerson(user_name=n, given_name=n, family_name="Berth") for n in logins]
    )
    users = [{"userName": n, "groups": ["Cabins"], "sessions": 1} for n in [*logins, stray]]
    stage: Stage = theatre.stage
    made = stage.standin(name, {"groups": ["Cabins"], "users": users}, keep=False)
    asked = wap.ConnectApplication(
        id=name,
        name="Berths",
        kind="scim",
        url=f"{made['url']}/scim/v2",
        secret=made["token"],
        trust=Trust.FULL,
        profile=wap.ProfileDocument(close_after_days=77),
    )
    client = theatre.client
    client.applications.connect(asked)
    assert client.applications.read(name).accounts == 4
    yield Berths(name, logins, stray, asked, CrewLook(made["url"], made["headers"]))
    if name in {a.id for a in client.applications.all()} | {
        a.id for a in client.applications.gone()
    }:
        try:
            plan = client.applications.plan_disconnection(name, erase=True)
            client.applications.disconnect(plan, "the test is over", typed=name)
        except Conflict:
            pass  # nothing is kept of it


def ids(theatre: Theatre, application: str) -> dict[str, str]:
    return {a.login: a.id for a in theatre.client.accounts.all(application=application)}


def planned(theatre: Theatre, berths: Berths) -> wap.DisconnectionView | None:
    """What follows, once nothing is being done there just now."""
    try:
        return theatre.client.applications.plan_disconnection(berths.id)
    except Conflict:
        return None


def disconnected(theatre: Theatre, berths: Berths) -> None:
    """Agree to what follows, as it is shown; what is owed becomes known while somebody leaves."""

    def agreed() -> bool:
        if berths.id in {a.id for a in theatre.client.applications.gone()}:
            return True
        try:
            shown = theatre.client.applications.plan_disconnection(berths.id)
            theatre.client.applications.disconnect(shown, "replaced by Cabins")
        except Conflict:  # it has changed, or something is being done there just now
            return False
        return True

    until(agreed)


def test_what_was_kept_goes_on_when_it_is_connected_again(theatre: Theatre, berths: Berths) -> None:
    client, ann = theatre.client, berths.logins[0]
    before = ids(theatre, berths.id)
    berths.look.fault(down=1)
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[ann]))
    number = client.plans.confirm(batch)[0].number
    until(lambda: any(s.problem for s in client.dockets.show(number).steps))

    until(lambda: planned(theatre, berths) is not None)
    shown = planned(theatre, berths) or client.applications.plan_disconnection(berths.id)
    told = "\n".join(shown.follows)
    assert "1 account of people who have left is open there still" in told
    assert "4 accounts are not read" in told
    assert "of 1 docket" in told
    assert "kept" in told
    wrong = shown.model_copy(update={"digest": "0" * 64})
    with pytest.raises(Conflict):
        client.applications.disconnect(wrong, "replaced by Cabins")
    disconnected(theatre, berths)

    until(lambda: client.dockets.show(number).state == "done")
    steps = [s for s in client.dockets.show(number).steps if s.application_id == berths.id]
    assert {s.state for s in steps} == {"left_out"}
    assert berths.id not in {a.id for a in client.applications.all()}
    assert client.people.show(ann).accounts == []
    for call in (client.applications.read, client.applications.readings):
        with pytest.raises(NotFound):
            call(berths.id)
    until(lambda: not [f for f in client.findings.all() if f.application_name == "Berths"])
    row = next(a for a in client.applications.gone() if a.id == berths.id)
    assert row.archived == 4
    kept = {a.login: a for a in client.applications.archived(berths.id)}
    assert kept.keys() == before.keys()
    assert (kept[ann].state, kept[ann].entitlements) == ("active", ["Cabins"])
    with pytest.raises(Conflict, match="not connected"):
        client.applications.plan_disconnection(berths.id)

    berths.look.fault(down=0)
    said = berths.asked.model_dump(exclude={"trust", "profile"}, exclude_unset=True)
    again = wap.ConnectApplication.model_validate(said)
    connected = client.applications.connect(again)
    assert (connected.trust, connected.profile.close_after_days) == ("watch", 77)
    client.applications.read(berths.id)
    assert ids(theatre, berths.id) == before
    assert berths.id not in {a.id for a in client.applications.gone()}
    # What the leaver has open there is seen again, and somebody is told.
    until(
        lambda: any(
            f.login == ann and f.application_name == "Berths" for f in client.findings.all()
        )
    )


def test_erasing_asks_for_its_name_and_leaves_nothing(theatre: Theatre, berths: Berths) -> None:
    client = theatre.client
    accounts = ids(theatre, berths.id)
    hold = client.hold(berths.id, "a question of the auditors")
    with pytest.raises(Conflict, match="a question of the auditors"):
        client.applications.plan_disconnection(berths.id, erase=True)
    client.applications.disconnect(client.applications.plan_disconnection(berths.id), "kept")
    with pytest.raises(Conflict, match="a question of the auditors"):  # nor in two steps
        client.applications.plan_disconnection(berths.id, erase=True)
    client.applications.connect(berths.asked)
    assert ids(theatre, berths.id) == accounts
    client.decisions.end(hold.id)
    asked = ("apps", "disconnect", berths.id, "--erase", "--yes", "--reason", "sold")
    refused = cli(theatre, *asked)
    assert refused.returncode == 4
    assert f"Type {berths.id}" in refused.stderr
    assert ids(theatre, berths.id) == accounts
    done = cli(theatre, *asked, "--typed", berths.id)
    assert done.returncode == 0, done.stderr
    assert "4 accounts, with what they held and when, are erased here" in done.stderr
    gone = json.loads(cli(theatre, "--output", "json", "apps", "gone").stdout)
    assert {"id": berths.id, "archived": 0}.items() <= next(
        g for g in gone if g["id"] == berths.id
    ).items()
    assert list(client.applications.archived(berths.id)) == []
    # Nothing of its accounts is in any table but the record of what was done.
    names = "SELECT table_name FROM information_schema.columns WHERE column_name = 'application_id'"
    with psycopg.connect(theatre.stage.env["YUGUM_DATABASE_URL"]) as connection:
        tables = {str(r[0]) for r in connection.execute(names)}
        tables -= {"steps", "handovers", "tasks", "sweeps"}
        left = [
            name
            for name in tables
            if connection.execute(
                sql.SQL("SELECT FROM {} WHERE application_id = %s").format(sql.Identifier(name)),
                [berths.id],
            ).rowcount
        ]
        traces = "SELECT * FROM history WHERE account_id = ANY(%s)"
        assert connection.execute(traces, [list(accounts.values())]).fetchall() == []
    assert (len(tables) > 10, left) == (True, [])
    assert all(berths.look.user(n) for n in berths.logins)  # the application is as it was
    client.applications.connect(berths.asked)
    assert client.applications.read(berths.id).new == 4


def test_what_is_kept_hides_a_former_name(theatre: Theatre, berths: Berths) -> None:
    client, before = theatre.client, berths.logins[0]
    disconnected(theatre, berths)
    words = (
        "rename",
        before,
        "--login",
        f"z{before[1:]}",
        "--given",
        "Zoe",
        "--sensitive",
        "--yes",
    )
    done = cli(theatre, *words)
    assert done.returncode == 0, done.stderr
    assert before in {a.login for a in client.applications.archived(berths.id)}
    with Client(theatre.stage.url, token_of(client, theatre.stage.url, "iholm", "viewer")) as one:
        seen = {a.login for a in one.applications.archived(berths.id)}
    assert len(seen) == 4
    assert before not in seen


def test_a_plan_made_before_is_not_carried_out(
    theatre: Theatre,
    berths: Berths,
    restored: Any,  # noqa: F811
) -> None:
    client, title = theatre.client, f"Berth keeper {berths.id}"
    keeper = {"when": f'title eq "{title}"', "gives": [{"application": berths.id}]}
    client.rules.adopt(changed(**{"Berth keepers": keeper}), "berths", take_away=10_000)
    login = f"k{uuid.uuid4().hex[:8]}"
    client.people.create([wp.NewPerson(user_name=login, given_name="K", title=title)])
    asked = wl.NewPlan(verb=Verb.JOINER, who=[login])
    batch = client.plans.make(asked)
    assert berths.id in {s.application_id for s in batch.plans[0].steps}
    shown = client.applications.plan_disconnection(berths.id)
    assert "Roles that give something there give it to nobody: Berth keepers." in shown.follows
    client.applications.disconnect(shown, "sold")
    with pytest.raises(PlanStale):
        client.plans.confirm(batch)
    again = client.plans.make(asked).plans[0]
    assert berths.id not in {s.application_id for s in again.steps}
    assert any(berths.id in w.text for w in again.cautions), again.cautions
    with pytest.raises(InvalidInput, match=berths.id):
        client.rules.adopt(changed(**{"Berth keepers": keeper}), "berths", take_away=10_000)


def test_only_an_administrator_and_only_what_there_is(theatre: Theatre) -> None:
    client = theatre.client
    with pytest.raises(NotFound):
        client.applications.plan_disconnection("nowhere")
    path = f"{theatre.stage.url}/api/v1/applications/nowhere/disconnection"
    headers = {"Authorization": f"Bearer {theatre.token}"}
    reply = httpx.post(path, json={"digest": "x", "reason": "y"}, headers=headers)
    assert (reply.status_code, reply.json()["place"]) == (422, "digest")
