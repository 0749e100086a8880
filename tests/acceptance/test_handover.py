"""What somebody owns has a home, kind by kind, before the account goes; what goes with it was typed."""

from __future__ import annotations

from datetime import datetime, timedelta

import httpx
import pytest

from tests.acceptance.test_seats import restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import silent
from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.joiner import rules_text
from tests.waiting import until
from yugum.core.actions import Action
from yugum.core.decisions import DecisionKind
from yugum.core.dockets import Settlement
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.wire import decisions as wde
from yugum.wire import plans as wl
from yugum.wire.handover import ChooseHandover, HandoverView
from yugum_standins.load import do
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW


def owner(theatre: Theatre) -> str:
    """Somebody without a manager who owns two rosters and a board."""
    login = joined(theatre, "Deck")
    crew = theatre.play.crew
    for name in ("North", "South"):
        crew.add_roster(login, f"{name} {login}")
    body = {"userName": login, "kind": "board", "name": f"Board {login}"}
    httpx.post(f"{crew.url}/panel/items", json=body, headers=dict(crew.headers)).raise_for_status()
    return login


def kinds(found: HandoverView) -> dict[str, tuple[int, str, str]]:
    return {r.thing: (r.count, r.settled.value, r.to_name or r.code) for r in found.rows}


def name_of(theatre: Theatre, login: str) -> str:
    return theatre.client.people.show(login).display_name


def rosters(crew: CrewLook, login: str) -> int:
    return sum(n.startswith(("North", "South")) for n in crew.rosters(login))


def test_each_kind_goes_where_it_was_settled_and_comes_back_with_an_undo(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = owner(theatre), joined(theatre, "Deck")
    assert kinds(client.handover.show(login)) == {
        "roster": (2, "open", "no-successor"),
        "board": (1, "open", "no-successor"),
    }
    told = cli(theatre, "handover", "show", login)
    assert "2 of 2 are open" in told.stdout
    chosen = (
        "handover",
        "choose",
        login,
        "--thing",
        "roster",
        "--to",
        heir,
        "--reason",
        "the crew",
    )
    assert "1 of 2 are open" in cli(theatre, *chosen).stdout
    blocked = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True)).plans[0]
    assert [c.code for c in blocked.cautions if c.blocks == "transfer"] == ["no-successor"]
    assert [s.item for s in blocked.steps if s.action is Action.TRANSFER] == ["roster"]
    goes = ChooseHandover(reason="of no use", application=CREW, thing="board", goes=True)
    for typed in ("", heir):
        with pytest.raises(Conflict, match="does not come back"):
            client.handover.choose(login, goes.model_copy(update={"typed": typed}))
    found = client.handover.choose(login, goes.model_copy(update={"typed": login}))
    assert (found.open, kinds(found)["board"][1]) == (0, "goes")
    number = do(client, Verb.LEAVER, login, urgent=True)
    assert (rosters(crew, heir), rosters(crew, login)) == (2, 0)
    assert f"Board {login}" in crew.rosters(login), "it goes when the account does"

    def now_with() -> list[tuple[str, int, str, str, str]]:
        rows = client.handover.given(login).rows
        return [(r.thing, r.count, r.to_name, r.number, r.now_name) for r in rows]

    name = name_of(theatre, heir)
    assert now_with() == [("roster", 2, name, number, name)]
    assert number in cli(theatre, "handover", "given", login).stdout
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert (rosters(crew, heir), rosters(crew, login)) == (0, 2)
    assert now_with() == [("roster", 2, name, number, name_of(theatre, login))]
    assert not client.handover.given(heir).rows, "what went back was never theirs to give"


def test_an_account_is_not_deleted_before_everything_is_settled(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = owner(theatre), joined(theatre, "Deck")
    do(client, Verb.LEAVER, login, urgent=True)
    account = client.accounts.page(who=login, application=CREW).items[0].id

    def deletes() -> bool:
        new = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=Quick.DELETE)
        steps = client.plans.make(new).plans[0].steps
        return any(s.action is Action.DELETE for s in steps)

    assert not deletes()
    lines = cli(theatre, "export", "handover", "--filter", "settled=open").stdout.splitlines()
    assert sum(login in line and ",open," in line for line in lines) == 2
    client.handover.choose(login, ChooseHandover(reason="hers", thing="roster", to=heir))
    until(lambda: rosters(crew, heir) == 2)  # who has left already hands over at once
    assert not deletes(), "the board is still open"
    goes = ChooseHandover(reason="no use", thing="board", goes=True, typed=login)
    client.handover.choose(login, goes)
    assert deletes()


def test_who_cannot_take_over_is_refused_and_somebody_who_can_is_named(theatre: Theatre) -> None:
    client = theatre.client
    login, boss = owner(theatre), joined(theatre, "Deck")
    going = joined(theatre, "Deck")
    client.people.change(going, {"manager_id": client.people.show(boss).id})
    now = client.clock.show().now
    do(client, Verb.LEAVER, going, at=str((now + timedelta(days=3)).date()))

    def choose(**said: str) -> HandoverView:
        return client.handover.choose(login, ChooseHandover(reason="so", **said))

    with pytest.raises(InvalidInput, match="leaves on") as refused:
        choose(thing="roster", to=going)
    assert boss in refused.value.remedy
    with pytest.raises(InvalidInput, match="themselves"):
        choose(thing="roster", to=login)
    with pytest.raises(NotFound):
        choose(thing="roster", to="nobody-at-all")
    with pytest.raises(InvalidInput, match="owns nothing like that") as mistyped:
        choose(thing="rosters", to=boss)
    assert f"roster in {CREW}" in mistyped.value.remedy
    with pytest.raises(InvalidInput, match="which kind"):
        choose(to=boss)
    with pytest.raises(InvalidInput, match="to somebody, or with the account"):
        choose(thing="roster")
    assert kinds(choose(thing="roster", to=boss))["roster"] == (2, "to", name_of(theatre, boss))
    do(client, Verb.ABSENCE, boss, until="+40d")
    row = kinds(client.handover.show(login))["roster"]
    assert row[1:] == ("open", name_of(theatre, boss))
    assert any("is absent" in r.text for r in client.handover.show(login).rows)


def test_nobody_takes_the_place_of_a_named_successor_who_is_away(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, boss, named = owner(theatre), joined(theatre, "Deck"), joined(theatre, "Deck")
    client.people.change(named, {"manager_id": client.people.show(boss).id})
    payload = wde.DecisionPayload(person=named)
    successor = wde.NewDecision(who=login, kind="successor", payload=payload, reason="knows it")
    client.decisions.make(successor)
    assert kinds(client.handover.show(login))["roster"][1:] == ("to", name_of(theatre, named))
    do(client, Verb.ABSENCE, named, until="+40d")
    found = client.handover.show(login)
    assert kinds(found)["roster"][1:] == ("open", name_of(theatre, named))
    assert {r.code for r in found.rows} == {"successor-unfit"}
    client.handover.choose(login, ChooseHandover(reason="so", thing="board", to=boss))
    do(client, Verb.LEAVER, login, urgent=True)
    assert f"Board {login}" in crew.rosters(boss), "the other kind goes all the same"
    assert rosters(crew, login) == 2


def test_the_narrower_choice_goes_first_and_the_last_of_the_same_counts(theatre: Theatre) -> None:
    client = theatre.client
    login = owner(theatre)
    one, other, third = (joined(theatre, "Deck") for _ in range(3))
    for said in (
        {"thing": "roster", "to": one},
        {"application": CREW, "to": other},
        {"application": CREW, "thing": "board", "to": third},
        {"application": CREW, "thing": "board", "to": one},
    ):
        found = client.handover.choose(login, ChooseHandover(reason="so", **said))
    assert {k: v[2] for k, v in kinds(found).items()} == {
        "roster": name_of(theatre, other),
        "board": name_of(theatre, one),
    }
    (row,) = [r for r in found.rows if r.thing == "board"]
    assert row.decision_id
    client.decisions.end(row.decision_id)
    assert kinds(client.handover.show(login))["board"][2] == name_of(theatre, other)
    decisions = client.people.show(login).decisions
    assert sum(d.ends_at is None for d in decisions) == 2, "what was settled before has ended"


def test_whoever_has_a_role_and_is_nearest_takes_over(
    theatre: Theatre,
    restored: None,  # noqa: F811
) -> None:
    client = theatre.client
    far, near, excepted = (joined(theatre, "Deck") for _ in range(3))
    login = owner(theatre)
    lead = {"title": f"Watch leader {login}"}
    client.people.change(login, {"site": "Brae Point", **lead})
    client.people.change(far, {"site": "Oxhaven", **lead})
    client.people.change(near, {"site": "Brae Point", **lead})
    role = {"when": f'title eq "{lead["title"]}"', "gives": [{"application": CREW}]}
    said = {"defaults": [{"thing": "roster", "role": "Watch leaders"}]}
    both = {"defaults": [{"to": near, "role": "Watch leaders"}]}
    for wrong, why in (
        ({"defaults": [{"role": "Watch leader"}]}, "Did you mean"),
        (both, "one of"),
    ):
        problems = client.rules.check(rules_text(handover=wrong, roles={"Watch leaders": role}))
        assert any(why in f"{p.message} {p.remedy}" for p in problems), (wrong, problems)
    text = rules_text(handover=said, roles={"Watch leaders": role})
    client.rules.adopt(text, "the watch goes on", take_away=10_000)

    def heir() -> str:
        (row,) = [r for r in client.handover.show(login).rows if r.thing == "roster"]
        assert row.ground == "rules"
        return row.to_name

    assert heir() == name_of(theatre, near)
    do(client, Verb.ABSENCE, near, until="+60d")
    assert heir() == name_of(theatre, far)
    client.people.change(excepted, {"site": "Brae Point"})
    payload = wde.DecisionPayload(role="Watch leaders")
    stands_in = wde.NewDecision(
        who=excepted, kind=DecisionKind.ROLE, payload=payload, reason="stands in"
    )
    client.decisions.make(stands_in)
    assert heir() == name_of(theatre, excepted)
    do(client, Verb.LEAVER, login, urgent=True)
    assert rosters(theatre.play.crew, excepted) == 2


def test_the_rules_say_who_takes_over_and_who_keeps_what_nobody_does(
    theatre: Theatre,
    restored: None,  # noqa: F811
) -> None:
    client, crew = theatre.client, theatre.play.crew
    above, boss, keeper = (joined(theatre, "Deck") for _ in range(3))
    client.people.change(boss, {"manager_id": client.people.show(above).id})
    login, loose = owner(theatre), owner(theatre)
    client.people.change(login, {"manager_id": client.people.show(boss).id})
    said = [
        {"thing": "board", "application": CREW, "to": "managers-manager"},
        {"thing": "roster", "to": "manager"},
    ]
    rules = {"defaults": said, "custodian": keeper, "custodian_days": 9}
    for wrong, why in (
        ({"custodian": "nobody-at-all"}, "is nobody"),
        ({"defaults": [{"to": "nobody-at-all"}]}, "is nobody"),
        ({"defaults": [{"to": keeper, "application": "crew-roster"}]}, "Did you mean"),
        ({"defaults": [{"to": keeper, "kind": "board"}]}, "not known here"),
        ({"custodian": keeper, "custodian_days": 0}, "greater than or equal to 1"),
    ):
        problems = client.rules.check(rules_text(handover={**rules, **wrong}))
        assert any(why in f"{p.message} {p.remedy}" for p in problems), (wrong, problems)
    client.rules.adopt(rules_text(handover=rules), "who keeps it", take_away=10_000)
    rows = {r.thing: r for r in client.handover.show(login).rows}
    assert {t: (r.to_name, r.ground) for t, r in rows.items()} == {
        "board": (name_of(theatre, above), "rules"),
        "roster": (name_of(theatre, boss), "rules"),
    }
    # Whom the rules name and who is away is passed over: the manager's chain goes on from there.
    do(client, Verb.ABSENCE, above, until="+40d")
    board = next(r for r in client.handover.show(login).rows if r.thing == "board")
    assert (board.to_name, board.ground) == (name_of(theatre, boss), "chain")
    do(client, Verb.LEAVER, login, urgent=True)
    assert rosters(crew, boss) == 2
    client.handover.choose(loose, ChooseHandover(reason="hers", thing="board", to=boss))
    do(client, Verb.LEAVER, loose, urgent=True)
    (row,) = [r for r in client.handover.show(loose).rows if r.settled == "open"]
    name = name_of(theatre, keeper)
    assert row.thing == "roster"
    assert f"else {name} takes it on" in row.text
    ended = client.people.show(loose).access_ends
    assert ended is not None
    for _ in client.clock.advance((ended + timedelta(days=8)).isoformat()):
        pass
    assert rosters(crew, loose) == 2, "not before its day"
    for _ in client.clock.advance((ended + timedelta(days=9, hours=2)).isoformat()):
        pass
    assert {f"North {loose}", f"South {loose}"} <= crew.rosters(keeper)
    (account,) = client.accounts.page(who=loose, application=CREW).items
    assert account.state == "deleted", "nothing keeps the account now: its day was before"


def test_a_handover_that_is_interrupted_is_undone_whole(theatre: Theatre) -> None:
    """What the first attempts moved belongs to the step as well, whether it ends or is undone half done."""
    client, crew = theatre.client, theatre.play.crew
    heir = joined(theatre, "Deck")
    for ends in (True, False):
        login = joined(theatre, "Deck")
        for number in range(200):
            crew.add_roster(login, f"North {number:03} {login}")
        new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
        plan = client.plans.make(new)
        crew.fault(latency_ms=60)
        number_of = client.plans.confirm(plan)[0].number
        until(lambda who=login: 0 < rosters(crew, who) < 200)
        crew.fault(latency_ms=0, read_only=1)
        list(client.dockets.follow(number_of, seconds=40))
        crew.fault(read_only=0)
        assert 0 < rosters(crew, heir) < 200
        if ends:
            (step,) = [s for s in client.dockets.show(number_of).steps if s.action == "transfer"]
            client.dockets.settle(step.id, Settlement.RETRY)
            until(lambda who=login: rosters(crew, who) == 0)
            list(client.dockets.follow(number_of))
            steps = client.dockets.show(number_of).steps
            (step,) = [s for s in steps if s.action == "transfer" and s.item == "roster"]
            assert step.receipt is not None
            shown = len(step.receipt.did.assets)
            assert (step.moved, step.of, shown) == (200, 200, 20), "the first, and how many"
        undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number_of))
        list(client.dockets.follow(client.plans.confirm(undo)[0].number))
        assert (rosters(crew, login), rosters(crew, heir)) == (200, 0)


def test_who_cannot_take_over_once_it_is_confirmed_gets_nothing(theatre: Theatre) -> None:
    """Between the plan and its confirmation somebody is away: it is planned again, the rest goes on."""
    client, crew = theatre.client, theatre.play.crew
    login, heir, other = owner(theatre), joined(theatre, "Deck"), joined(theatre, "Deck")
    client.handover.choose(login, ChooseHandover(reason="so", thing="roster", to=heir))
    client.handover.choose(login, ChooseHandover(reason="so", thing="board", to=other))
    plan = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
    assert sum(s.action is Action.TRANSFER for s in plan.plans[0].steps) == 2
    do(client, Verb.ABSENCE, heir, until="+40d")
    list(client.dockets.follow(client.plans.confirm(plan)[0].number))
    until(lambda: f"Board {login}" in crew.rosters(other))
    assert (rosters(crew, heir), rosters(crew, login)) == (0, 2)
    assert not (crew.user(login) or {})["active"], "the way in ended all the same"


def taken_over(theatre: Theatre, login: str) -> list[str]:
    """What arrived by mail with somebody about what has arrived with them."""
    address = theatre.client.people.show(login).mail
    assert address
    until(lambda: all(m.sent_at for m in theatre.client.mails.all() if m.address == address))
    found = theatre.play.post.mails(address)
    return [m["text"] for m in found if "taken over" in m["subject"]]


def test_some_that_are_called_so_go_elsewhere_than_the_rest(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir, other = owner(theatre), joined(theatre, "Deck"), joined(theatre, "Deck")
    for who in (login, heir, other):
        client.people.change(who, {"mail": f"{who}@morrowsound.example"})
    with pytest.raises(InvalidInput, match=r"is called Nort\.") as mistyped:
        client.handover.choose(
            login, ChooseHandover(reason="so", thing="roster", matching="Nort", to=heir)
        )
    assert f"North {login}" in mistyped.value.remedy
    assert "Board" not in mistyped.value.remedy, "only what it could have meant"
    chosen = ("handover", "choose", login, "--reason", "her crew")
    told = cli(theatre, *chosen, "--thing", "roster", "--matching", "nORTH *", "--to", heir)
    assert "2 of 3 are open" in told.stdout, told
    client.handover.choose(login, ChooseHandover(reason="so", application=CREW, to=other))
    found = client.handover.show(login)
    assert {(r.thing, r.matching, r.count, r.to_name) for r in found.rows} == {
        ("roster", "nORTH *", 1, name_of(theatre, heir)),
        ("roster", "", 1, name_of(theatre, other)),
        ("board", "", 1, name_of(theatre, other)),
    }
    number = do(client, Verb.LEAVER, login, urgent=True)
    assert {n for n in crew.rosters(heir) if login in n} == {f"North {login}"}
    assert {n for n in crew.rosters(other) if login in n} == {f"South {login}", f"Board {login}"}
    (arrived,) = taken_over(theatre, heir)
    assert f"1 roster (North {login})" in arrived
    assert "Board" not in arrived
    (more,) = taken_over(theatre, other)
    assert f"1 board (Board {login})" in more
    assert f"1 roster (South {login})" in more
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert rosters(crew, login) == 2
    assert not taken_over(theatre, login), "what comes back is no news"


def test_what_it_is_kept_for_keeps_the_account_until_its_day(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = owner(theatre), joined(theatre, "Deck")
    client.handover.choose(login, ChooseHandover(reason="hers", thing="roster", to=heir))
    keeps = ChooseHandover(reason="asked by law", thing="board", keeps=True, until="+8d")
    for wrong in ({"goes": True}, {"to": heir}, {"keeps": False, "to": heir}):
        with pytest.raises(InvalidInput):
            client.handover.choose(login, keeps.model_copy(update=wrong))
    found = client.handover.choose(login, keeps)
    assert (found.open, kinds(found)["board"][1]) == (0, "kept")
    (board,) = [r for r in found.rows if r.thing == "board"]
    assert board.until is not None
    do(client, Verb.LEAVER, login, urgent=True)
    assert (rosters(crew, heir), rosters(crew, login)) == (2, 0)
    account = client.accounts.page(who=login, application=CREW).items[0]
    mine = (name_of(theatre, login), "Crew rosters")

    def closes() -> list[datetime]:
        entries = client.calendar(kinds=["close"])
        return [e.at for e in entries if (e.display_name, e.application_name) == mine]

    until(lambda: closes() == [board.until])  # and not on its usual day
    new = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account.id], action=Quick.DELETE)
    (plan,) = client.plans.make(new).plans
    assert [c.code for c in plan.cautions if c.blocks == "delete"] == ["kept"]
    assert not [s for s in plan.steps if s.action is Action.DELETE]
    for _ in client.clock.advance((board.until - timedelta(hours=1)).isoformat()):
        pass
    assert f"Board {login}" in crew.rosters(login), "the day it would have been closed is over"
    assert not [f for f in client.findings.all(kind="owned-still") if f.login == login]
    (line,) = client.accounts.page(who=login, application=CREW).items
    assert line.state == "suspended"
    for _ in client.clock.advance((board.until + timedelta(hours=1)).isoformat()):
        pass
    (after,) = client.accounts.page(who=login, application=CREW).items
    open_still = [r for r in client.handover.show(login).rows if r.settled == "open"]
    assert (after.state, [r.thing for r in open_still]) == ("suspended", ["board"])
    assert [f.text for f in client.findings.all(kind="owned-still") if f.login == login] == [
        "has left and owns still: board 1"
    ]
    client.handover.choose(login, ChooseHandover(reason="hers", thing="board", to=heir))
    until(lambda: f"Board {login}" in crew.rosters(heir))
    until(lambda: client.accounts.page(who=login, application=CREW).items[0].state == "deleted")


def test_who_took_over_is_warned_of_when_they_leave_themselves(theatre: Theatre) -> None:
    client = theatre.client
    first, other = owner(theatre), owner(theatre)
    heir, last = joined(theatre, "Deck"), joined(theatre, "Deck")

    def warned() -> dict[str, str]:
        (plan,) = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[heir], successor=last)).plans
        return {c.code: c.text for c in plan.cautions if c.code in ("inherited", "heir")}

    assert warned() == {}
    client.handover.choose(other, ChooseHandover(reason="so", thing="board", to=heir))
    number = do(client, Verb.LEAVER, first, urgent=True, successor=heir)
    name = name_of(theatre, heir)
    number = client.dockets.show(number).number
    assert warned() == {
        "heir": f"{name} was chosen to take over from {name_of(theatre, other)}; choose somebody else there.",
        "inherited": f"{name} has by handover: 1 board from {name_of(theatre, first)} (docket {number}); "
        f"2 rosters from {name_of(theatre, first)} (docket {number}).",
    }
    (row,) = [r for r in client.handover.show(other).rows if r.thing == "board"]
    assert row.decision_id
    client.decisions.end(row.decision_id)
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert warned() == {}, "nothing of it is theirs any more"


def test_how_far_it_has_come_is_told_while_it_is_at_it(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    for number in range(200):
        crew.add_roster(login, f"North {number:03} {login}")
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
    plan = client.plans.make(new)
    crew.fault(latency_ms=250)
    try:
        docket = client.plans.confirm(plan)[0].number

        def moved() -> int:
            steps = client.dockets.show(docket).steps
            (step,) = [s for s in steps if s.action == "transfer"]
            assert step.of in (0, 200)
            return step.moved if step.state == "intent" else 0

        until(lambda: 0 < moved() < 200)
        assert " of 200" in cli(theatre, "dockets", "show", docket).stdout
    finally:
        crew.fault(latency_ms=0)
    list(client.dockets.follow(docket))
    assert rosters(crew, heir) == 200


def test_who_takes_over_is_told_though_another_application_does_not_answer(
    theatre: Theatre,
) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, heir = joined(theatre, "Engine Room"), joined(theatre, "Deck")
    client.people.change(heir, {"mail": f"{heir}@morrowsound.example"})
    crew.add_roster(login, f"North {login}")
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, successor=heir)
    plan = client.plans.make(new)
    with silent(theatre):
        docket = client.plans.confirm(plan)[0].number
        until(lambda: len(taken_over(theatre, heir)) == 1)
        assert client.dockets.show(docket).state == "running"
    list(client.dockets.follow(docket, seconds=60))
    until(lambda: client.dockets.show(docket).state == "done")
    assert len(taken_over(theatre, heir)) == 1, "nothing else has arrived"


def test_several_take_equal_shares_and_each_may_be_chosen_anew(theatre: Theatre) -> None:
    client, crew = theatre.client, theatre.play.crew
    login, one, other = owner(theatre), joined(theatre, "Deck"), joined(theatre, "Deck")
    for n in range(10):
        crew.add_roster(login, f"North {n} {login}")
    said = ("handover", "choose", login, "--thing", "roster", "--to", one, "--to", other)
    assert cli(theatre, *said, "--reason", "half each").returncode == 0

    def rows() -> dict[str, int]:
        found = [r for r in client.handover.show(login).rows if r.thing == "roster"]
        return {r.to_name or r.code: r.count for r in found}

    shares = rows()
    assert set(shares) == {name_of(theatre, one), name_of(theatre, other)}
    assert sum(shares.values()) == 12
    for wrong in ({"share": [one]}, {"share": [other], "copies": True}, {"share": ["nobody-here"]}):
        body = ChooseHandover(reason="so", thing="roster", to=one, **wrong)
        with pytest.raises((InvalidInput, NotFound)):
            client.handover.choose(login, body)
    assert rows() == shares, "what was refused has changed nothing"
    number = do(client, Verb.LEAVER, login, urgent=True)
    theirs = {name_of(theatre, who): rosters(crew, who) for who in (one, other)}
    assert theirs == shares
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(undo)[0].number))
    assert rosters(crew, login) == 12
    client.handover.choose(login, ChooseHandover(reason="all hers", thing="roster", to=one))
    assert rows() == {name_of(theatre, one): 12}, "a choice for all takes the place of the shares"
