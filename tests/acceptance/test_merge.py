"""One person twice: a provisional newcomer merged with the one from the source."""

from __future__ import annotations

import uuid

import pytest

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
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
        [
            wp.NewPerson(
                user_name=source, family_name="Source", employee_number=number, site="Brae Point"
            )
        ]
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
    assert merged.site == "Brae Point", "what the source says stays"
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


def test_double_accounts_are_planned_when_two_become_one_and_split_again(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.crew
    keep, gone = joined(theatre), joined(theatre)
    said = {"application": "crew-rosters", "kind": "entitlement", "item": "Night duty"}
    client.decisions.make(wde.NewDecision(who=gone, kind="grant", payload=said, reason="stands in"))
    do(client, Verb.RECHECK, gone)
    assert "Night duty" in crew.groups(gone)
    done = cli(theatre, "people", "merge", keep, gone, "--yes")
    assert done.returncode in (0, 7), done.stderr  # the old ones wait until the new ones stand
    assert "these end" in done.stdout
    until(lambda: not (crew.user(gone) or {}).get("active"))
    until(lambda: "Nothing to do" in cli(theatre, "recheck", keep, "--yes").stdout)
    assert crew.user(keep)["active"] is True  # type: ignore[index]
    assert "Night duty" in crew.groups(keep), "what the other held goes over"
    one = client.people.show(keep)
    live = {a.application_id: a.login for a in one.accounts if a.state == "active"}
    assert set(live.values()) == {keep}
    crews = [a.id for a in one.accounts if a.application_id == "crew-rosters"]
    with pytest.raises(InvalidInput, match="No other account"):
        client.plans.make(wl.NewPlan(verb=Verb.RECHECK, who=[keep], accounts=crews))
    do(client, Verb.LEAVER, keep)


def test_two_merged_by_mistake_are_split_again(theatre: Theatre) -> None:
    client = theatre.client
    keep, gone = joined(theatre), joined(theatre)
    theirs = {a.id for a in client.people.show(gone).accounts}
    assert cli(theatre, "people", "merge", keep, gone, "--keep-both", "--yes").returncode == 0
    assert {a.id for a in client.people.show(keep).accounts} > theirs
    client.people.create(
        [wp.NewPerson(user_name=gone, family_name=gone.upper(), department="Timetables")]
    )
    words = [w for account in sorted(theirs) for w in ("--account", account)]
    done = cli(theatre, "people", "split", keep, gone, *words, "--yes")
    assert done.returncode == 0, done.stderr
    assert {a.id for a in client.people.show(gone).accounts} == theirs
    for who in (keep, gone):
        shown = client.people.show(who)
        assert {a.login for a in shown.accounts if a.state == "active"} == {who}
        assert [r for r in shown.standing if r.kind != "attribute"] == []
    assert cli(theatre, "people", "split", keep, gone, "--account", "x", "--yes").returncode == 3
    for who in (keep, gone):
        do(client, Verb.LEAVER, who)
