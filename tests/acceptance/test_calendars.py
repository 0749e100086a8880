"""Calendars and meetings of who leaves, and copies: by the service, read back from where they are kept."""

from __future__ import annotations

from datetime import timedelta

import httpx
import pytest

from tests.acceptance.test_handover import kinds, owner
from tests.acceptance.test_seats import restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined, newcomer
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.actions import Action
from yugum.core.verbs import Quick, Verb
from yugum.errors import InvalidInput
from yugum.wire import decisions as wde
from yugum.wire import plans as wl
from yugum.wire.handover import ChooseHandover, OwnedRow
from yugum_standins.calendar_store import event
from yugum_standins.load import do
from yugum_standins.morrow import CREW, MAIL_DOMAIN, SHIP_MAIL


def engineer(theatre: Theatre) -> str:
    """Somebody with a mailbox on the ships' own store, and a calendar."""
    login = newcomer(theatre, "Safety", title="Second engineer")
    theatre.client.people.change(login, {"mail": address(login)})
    assert theatre.client.dockets.show(do(theatre.client, Verb.JOINER, login)).state == "done"
    theatre.stage.calendar_stores[0].make(login, "calendar", "Calendar")
    return login


def address(login: str) -> str:
    return f"{login}@{MAIL_DOMAIN}"


def meets(theatre: Theatre, login: str, guest: str) -> None:
    """They have called a visit in ten days, and what is over; both are in the guest's calendar too."""
    store, now = theatre.stage.calendar_stores[0], theatre.client.clock.show().now
    for name, days in (("visit", 10), ("drill", -10)):
        text = event(
            f"{login}-{name}", name, now + timedelta(days=days), address(login), [address(guest)]
        )
        for one in (login, guest):
            store.put(one, "calendar", text)


def called_by(theatre: Theatre, login: str) -> dict[str, str]:
    """Who calls each meeting in somebody's calendars, as the server has stored it."""
    return {
        path.rsplit("-", 1)[1].removesuffix(".ics"): line.removeprefix("ORGANIZER").split(
            "mailto:"
        )[1]
        for path, text in theatre.stage.calendar_stores[0].texts().items()
        if path.startswith(f"{login}/")
        for line in text.splitlines()
        if line.startswith("ORGANIZER")
    }


def copies(theatre: Theatre, login: str) -> list[str]:
    """What somebody has of the crew rosters that is a copy, by name, as these tell it."""
    crew = theatre.play.crew
    key = (crew.user(login) or {})["id"]
    found = crew._get("/scim/v2/OwnedItems", filter=f'owner.value eq "{key}"', count="500")
    return sorted(i["name"] for i in found.json()["Resources"] if "copyOf" in i)


def choose(theatre: Theatre, login: str, **said: object) -> None:
    theatre.client.handover.choose(login, ChooseHandover(reason="settled", **said))


def test_meetings_go_to_whom_they_were_chosen_for_and_come_back(theatre: Theatre) -> None:
    login, heir, guest = [engineer(theatre) for _ in range(3)]
    meets(theatre, login, guest)
    shown = kinds(theatre.client.handover.show(login))
    assert {k: v[0] for k, v in shown.items()} == {"mailbox": 1, "calendar": 1, "meeting": 1}
    for thing in ("mailbox", "calendar", "meeting"):
        choose(theatre, login, thing=thing, to=heir)
    number = do(theatre.client, Verb.LEAVER, login, urgent=True)
    assert called_by(theatre, login) == {}
    assert called_by(theatre, heir) == {"visit": address(heir), "drill": address(login)}
    assert called_by(theatre, guest) == {"visit": address(heir), "drill": address(login)}
    told = theatre.play.post.wait(f"{guest}@", "Updated: visit")
    assert address(heir) in told["from"]
    arrived = theatre.play.post.wait(f"{heir}@", "", "1 meeting")
    assert "1 calendar" in arrived["text"]
    undo = theatre.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(theatre.client.dockets.follow(theatre.client.plans.confirm(undo)[0].number))
    assert called_by(theatre, login) == {"visit": address(login), "drill": address(login)}
    assert called_by(theatre, guest)["visit"] == address(login)


def test_meetings_that_nobody_takes_are_called_off_by_a_typed_choice(theatre: Theatre) -> None:
    login, guest = engineer(theatre), engineer(theatre)
    meets(theatre, login, guest)
    plan = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True)
    cautions = theatre.client.plans.make(plan).plans[0].cautions
    assert "1 meeting" in str([c.text for c in cautions if c.code == "no-successor"])
    with pytest.raises(InvalidInput, match="for somebody"):
        choose(theatre, login, thing="calendar", copies=True)
    choose(theatre, login, thing="meeting", goes=True, typed=login)
    made = theatre.client.plans.make(plan).plans[0]
    steps = made.steps
    assert "Cannot be put back: Ship mail." in made.summary
    assert [(s.item, s.after) for s in steps if s.action is Action.CALL_OFF] == [
        ("meeting", "called off, everybody who is invited is told")
    ]
    number = do(theatre.client, Verb.LEAVER, login, urgent=True)
    assert called_by(theatre, guest) == {"drill": address(login)}
    theatre.play.post.wait(f"{guest}@", "Cancelled: visit")
    undo = theatre.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)).plans[0]
    lost = [f for f in undo.fidelity if "meeting" in str(f)]
    assert "everybody was told" in str(lost[0]), "it is said that it does not come back"


def test_a_copy_is_made_once_and_the_account_goes_with_what_was_copied(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = owner(theatre), joined(theatre, "Deck")
    client.people.change(heir, {"mail": address(heir)})
    said = ("handover", "choose", login, "--thing", "board", "--to", heir, "--copy")
    assert "copied" in cli(theatre, *said, "--reason", "to look things up").stdout
    choose(theatre, login, thing="roster", to=heir)
    number = do(client, Verb.LEAVER, login, urgent=True)
    name = f"Board {login}"
    assert crew.rosters(login) == {name}, "what was copied is theirs as before"
    assert copies(theatre, heir) == [name]
    (row,) = [h for h in client.handovers(docket=number) if h.copied]
    assert (row.name, row.to_name) == (name, client.people.show(heir).display_name)
    assert name in theatre.play.post.wait(f"{heir}@", "", name)["text"]
    account = client.accounts.page(who=login, application=CREW).items[0].id
    new = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=Quick.DELETE)
    plan = client.plans.make(new).plans[0]
    assert [s.action for s in plan.steps] == [Action.DELETE], "nothing holds it up, nothing twice"
    httpx.post(
        f"{crew.url}/panel/items",
        json={"userName": login, "kind": "board", "name": f"Late {login}"},
        headers=dict(crew.headers),
    ).raise_for_status()
    client.applications.read(CREW)
    do(client, Verb.RECHECK, login)
    assert copies(theatre, heir) == [name, f"Late {login}"], "only what has no copy yet is copied"


def test_what_an_application_cannot_copy_is_open(theatre: Theatre) -> None:
    login, heir = engineer(theatre), engineer(theatre)
    meets(theatre, login, heir)
    choose(theatre, login, application=SHIP_MAIL, to=heir, copies=True)
    plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
    codes = {c.code: c.text for c in plan.plans[0].cautions}
    assert "cannot copy a meeting" in codes["cannot-copy"]
    copied = {s.item for s in plan.plans[0].steps if s.action is Action.COPY}
    assert copied == {"mailbox", "calendar"}


def test_whoever_lacks_the_account_is_offered_the_roles_that_give_one(theatre: Theatre) -> None:
    client = theatre.client
    login, heir = engineer(theatre), joined(theatre, "Safety")

    def row() -> OwnedRow:
        client.handover.choose(login, ChooseHandover(reason="so", application=SHIP_MAIL, to=heir))
        return next(r for r in client.handover.show(login).rows if r.thing == "mailbox")

    lacking = row()
    assert (lacking.code, lacking.roles) == ("successor-without-account", ["Ship mail"])
    assert "Give one (role Ship mail)" in lacking.text
    said = wde.NewDecision(
        who=heir, kind="role", payload=wde.DecisionPayload(role="Ship mail"), reason="takes over"
    )
    client.decisions.make(said)
    do(client, Verb.RECHECK, heir)
    assert (row().settled, row().roles) == ("to", [])
