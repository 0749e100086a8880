"""One person twice: a provisional newcomer merged with the one from the source."""

from __future__ import annotations

import uuid

import pytest

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.errors import Conflict, NotFound
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import do


def test_a_provisional_person_is_merged_with_the_one_from_the_source(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre)
    before = client.people.show(login)
    client.decisions.make(
        wde.NewDecision(
            who=login,
            kind="grant",
            payload={"application": "crew-rosters", "kind": "entitlement", "item": "Night duty"},
            reason="stands in",
        )
    )
    source = f"s{uuid.uuid4().hex[:8]}"
    number = str(uuid.uuid4().int)[:9]
    client.people.create(
        [wp.NewPerson(user_name=source, family_name="Source", employee_number=number, site="Brae")]
    )
    docket = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[source], at="+9d"))
    )[0].number
    with pytest.raises(Conflict, match="has not ended"):
        client.people.merge(source, login)
    client.dockets.cancel(docket)
    done = cli(theatre, "people", "merge", source, login, "--yes", "--reason", "the same")
    assert done.returncode == 0, done.stderr
    merged = client.people.show(source)
    assert {a.id for a in merged.accounts} == {a.id for a in before.accounts}
    assert merged.employee_number == number
    assert merged.site == "Brae", "what the source says stays"
    assert merged.department == before.department, "what it does not say is filled in"
    assert [d.kind for d in merged.decisions] == ["grant"]
    assert {d.verb for d in merged.dockets} >= {"joiner"}
    with pytest.raises(NotFound):
        client.people.show(login)
    do(client, Verb.LEAVER, source)
    assert theatre.reporting.role(login) is False, "the account is closed with its person"
    event = next(e for e in client.audit.page(who=source).items if e.action == "person.merged")
    assert event.payload is not None
    assert event.payload["gone"] == login
