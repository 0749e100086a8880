"""Where the rules say so, nobody takes anything over before they have agreed."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import httpx
import pytest

from tests.acceptance.test_handover import name_of, owner, rosters
from tests.acceptance.test_seats import restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.joiner import rules_text
from tests.waiting import until
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput
from yugum.wire import plans as wl
from yugum.wire.handover import ChooseHandover
from yugum.wire.takeovers import TakeoverReply
from yugum_standins.load import do
from yugum_standins.morrow import CREW

pytestmark = pytest.mark.usefixtures("restored")


def asking(theatre: Theatre, **said: Any) -> None:
    rules = rules_text(handover={"ask": {"days": 3, "remind_days": 1, **said}})
    theatre.client.rules.adopt(rules, "they are asked", take_away=10_000)


def heirs(theatre: Theatre, count: int) -> list[str]:
    """People with an account and an address."""
    found = [joined(theatre, "Deck") for _ in range(count)]
    for who in found:
        theatre.client.people.change(who, {"mail": f"{who}@morrowsound.example"})
    return found


def link(theatre: Theatre, heir: str, subject: str = "Do you take over") -> str:
    mail = theatre.play.post.wait(f"{heir}@", subject)["text"]
    return str(mail.split("/t#")[1].split()[0])


def call(theatre: Theatre, what: str, **body: str) -> httpx.Response:
    return httpx.post(f"{theatre.stage.url}/api/v1/takeover-links/{what}", json=body)


def says(theatre: Theatre, token: str, thing: str, answer: str, **more: str) -> httpx.Response:
    questions = call(theatre, "open", token=token).json()["questions"]
    (one,) = [q for q in questions if q["thing"] == thing]
    return call(theatre, "answer", token=token, id=one["id"], answer=answer, **more)


def codes(theatre: Theatre, login: str) -> dict[str, str]:
    found = theatre.client.handover.show(login)
    return {r.thing: r.code or r.settled.value for r in found.rows}


def test_each_kind_is_accepted_passed_on_or_declined(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, (heir, other, last) = owner(theatre), heirs(theatre, 3)
    for kind in ("roster", "board"):
        client.handover.choose(login, ChooseHandover(reason="so", thing=kind, to=heir))
    problems = client.rules.check(rules_text(handover={"ask": {"days": 2, "remind_days": 2}}))
    assert any("remind_days" in p.message for p in problems), problems
    asking(theatre)
    number = do(client, Verb.LEAVER, login, urgent=True)
    assert (rosters(crew, heir), rosters(crew, login)) == (0, 2), "nobody has agreed"
    token = link(theatre, heir)
    asked = call(theatre, "open", token=token).json()
    assert {q["name"] for q in asked["questions"]} == {name_of(theatre, login)}
    assert {(q["thing"], q["count"], q["answer"]) for q in asked["questions"]} == {
        ("roster", 2, "open"),
        ("board", 1, "open"),
    }
    assert codes(theatre, login) == {"roster": "not-accepted", "board": "not-accepted"}
    assert call(theatre, "open", token=f"{token}x").status_code == 404
    assert (
        call(theatre, "answer", token=token, id="of-another", answer="accepted").status_code == 404
    )
    assert says(theatre, token, "roster", "open").status_code == 422
    assert says(theatre, token, "roster", "declined").status_code == 422, "why is not said"
    for wrong in ("nobody-at-all", heir, login, name_of(theatre, other)):
        refused = says(theatre, token, "board", "passed-on", to=wrong)
        assert refused.status_code in (404, 422), (wrong, refused.text)
    assert says(theatre, token, "roster", "accepted").status_code == 200
    until(lambda: rosters(crew, heir) == 2)
    assert f"Board {login}" in crew.rosters(login), "the board waits for its own answer"
    assert says(theatre, token, "roster", "declined", note="after all").status_code == 409
    assert says(theatre, token, "board", "passed-on", to=f"{other}").status_code == 200
    second = link(theatre, other)
    assert [q["thing"] for q in call(theatre, "open", token=second).json()["questions"]] == [
        "board"
    ]
    assert says(theatre, second, "board", "passed-on", to=heir).status_code == 409, (
        "it came from there"
    )
    assert says(theatre, second, "board", "declined", note="no time").status_code == 200
    (row,) = [r for r in client.handover.show(login).rows if r.thing == "board"]
    assert (row.code, "passed it on" in row.text) == ("declined", True)
    notes = {r.note for r in client.handover.asked(answer="declined") if r.user_name == login}
    assert notes == {"no time"}
    client.handover.choose(login, ChooseHandover(reason="please", thing="board", to=other))
    until(lambda: codes(theatre, login)["board"] == "not-accepted")  # asked anew
    kept = ChooseHandover(reason="so", thing="board", to=last)
    client.handover.choose(login, kept)
    third = link(theatre, kept.to)
    assert says(theatre, third, "board", "accepted").status_code == 200
    until(lambda: f"Board {login}" in crew.rosters(kept.to))
    # What went by dockets of its own comes back with the leaving, and the questions are over.
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert rosters(crew, login) == 2
    assert f"Board {login}" in crew.rosters(login)
    assert not [r for r in client.handover.asked() if r.user_name == login]


def test_a_dated_leaver_s_successor_is_asked_before_and_silence_comes_to_what_the_rules_say(
    theatre: Theatre,
) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, again, (heir,) = owner(theatre), owner(theatre), heirs(theatre, 1)
    asking(theatre)
    now = client.clock.show().now
    do(client, Verb.LEAVER, again, at=str((now + timedelta(days=4)).date()), successor=heir)
    token = link(theatre, heir)
    plan = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], successor=heir))
    assert {c.code for c in plan.plans[0].cautions} >= {"to-ask"}
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    until(lambda: "to-ask" not in codes(theatre, login).values())
    mine = [r for r in client.handover.asked(answer="open") if r.user_name == login]
    roster, board = sorted(mine, key=lambda r: r.thing, reverse=True)
    assert board.id in cli(theatre, "--output", "json", "waiting").stdout
    with pytest.raises(InvalidInput, match="how you know"):
        client.handover.answer(board.id, TakeoverReply(answer="accepted"))
    said = cli(theatre, "handover", "answer", board.id, "--accepts", "--note", "by telephone")
    assert "accepted" in said.stdout
    until(lambda: f"Board {login}" in crew.rosters(heir))
    with pytest.raises(Conflict, match="accepted already"):
        client.handover.answer(board.id, TakeoverReply(answer="declined", note="no"))
    # Back again: what was asked about the leaving that is not to be is asked no more.
    number = client.dockets.page(who=again).items[0].number
    client.dockets.cancel(number, "stays")
    later = name_of(theatre, again)
    until(lambda: later not in call(theatre, "open", token=token).text)
    assert roster.answer_by is not None
    for _ in client.clock.advance((now + timedelta(days=1, hours=1)).isoformat()):
        pass
    assert rosters(crew, login) == 2
    link(theatre, heir, "Still open")
    for _ in client.clock.advance((roster.answer_by + timedelta(minutes=5)).isoformat()):
        pass
    until(lambda: rosters(crew, heir) == 2)  # silence: they take it over
    (account,) = client.accounts.page(who=login, application=CREW).items
    assert account.state == "suspended"


def test_a_copy_and_a_share_that_are_passed_on_stay_that(theatre: Theatre) -> None:
    """The board is copied for whoever it is passed on to; of the rosters only the one share changes hands."""
    client, crew = theatre.client, theatre.play.crew
    login = owner(theatre)
    one, other, third = heirs(theatre, 3)
    asking(theatre)
    board = ChooseHandover(reason="to look up", thing="board", to=one, copies=True)
    client.handover.choose(login, board)
    client.handover.choose(
        login, ChooseHandover(reason="half each", thing="roster", to=one, share=[other])
    )
    client.handover.show(login)
    do(client, Verb.LEAVER, login, urgent=True)
    token = link(theatre, one)
    assert says(theatre, token, "board", "passed-on", to=third).status_code == 200
    second = link(theatre, third)
    assert says(theatre, second, "board", "accepted").status_code == 200
    name = f"Board {login}"
    until(lambda: name in crew.rosters(third))
    assert name in crew.rosters(login), "a copy: the thing itself stays"
    held = {r.to_name: r.count for r in client.handover.show(login).rows if r.thing == "roster"}
    mine = held.get(name_of(theatre, one), 0)
    if mine:
        assert says(theatre, token, "roster", "passed-on", to=third).status_code == 200
        until(lambda: '"thing":"roster"' in call(theatre, "open", token=second).text)
        assert says(theatre, second, "roster", "accepted").status_code == 200
        until(lambda: rosters(crew, third) == mine)
    assert held.get(name_of(theatre, other), 0) == 2 - mine
