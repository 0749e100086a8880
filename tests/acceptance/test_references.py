"""Where somebody is named without owning it: found, redirected with the leaving, told where only hands can."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import Any

import bonsai
import httpx
import pytest

from tests.acceptance.test_groups import typed
from tests.acceptance.test_seats import restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.joiner import rules_text
from tests.waiting import until
from yugum.connectors.scim import ScimConnector
from yugum.core.actions import Action, Arguments, Done
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.connectors import AccountRef
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import references as wr
from yugum.wire.handover import ChooseHandover
from yugum.wire.references import ReferenceRow
from yugum_standins.directory import BASE
from yugum_standins.load import do
from yugum_standins.morrow import CREW, DIRECTORY, MAIL


def place(theatre: Theatre, text: str, **more: Any) -> str:
    """Somebody types names into a place of the crew rosters."""
    crew = theatre.play.crew
    said = {
        "kind": "alert",
        "place": f"Bridge › {text}",
        "text": text,
        "effect": "nobody hears",
        **more,
    }
    reply = httpx.post(f"{crew.url}/panel/settings", json=said, headers=dict(crew.headers))
    return str(reply.raise_for_status().json()["id"])


def text_of(theatre: Theatre, key: str) -> str:
    return str(theatre.play.crew._get(f"/scim/v2/Settings/{key}").json()["text"])


def write(theatre: Theatre, key: str, text: str) -> None:
    crew = theatre.play.crew
    body = {"Operations": [{"op": "replace", "path": "text", "value": text}]}
    path = f"{crew.url}/scim/v2/Settings/{key}"
    httpx.patch(path, json=body, headers=dict(crew.headers)).raise_for_status()


def rows(theatre: Theatre, login: str) -> dict[str, ReferenceRow]:
    return {r.key: r for r in theatre.client.handover.references(login).rows}


def test_places_that_name_a_leaver_name_the_successor_and_come_back(theatre: Theatre) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    alert = place(theatre, f"{login.upper()}, bridge@ferries.example, {login}2, x{login}")
    both = place(theatre, f"{heir}; {login}")
    shift = place(theatre, f"After {login}.", kind="schedule")
    sign = place(theatre, f"Ask {login}", kind="sign", writable=False)
    before = {key: text_of(theatre, key) for key in (alert, both, shift, sign)}
    assert {r.how for r in rows(theatre, login).values()} == {"open"}, "nobody comes after them yet"
    chosen = ChooseHandover(reason="his watch", thing="schedule", to=joined(theatre, "Deck"))
    client.handover.choose(login, chosen)
    with pytest.raises(InvalidInput, match="owns nothing like that"):
        client.handover.choose(login, ChooseHandover(reason="so", thing="schedules", to=heir))
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
    plan = client.plans.make(new)
    steps = {
        s.item: (s.before, s.after) for s in plan.plans[0].steps if s.action is Action.REDIRECT
    }
    assert len(steps) == 3
    assert [c.code for c in plan.plans[0].cautions] == ["by-hand"]
    number = client.plans.confirm(plan)[0].number
    list(client.dockets.follow(number))
    assert text_of(theatre, alert) == f"{heir}, bridge@ferries.example, {login}2, x{login}"
    assert text_of(theatre, both) == heir, "nobody stands twice in a list"
    assert text_of(theatre, shift) == f"After {chosen.to}."
    assert text_of(theatre, sign) == before[sign]
    left = rows(theatre, login)
    assert {key: (r.how, r.after) for key, r in left.items()} == {sign: ("by-hand", f"Ask {heir}")}
    told = cli(theatre, "handover", "references", login).stdout
    assert f"write Ask {heir}" in told
    assert "Not searched" in told
    write(theatre, shift, "nobody at all")
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    lost = [f.why for f in undo.plans[0].fidelity if "After" in f.what]
    assert lost == ["changed since to nobody at all; left as it is"]
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    after = {key: text_of(theatre, key) for key in before}
    assert after == {**before, shift: "nobody at all"}


def test_what_others_write_between_is_not_overwritten(theatre: Theatre) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    key = place(theatre, f"{login}, one@ferries.example")
    gone = place(theatre, f"only {login}")
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
    plan = client.plans.make(new)
    write(theatre, key, f"two@ferries.example, {login}")
    write(theatre, gone, "somebody else by now")
    docket = list(client.dockets.follow(client.plans.confirm(plan)[0].number))[-1]
    assert docket.state == "done"
    assert text_of(theatre, key) == f"two@ferries.example, {heir}"
    assert text_of(theatre, gone) == "somebody else by now"


def test_a_leaver_who_is_named_later_is_a_finding_and_redirected_on_demand(
    theatre: Theatre,
) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    with pytest.raises(Conflict, match="has not left"):
        client.handover.redirect(login)
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    key = place(theatre, f"night: {login}")
    client.applications.read(CREW)

    def named() -> list[str]:
        return [f.text for f in client.findings.all(kind="still-named") if f.login == login]

    until(lambda: bool(named()))
    assert named() == [f"has left and is named still: Bridge › night: {login}"]
    assert "Bridge" in cli(theatre, "handover", "redirect", login).stdout
    until(lambda: text_of(theatre, key) == f"night: {heir}")
    client.applications.read(CREW)
    until(lambda: not named())


def test_an_application_that_hides_its_places_or_shows_nonsense_holds_up_nothing(
    theatre: Theatre,
) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    key = place(theatre, f"{login}\0 rings", place="", kind="", effect=None)
    crew.fault(no_settings=1)
    try:
        assert client.applications.read(CREW).accounts > 0
        (reading, *_) = client.applications.readings(CREW).items
        assert (reading.state, "names people" in reading.problem) == ("done", True)
        assert "Crew rosters" in str(client.handover.references(login).silent)
    finally:
        crew.fault(no_settings=0)
    client.applications.read(CREW)
    assert client.applications.readings(CREW).items[0].problem == ""
    assert rows(theatre, login)[key].place == key
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    assert text_of(theatre, key) == f"{heir} rings"


async def test_more_names_than_an_address_holds_are_looked_for_all_the_same(
    theatre: Theatre,
) -> None:
    crew, login = theatre.play.crew, joined(theatre, "Deck")
    key = place(theatre, f"many, {login}")
    token = crew.headers["Authorization"].removeprefix("Bearer ")
    connector = ScimConnector("Crew", f"{crew.url}/scim/v2", token)
    names = {login, *(f"somebody-with-a-long-login-{n}" for n in range(400))}
    found = {m.key async for page in connector.mentions(names) for m in page}
    await connector.close()
    assert key in found


@pytest.mark.usefixtures("restored")
def test_what_yugum_itself_says_of_somebody_is_told_with_where(theatre: Theatre) -> None:
    client = theatre.client
    login, other = joined(theatre, "Deck"), joined(theatre, "Deck")
    client.rules.adopt(rules_text(handover={"custodian": login}), "keeps it", take_away=10_000)
    payload = wde.DecisionPayload(person=login)
    client.decisions.make(
        wde.NewDecision(who=other, kind="successor", payload=payload, reason="knows it")
    )
    own = {r.thing: r for r in client.handover.references(login).rows if r.application_id is None}
    assert own["rule"].text == f"custodian: {login}"
    assert own["rule"].place.startswith("rules, line ")
    assert own["decision"].place == f"successor of {client.people.show(other).display_name}"
    assert {r.how for r in own.values()} == {"by-hand"}


def pointed_at(theatre: Theatre, name: str, *logins: str) -> set[str]:
    """Whom a group's entry says to ask; with ``logins`` it says these from then on."""
    with theatre.stage.directories[0].client().connect(timeout=5) as connection:
        condition = f"(&(objectClass=groupOfNames)(cn={name}))"
        (found,) = connection.search(BASE, bonsai.LDAPSearchScope.SUB, condition)
        if logins:
            found["seeAlso"] = [f"uid={login},ou=people,{BASE}" for login in logins]
            found.modify()
        return {str(dn).split(",")[0].removeprefix("uid=") for dn in found["seeAlso"]}


def test_entries_of_the_directory_that_point_at_a_leaver_point_at_the_successor(
    theatre: Theatre,
) -> None:
    client = theatre.client
    login, heir, other = (joined(theatre, "Deck") for _ in range(3))
    name = f"Pier watch {login}"
    typed(theatre, "make", DIRECTORY, name, "--owner", other)
    pointed_at(theatre, name, login, other)
    (row,) = rows(theatre, login).values()
    assert (row.place, set(row.text.split("; "))) == (f"{name} › seeAlso", {login, other})
    number = do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    assert pointed_at(theatre, name) == {heir, other}
    assert not rows(theatre, login)
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert pointed_at(theatre, name) == {login, other}


def test_who_forwards_mail_to_somebody_is_told(theatre: Theatre) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    client.people.change(heir, {"mail": f"{heir}@morrowsound.example"})
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    found = {r.thing: r for r in client.handover.references(heir).rows}
    assert (found["forward"].place, found["forward"].text) == (
        f"forward of {login}",
        f"{heir}@morrowsound.example",
    )
    assert found["forward"].application_id == MAIL


def test_whoever_answers_for_a_key_is_told_once_of_each_end(theatre: Theatre) -> None:
    client, post = theatre.client, theatre.play.post
    login, heir, secret = [joined(theatre, "Deck") for _ in range(3)]
    keeper = f"import-{login}@morrowsound.example"
    said = {"kind": "key", "effect": "tides are not read", "contact": keeper}
    key = place(theatre, login, **said)
    place(theatre, login, place="Week plan › sends as", **said)
    place(theatre, secret, **{**said, "contact": f"quiet-{keeper}"})
    now = client.clock.show().now
    day = (now + timedelta(days=6)).date()
    do(client, Verb.LEAVER, login, at=str(day), successor=heir)
    told = post.wait(keeper, "leaves: 2 places of yours")
    assert f"{day:%-d %b %Y}" in told["text"]
    assert "Crew rosters: Week plan › sends as (tides are not read)" in told["text"]
    shown = rows(theatre, login)[key]
    assert (shown.contact, shown.how) == (keeper, "leaving")
    assert keeper in cli(theatre, "--output", "json", "handover", "references", login).stdout
    client.applications.read(CREW)
    later = (now + timedelta(days=9)).date()
    do(client, Verb.LEAVER, login, at=str(later), successor=heir)
    until(lambda: len(post.mails(keeper)) == 2)
    assert f"{later:%-d %b %Y}" in post.mails(keeper)[-1]["text"], "of the same end nothing twice"
    client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[secret], confidential=True))
    client.handover.references(secret)
    assert post.mails(f"quiet-{keeper}") == []
    do(client, Verb.LEAVER, secret, urgent=True, successor=heir)
    gone = post.wait(f"quiet-{keeper}", "has left: 1 place of yours")
    assert "their keys do not work any more" in gone["text"]
    until(lambda: text_of(theatre, key) == login)


def used(theatre: Theatre, secret: str) -> str:
    """Whose key a program comes with, as the application takes it; "" where it turns it away."""
    crew = theatre.play.crew
    body = {"secret": secret}
    reply = httpx.post(f"{crew.url}/panel/use-key", json=body, headers=dict(crew.headers))
    return str(reply.json()["login"])


def token_of_key(theatre: Theatre, contact: str, but: str = "") -> tuple[str, str]:
    """The mail to whoever answers for a program, and the token of its link, another one than ``but``."""

    def there() -> tuple[str, str] | None:
        for mail in reversed(theatre.play.post.mails(contact)):
            if "/c#" in mail["text"]:
                token = mail["text"].split("/c#")[1].split()[0]
                return None if token == but else (mail["text"], token)
        return None

    until(lambda: there() is not None)
    found = there()
    assert found is not None
    return found


def test_a_program_gets_a_key_of_the_successor_beside_the_leavers_which_then_ends(
    theatre: Theatre,
) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    contact = f"tides-{login[::-1]}@ferries.example"
    old = f"old-key-of-{login}"
    tides = place(theatre, login, kind="key", secret=old, contact=contact, place=f"Tides {login}")
    mute = place(theatre, login, kind="key", writable=False)
    assert used(theatre, old) == login
    asked = wr.ReplaceKeys(days=1, reason="the tides are read on")
    with pytest.raises(Conflict, match="does not leave"):
        client.handover.replace_keys(login, asked)
    leave = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], at="+20d"))
    leaving = client.plans.confirm(leave)[0].number
    with pytest.raises(Conflict, match="no successor is named"):
        client.handover.replace_keys(login, asked)
    client.handover.choose(login, ChooseHandover(reason="his", thing="key", to=heir))
    shown = rows(theatre, login)
    assert (shown[tides].replaceable, shown[tides].after) == (True, heir)
    assert (shown[mute].replaceable, shown[mute].how) == (False, "by-hand")
    with pytest.raises(InvalidInput, match="runs with a key"):
        client.handover.replace_keys(login, asked.model_copy(update={"places": [mute]}))
    done = cli(theatre, "handover", "replace-keys", login, "--days", "1", "--reason", "tides go on")
    assert done.returncode == 0, done.stderr
    text, token = token_of_key(theatre, contact)
    assert client.credentials.rules(token).place == f"Tides {login}"
    with pytest.raises(InvalidInput, match="cannot be chosen"):
        client.credentials.choose(token, "Long-enough-Harbour-2031")
    opened = client.accounts.open_credential(token)
    secret = opened.secret
    assert (opened.place, opened.login) == (f"Tides {login}", heir)
    assert f"Tides {login}" in text
    assert login not in text.replace(f"Tides {login}", ""), "it says nothing of who leaves"
    assert (used(theatre, old), used(theatre, secret)) == (login, heir), "side by side"
    view = client.handover.references(login)
    (made,) = view.replaced
    assert (made.login, made.unopened, made.told_to) == (heir, False, contact)
    assert tides not in {r.key for r in view.rows}
    with pytest.raises(NotFound, match="nobody has opened"):
        client.handover.tell_key(login, made.id)
    with pytest.raises(Conflict, match="could be replaced"):
        client.handover.replace_keys(login, asked)
    assert made.until
    for _ in client.clock.advance((made.until + timedelta(minutes=1)).isoformat()):
        pass
    assert (used(theatre, old), used(theatre, secret)) == ("", heir), "the old one has ended"
    client.dockets.cancel(leaving)
    (number,) = [d.number for d in client.dockets.all(who=login) if d.verb is Verb.KEYS]
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)).plans[0]
    assert not undo.steps
    assert "issue another" in undo.fidelity[0].why
    assert used(theatre, secret) == heir, "what was replaced goes on when nobody leaves"


def test_a_key_ends_with_an_urgent_leaving_and_its_program_has_another_by_then(
    theatre: Theatre,
) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    contact, old = f"bell-{login}@ferries.example", f"old-key-of-{login}"
    place(theatre, login, kind="key", secret=old, contact=contact, place=f"Bell {login}")
    without = f"no{login}"
    client.people.create([wp.NewPerson(user_name=without, given_name="Nessa", family_name=login)])
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=without)
    plan = client.plans.make(new).plans[0]
    assert not [s for s in plan.steps if s.action is Action.REPLACE_KEY]
    assert "key-without-account" in {c.code for c in plan.cautions}
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
    batch = client.plans.make(new)
    (step,) = [s for s in batch.plans[0].steps if s.action is Action.REPLACE_KEY]
    assert (step.before, step.after) == (f"key of {login}", f"key of {heir}")
    number = client.plans.confirm(batch)[0].number
    list(client.dockets.follow(number))
    assert used(theatre, old) == ""
    (made,) = client.handover.references(login).replaced
    _, first = token_of_key(theatre, contact)
    client.handover.tell_key(login, made.id)
    _, second = token_of_key(theatre, contact, but=first)
    with pytest.raises(NotFound, match="used already"):
        client.accounts.open_credential(first)
    secret = client.accounts.open_credential(second).secret
    assert used(theatre, secret) == heir
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    lost = [f.why for f in undo.plans[0].fidelity if "Bell" in f.what]
    assert lost
    assert lost[0].startswith("it goes on with the one of")


async def test_a_key_is_replaced_once_but_by_a_second_attempt_of_the_same_step(
    theatre: Theatre,
) -> None:
    crew, login, heir = theatre.play.crew, joined(theatre, "Deck"), joined(theatre, "Deck")
    old = f"old-key-of-{login}"
    key = place(theatre, login, kind="key", secret=old)
    token = crew.headers["Authorization"].removeprefix("Bearer ")
    connector = ScimConnector("Crew", f"{crew.url}/scim/v2", token)
    until_then = (theatre.client.clock.show().now + timedelta(days=3)).isoformat()
    arguments = Arguments(place=key, was=login, value=heir, until=until_then)

    async def replaced(secret: str, *, again: bool = False) -> Done:
        said = replace(arguments, again=again)
        return await connector.act(Action.REPLACE_KEY, AccountRef("a", "", login), "", said, secret)

    assert (await replaced("first-new-key-1")).values == {key: heir}
    other = await replaced("second-new-key-2")
    assert (other.values, other.note) == ({}, f"it runs with the key of {heir} by now")
    assert [used(theatre, s) for s in (old, "first-new-key-1", "second-new-key-2")] == [
        login,
        heir,
        "",
    ]
    assert (await replaced("third-new-key-3", again=True)).values == {key: heir}
    assert [used(theatre, s) for s in (old, "first-new-key-1", "third-new-key-3")] == [
        login,
        "",
        heir,
    ]
    await connector.close()
