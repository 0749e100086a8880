"""Groups themselves: made, changed, handed over, retired and brought back, in SCIM and in the directory."""

from __future__ import annotations

import uuid
from typing import Any

import bonsai
import httpx
import pytest

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.client.groups import group_plan
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.wire import decisions as wde
from yugum.wire import groups as wg
from yugum.wire import plans as wl
from yugum_standins.directory import BASE
from yugum_standins.load import do
from yugum_standins.morrow import CREW, DIRECTORY, INCIDENTS
from yugum_standins.scim_groups import OWN_GROUP


def there(theatre: Theatre, name: str) -> dict[str, Any]:
    """The group as the application itself has it; nothing where there is none."""
    crew = theatre.play.organisation.crew
    reply = httpx.get(
        f"{crew['url']}/scim/v2/Groups",
        params={"filter": f'displayName eq "{name}"'},
        headers=crew["headers"],
        timeout=20,
    )
    found = reply.json()["Resources"]
    return dict(found[0]) if found else {}


def entry(theatre: Theatre, name: str) -> dict[str, str]:
    """The group's entry in the directory, with its DN."""
    with theatre.stage.directories[0].client().connect(timeout=5) as connection:
        found = connection.search(
            BASE, bonsai.LDAPSearchScope.SUB, f"(&(objectClass=groupOfNames)(cn={name}))"
        )
    return {k: str(v[0]) for k, v in found[0].items()} | {"dn": str(found[0].dn)} if found else {}


def row(theatre: Theatre, name: str) -> wg.GroupRow:
    return next(r for r in theatre.client.groups.all(q=name) if r.name == name)


def typed(theatre: Theatre, *words: str) -> str:
    done = cli(theatre, "groups", *words, "--yes")
    assert done.returncode == 0, done.stderr
    return done.stdout


@pytest.fixture
def name() -> str:
    return f"Lamp watch {uuid.uuid4().hex[:6]}"


def test_a_group_from_its_making_to_its_end(theatre: Theatre, name: str) -> None:
    client, owner, heir = theatre.client, joined(theatre), joined(theatre)
    typed(theatre, "make", CREW, name, "--owner", owner, "--address", "lamps@morrow.example",
          "--outside-senders", "yes")  # fmt: skip
    group = there(theatre, name)
    assert group[OWN_GROUP]["address"] == "lamps@morrow.example"
    assert group[OWN_GROUP]["outsideSenders"] is True
    mine = row(theatre, name)
    assert mine.owner_name == client.people.show(owner).display_name
    assert (
        "lamps@morrow.example"
        in cli(theatre, "--output", "json", "groups", "list", "--owner", owner).stdout
    )
    told = typed(theatre, "change", CREW, name, "--outside-senders", "no", "--owner", heir)
    assert "outside_senders: yes → no" in told
    assert there(theatre, name)[OWN_GROUP].get("outsideSenders", False) is False
    again = cli(theatre, "groups", "change", CREW, name, "--outside-senders", "no", "--yes")
    assert "Nothing to do" in again.stdout
    # Somebody in it, by an exception: it is not retired before that ends.
    said = wde.DecisionPayload(application=CREW, kind="entitlement", item=name)
    exception = client.decisions.make(
        wde.NewDecision(who=owner, kind="grant", payload=said, reason="lamps", new=True)
    )
    do(client, Verb.RECHECK, owner)
    assert row(theatre, name).members == 1
    with pytest.raises(Conflict, match="1 exception"):
        client.plans.make(wl.NewPlan(verb="account", action="delete", accounts=[mine.id]))
    plan = client.plans.make(group_plan(CREW, name, {"name": f"{name} II"}))
    assert "given by 1 exception, under this name" in str(plan)
    client.decisions.end(exception.id)
    until(lambda: row(theatre, name).members == 0)
    typed(theatre, "retire", CREW, name)
    assert there(theatre, name)[OWN_GROUP]["retiredUntil"]
    assert row(theatre, name).back_until is not None
    assert name in {r.name for r in client.groups.all(retired=True)}
    assert name in cli(theatre, "--output", "json", "last-call").stdout
    typed(theatre, "bring-back", CREW, name)
    assert "retiredUntil" not in there(theatre, name)[OWN_GROUP]
    # Its owner leaves: it is among what is handed over.
    do(client, Verb.LEAVER, heir, successor=owner)
    assert row(theatre, name).owner_name == client.people.show(owner).display_name
    number = client.people.show(heir).dockets[0].number
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    assert row(theatre, name).owner_name == client.people.show(heir).display_name
    typed(theatre, "retire", CREW, name)
    for who in (heir, owner):
        do(client, Verb.LEAVER, who)


def test_a_group_of_the_directory_and_its_undo(theatre: Theatre, name: str) -> None:
    client, owner = theatre.client, joined(theatre)
    typed(theatre, "make", DIRECTORY, name, "--owner", owner, "--description", "Lights the lamps")
    made = entry(theatre, name)
    assert made["owner"].startswith(f"uid={owner},")
    assert made["description"] == "Lights the lamps"
    number = next(iter(client.dockets.all())).number
    typed(theatre, "change", DIRECTORY, name, "--to", f"{name} II")
    assert not entry(theatre, name)
    assert entry(theatre, f"{name} II")["owner"] == made["owner"]
    typed(theatre, "change", DIRECTORY, f"{name} II", "--to", name)
    do(client, Verb.LEAVER, owner)  # nobody takes over: whose it was is told
    assert [f for f in client.findings.all(kind="without-owner") if f.login == name]
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    assert ",ou=leavers," in entry(theatre, name)["dn"], "undone, it is retired"
    typed(theatre, "bring-back", DIRECTORY, name)
    assert ",ou=groups," in entry(theatre, name)["dn"].lower()


def test_a_group_brought_back_since_stays(theatre: Theatre, name: str) -> None:
    """What was retired and brought back since is no longer what the docket made."""
    client, owner = theatre.client, joined(theatre)
    typed(theatre, "make", DIRECTORY, name, "--owner", owner)
    number = next(iter(client.dockets.all())).number
    typed(theatre, "retire", DIRECTORY, name)
    assert ",ou=leavers," in entry(theatre, name)["dn"]
    typed(theatre, "bring-back", DIRECTORY, name)
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    told = batch.plans[0].fidelity
    assert [(f.comes_back, "brought back" in f.why) for f in told] == [(False, True)]
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    assert ",ou=groups," in entry(theatre, name)["dn"].lower()


def test_what_cannot_be_is_refused(theatre: Theatre, name: str) -> None:
    client, who = theatre.client, joined(theatre)
    plan = client.plans.make
    with pytest.raises(Conflict, match="lets nobody make or change"):
        plan(group_plan(INCIDENTS, name, {}, new=True))
    with pytest.raises(NotFound, match="no group"):
        plan(group_plan(CREW, name, {"description": "x"}))
    with pytest.raises(Conflict, match="already"):
        plan(group_plan(CREW, "Rosters", {}, new=True))
    with pytest.raises(InvalidInput, match="has no address"):
        plan(group_plan(DIRECTORY, name, {"address": "x@y.example"}, new=True))
    with pytest.raises(InvalidInput, match="yes or no"):
        plan(group_plan(CREW, name, {"outside_senders": "sometimes"}, new=True))
    with pytest.raises(InvalidInput, match="Nothing is known of a group's colour"):
        plan(group_plan(CREW, name, {"colour": "red"}, new=True))
    with pytest.raises(NotFound):
        plan(group_plan("no-such-application", name, {}, new=True))
    with pytest.raises(InvalidInput, match="only for the verb group"):
        plan(wl.NewPlan(verb=Verb.RECHECK, who=[who], group="Rosters"))
    rosters = row(theatre, "Rosters")
    with pytest.raises(Conflict, match="role"):
        plan(wl.NewPlan(verb="account", action="delete", accounts=[rosters.id]))
    with pytest.raises(Conflict, match="is a group"):
        plan(wl.NewPlan(verb="account", action="suspend", accounts=[rosters.id]))
    do(client, Verb.LEAVER, who)
    with pytest.raises(InvalidInput, match="has left"):
        plan(group_plan(CREW, name, {"owner": who}, new=True))
    assert name not in {r.name for r in client.groups.all()}
