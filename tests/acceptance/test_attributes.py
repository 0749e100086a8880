"""Who somebody is reaches the applications, and comes back from them: the real directory among them."""

from __future__ import annotations

from typing import Any

import bonsai
import httpx
import pytest
from pydantic import ValidationError

from tests.acceptance.test_service import joined, raw
from tests.commands import cli
from tests.conftest import Theatre
from tests.waiting import until
from yugum.core.deviations import DeviationKind, DeviationState
from yugum.errors import YugumError
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.morrow import DIRECTORY, MAIL


def entry(theatre: Theatre, who: str) -> dict[str, str]:
    return {k: str(v[0]) for k, v in theatre.play.directory.entry(who).items() if v}


def user(theatre: Theatre, who: str) -> dict[str, Any]:
    other = theatre.play.organisation.others[MAIL]
    with httpx.Client(headers=other["headers"], timeout=20) as wire:
        reply = wire.get(f"{other['url']}/scim/v2/Users", params={"filter": f'userName eq "{who}"'})
    return dict(reply.json()["Resources"][0])


def change_there(theatre: Theatre, who: str, **values: str) -> None:
    """Somebody changes an entry in the directory itself, and it is read."""
    with theatre.stage.directories[0].client().connect(timeout=5) as connection:
        changed = bonsai.LDAPEntry(theatre.play.directory.entry(who)["dn"][0], connection)
        for name, value in values.items():
            changed.change_attribute(name, bonsai.LDAPModOp.REPLACE, value)  # type: ignore[arg-type]
        changed.modify()
    theatre.client.applications.read(DIRECTORY)


def carried_out(theatre: Theatre, plan: wl.NewPlan) -> str:
    docket = theatre.client.plans.confirm(theatre.client.plans.make(plan))[0]
    view = list(theatre.client.dockets.follow(docket.number))[-1]
    assert view.outcome == "done", [s.problem for s in view.steps]
    return docket.number


def test_a_move_reaches_directory_and_mail_and_is_undone(theatre: Theatre) -> None:
    who = joined(theatre)
    before = entry(theatre, who).get("title"), user(theatre, who).get("title")
    done = cli(
        theatre, "mover", who, "--title", "Pier master", "--mobile", "+00 555 0170",
        "--own", "locker=17b", "--yes",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "title: " in done.stdout
    assert "locker: nothing → 17b" in done.stdout
    assert entry(theatre, who)["title"] == user(theatre, who)["title"] == "Pier master"
    assert entry(theatre, who)["mobile"] == "+00 555 0170"
    shown = theatre.client.people.show(who)
    assert (shown.own, shown.mobile) == ({"locker": "17b"}, "+00 555 0170")
    assert not [r for r in shown.standing if r.kind == "attribute"]
    found = theatre.client.people.page(filter='own.locker eq "17B" and mobile sw "+00"')
    assert [p.user_name for p in found.items] == [who]
    number = shown.dockets[0].number
    carried_out(theatre, wl.NewPlan(verb="undo", docket=number))
    assert (entry(theatre, who).get("title"), user(theatre, who).get("title")) == before
    assert "mobile" not in entry(theatre, who)
    assert theatre.client.people.show(who).own == {}


def test_a_correction_is_stored_and_what_follows_is_asked_about(theatre: Theatre) -> None:
    who = joined(theatre)
    done = cli(theatre, "people", "correct", who, "phone=+00 555 0172", "site=", "--yes")
    assert done.returncode == 0, done.stderr
    assert "phone: nothing → +00 555 0172" in done.stdout
    assert "site: as it was" in done.stdout
    assert entry(theatre, who)["telephoneNumber"] == "+00 555 0172"
    odd = cli(theatre, "people", "correct", who, "shoe=40", "--yes")
    assert odd.returncode != 0
    assert "shoe" in odd.stderr
    assert cli(theatre, "people", "correct", who, "phone", "--yes").returncode != 0


def test_what_is_changed_there_is_taken_over_put_back_or_asked(theatre: Theatre) -> None:
    who, client = joined(theatre), theatre.client
    change_there(theatre, who, telephoneNumber="+00 555 0171", l="Nowhere")
    assert client.people.show(who).phone == "+00 555 0171"
    until(lambda: entry(theatre, who).get("l") != "Nowhere")
    until(lambda: "+00 555 0171" in str(user(theatre, who).get("phoneNumbers")))
    assert "+00 555 0171" in str(user(theatre, who)["phoneNumbers"])
    assert entry(theatre, who).get("l", "") == client.people.show(who).site
    change_there(theatre, who, telephoneNumber="ask the porter")
    mine = [
        r
        for r in client.findings.outside(application=DIRECTORY)
        if r.kind is DeviationKind.ATTRIBUTE and r.login == who
    ]
    assert [(r.item, r.now_is, r.state) for r in mine] == [
        ("telephoneNumber", "ask the porter", DeviationState.OPEN)
    ], "what cannot be a phone number is nobody's phone number"
    client.findings.keep(mine[0].id)
    plan = client.plans.make(wl.NewPlan(verb="recheck", who=[who])).plans[0]
    assert not [s for s in plan.steps if s.action == "update"], "it was settled that it stays"


def test_what_was_put_back_and_is_changed_again_is_put_back_again(theatre: Theatre) -> None:
    """The second time the application shows just what the last reading saw: it differs from what is known."""
    who = joined(theatre)
    for _ in range(2):
        change_there(theatre, who, l="Nowhere")
        until(lambda: entry(theatre, who).get("l") != "Nowhere")
        assert entry(theatre, who).get("l") != "Nowhere"


def test_whoever_reported_to_a_leaver_gets_the_next_manager_until_the_undo(
    theatre: Theatre,
) -> None:
    client = theatre.client
    top, boss, who = joined(theatre), joined(theatre), joined(theatre)
    for one, manager in ((boss, top), (who, boss)):
        carried_out(
            theatre,
            wl.NewPlan(
                verb="mover", who=[one], changes={"manager_id": client.people.show(manager).id}
            ),
        )
    assert entry(theatre, who)["manager"].startswith(f"uid={boss},")
    plan = client.plans.make(wl.NewPlan(verb="leaver", who=[boss]))
    told = " ".join(c.text for c in plan.plans[0].cautions)
    assert f"From then on to {client.people.show(top).display_name}" in told
    docket = client.plans.confirm(plan)[0]
    for _ in client.dockets.follow(docket.number):
        pass
    until(lambda: entry(theatre, who)["manager"].startswith(f"uid={top},"))
    assert entry(theatre, who)["manager"].startswith(f"uid={top},")
    shown = client.people.show(who)
    assert shown.manager is not None
    assert shown.manager.id == client.people.show(top).id
    undo = client.plans.confirm(client.plans.make(wl.NewPlan(verb="undo", docket=docket.number)))
    for _ in client.dockets.follow(undo[0].number):
        pass
    until(lambda: entry(theatre, who)["manager"].startswith(f"uid={boss},"))
    assert entry(theatre, who)["manager"].startswith(f"uid={boss},")


@pytest.mark.parametrize(
    ("fields", "place"),
    [
        ({"own": {"shoe_size": "40"}}, "own.shoe_size"),
        ({"own": {"sea_miles": "many"}}, "own.sea_miles"),
        ({"own": {"boat_licence": "moon"}}, "own.boat_licence"),
        ({"phone": "call me"}, "people.0.phone"),
        ({"locale": "English, please"}, "people.0.locale"),
        ({"own": {"Shoe Size": "40"}}, "people.0.own.Shoe Size"),
    ],
)
def test_what_is_no_value_of_an_attribute_is_refused(
    theatre: Theatre, fields: dict[str, Any], place: str
) -> None:
    body = {"people": [{"user_name": "odd1", "family_name": "Odd", **fields}]}
    reply = raw(theatre, "POST", "/people", json=body)
    assert reply.status_code == 422, reply.text
    assert reply.json()["place"].startswith(place), reply.text
    change = {f"own.{k}": v for k, v in fields.get("own", {}).items()} or {
        k: str(v) for k, v in fields.items()
    }
    with pytest.raises((YugumError, ValidationError)):
        theatre.client.people.change(joined(theatre), change)
    assert not theatre.client.people.page(q="odd1").items


def test_a_person_named_by_an_attribute_is_known(theatre: Theatre) -> None:
    with pytest.raises(YugumError):
        theatre.client.people.create([wp.NewPerson(user_name="odd2", own={"mentor": "nobody"})])


@pytest.mark.parametrize(
    ("said", "place"),
    [
        ("procedures: {leaver: {reports_to: nobody.there}}", "procedures.leaver.reports_to"),
        (f"profiles: {{{DIRECTORY}: {{comes_from: nowhere}}}}", f"profiles.{DIRECTORY}.comes_from"),
        (
            f"accounts: {{{DIRECTORY}: {{attributes: {{shoe: {{of: '{{title}}'}}}}}}}}",
            f"accounts.{DIRECTORY}.attributes.shoe",
        ),
    ],
)
def test_rules_name_nobody_and_nothing_that_there_is_not(
    theatre: Theatre, said: str, place: str
) -> None:
    assert [p.place for p in theatre.client.rules.check(said)] == [place]


def test_rules_may_name_whoever_there_is(theatre: Theatre) -> None:
    said = f"procedures: {{leaver: {{reports_to: {joined(theatre)}}}}}"
    assert theatre.client.rules.check(said) == []


def test_what_attributes_are_made_of_is_listed(theatre: Theatre) -> None:
    done = cli(theatre, "apps", "attributes", DIRECTORY)
    assert done.returncode == 0, done.stderr
    phone = next(line for line in done.stdout.splitlines() if "telephoneNumber" in line)
    assert "{phone}" in phone
    assert "take_over" in phone
    assert cli(theatre, "apps", "attributes", "nowhere").returncode != 0
