"""Logins that are taken: refused in the plan with what to do, by whatever way they were typed."""

from __future__ import annotations

import uuid

import pytest

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW


def renamed(who: str, login: str) -> wl.NewPlan:
    return wl.NewPlan(verb=Verb.RENAME, who=[who], changes={"user_name": login})


def test_nobody_is_renamed_to_a_login_that_is_taken(theatre: Theatre) -> None:
    who, other, gone = joined(theatre), joined(theatre), joined(theatre)
    do(theatre.client, Verb.LEAVER, gone)
    alone = f"alone-{uuid.uuid4().hex[:8]}"
    theatre.crew.add(alone, "Nobody known")
    theatre.client.applications.read(CREW)
    for login, why in (
        (other, "has it"),
        (other.upper(), "has it"),
        (gone, "who has left"),
        (alone, "Crew rosters has an account of that login"),
    ):
        with pytest.raises(Conflict, match=why) as refused:
            theatre.client.plans.make(renamed(who, login))
        assert "names suggest" in refused.value.remedy
        typed = cli(theatre, "rename", who, "--login", login, "--yes")
        assert typed.returncode == 4, typed.stdout
        assert why in typed.stderr
    moved = wl.NewPlan(verb=Verb.MOVER, who=[who], changes={"user_name": other})
    with pytest.raises(Conflict, match="has it"):
        theatre.client.plans.make(moved)
    assert theatre.client.people.show(who).user_name == who, "nothing was half done"
    free = f"free-{uuid.uuid4().hex[:8]}"
    assert theatre.client.plans.make(renamed(who, free)).plans[0].steps
    pair = [who, other]
    both = wl.NewPlan(verb=Verb.RENAME, who=pair, changes={"user_name": free})
    with pytest.raises(Conflict):
        theatre.client.plans.make(both)


def test_what_is_deleted_does_not_come_back_under_a_login_somebody_has(theatre: Theatre) -> None:
    client, who = theatre.client, joined(theatre)
    account = client.accounts.page(who=who, application=CREW).items[0].id
    asked = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=Quick.DELETE)
    number = client.plans.confirm(client.plans.make(asked))[0].number
    assert list(client.dockets.follow(number))[-1].state == "done"
    theatre.crew.add(who, "Another of that name")
    client.applications.read(CREW)
    again = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=Quick.RESTORE)
    with pytest.raises(Conflict, match="cannot come back, for the login is") as refused:
        client.plans.make(again)
    assert "Rename that account" in refused.value.remedy
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)).plans[0]
    assert [c.code for c in undo.cautions if c.blocks == "restore"] == ["login-taken"]
    assert not [s for s in undo.steps if s.account_id == account]
    lost = {f.what for f in undo.fidelity if not f.comes_back}
    assert f"Crew rosters: account {who}" in lost
