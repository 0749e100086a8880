"""Proof ``return``: undo at any later moment, and coming back; each field back, asked or named as lost."""

from __future__ import annotations

import functools
from datetime import timedelta

from tests.proofs.agreeing import agreeing
from tests.proofs.guarding import guarding
from tests.proofs.play import Play
from tests.proofs.standing import lines
from yugum.core.dockets import Settlement
from yugum.core.verbs import Quick, Verb
from yugum.core.wording import plural
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import seats as wse
from yugum_standins.load import advance
from yugum_standins.morrow import CREW, MAIL, PLANNER


def returning(play: Play) -> None:
    """Undo and return through time; after each nothing differs, or every line is explained."""
    _undone_after_closing(play)
    _deleted_by_hand(play)
    _first_of_two_moves(play)
    _after_the_overlap(play)
    _what_is_still_there(play)
    _back_after_all_has_ended(play)
    _in_line(play)
    agreeing(play)
    guarding(play)


def _settled(play: Play, who: str) -> None:
    """Nothing about somebody differs from what it should be, once all is worked off."""
    play.until(lambda: not lines(play, who))
    play.report.equal("nothing of theirs differs", lines(play, who), {})


def _number(play: Play, who: str, verb: Verb, skip: int = 0) -> str:
    """A docket of somebody by its verb, the newest first."""
    return [d.number for d in play.client.people.show(who).dockets if d.verb is verb][skip]


def _undo(play: Play, number: str) -> wl.BatchView:
    batch = play.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    for line in batch.plans[0].fidelity:
        play.report.note(f"{'back' if line.comes_back else 'LOST'}  {line.what} ({line.why})")
    play.confirm(batch)
    return batch


def _undone_after_closing(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("A leaver is undone after the accounts were closed")
    who = play.organisation.of("Safety", skip=0).user_name
    groups, seats, rosters = crew.groups(who), crew.seats(who), crew.rosters(who)
    database = play.reporting.groups(who)
    number = play.confirm(play.plan(Verb.LEAVER, who)).number
    advance(play.client, "+15d")
    play.until(lambda: crew.deleted(who) is not None)
    report.equal("closed in Crew rosters", crew.user(who), None)
    report.equal("parked in the reporting database", play.reporting.role(who), False)
    batch = _undo(play, number)
    told = [f.what for f in batch.plans[0].fidelity]
    report.equal("each thing is told once", sorted(told), sorted(set(told)))
    report.check("restored and open", bool((crew.user(who) or {}).get("active")), crew.user(who))
    report.equal("its groups", crew.groups(who), groups)
    report.equal("its seats", crew.seats(who), seats)
    report.equal("what it owned", crew.rosters(who), rosters)
    report.equal("the database lets them in", play.reporting.role(who), True)
    report.equal("with its groups", play.reporting.groups(who), database)
    _settled(play, who)


def _deleted_by_hand(play: Play) -> None:
    report, crew, client = play.report, play.crew, play.client
    report.section("An account deleted by hand comes back with its groups and its seat")
    who = play.organisation.of("Safety", skip=2).user_name
    groups, seats = crew.groups(who), crew.seats(who)
    account = play.account(who, CREW).id
    for way in ("undone", "restored and resumed"):
        report.note(way)
        docket = _quick(play, account, Quick.DELETE)
        report.equal("deleted", crew.user(who), None)
        if way == "undone":
            _undo(play, docket)
        else:
            _quick(play, account, Quick.RESTORE)
            _quick(play, account, Quick.RESUME)
        report.check("open again", bool((crew.user(who) or {}).get("active")), crew.user(who))
        report.equal("its groups", crew.groups(who), groups)
        report.equal("its seats", crew.seats(who), seats)
        held = {s.license for s in client.people.show(who).seats if s.state == "held"}
        report.check("and Yugum's books say the same", set(seats) <= held, held)
        _settled(play, who)


def _quick(play: Play, account: str, action: Quick) -> str:
    asked = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action=action)
    batch = play.client.plans.make(asked)
    for line in batch.plans[0].fidelity:
        play.report.note(f"{'back' if line.comes_back else 'LOST'}  {line.what} ({line.why})")
    return play.confirm(batch).number


def _first_of_two_moves(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("The first of two moves is undone: nothing comes that no role gives")
    who = play.organisation.of("Safety", skip=1).user_name
    play.confirm(play.plan(Verb.MOVER, who, overlap_days=0, changes={"department": "Deck"}))
    first = _number(play, who, Verb.MOVER)
    play.confirm(play.plan(Verb.MOVER, who, overlap_days=0, changes={"department": "Timetables"}))
    held = crew.groups(who)
    _undo(play, first)
    report.equal(
        "still in the second department", play.client.people.show(who).department, "Timetables"
    )
    report.equal("with its groups and no other", crew.groups(who), held)
    _settled(play, who)


def _after_the_overlap(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("A move is undone after its overlap has ended")
    who = play.organisation.of("Harbour Operations", "Harbour hand", skip=1).user_name
    groups = crew.groups(who)
    play.confirm(play.plan(Verb.MOVER, who, overlap_days=5, changes={"department": "Safety"}))
    number = _number(play, who, Verb.MOVER)
    advance(play.client, "+6d")
    play.until(lambda: "Harbour crew" not in crew.groups(who))
    report.check("what the role before gave is gone", "Harbour crew" not in crew.groups(who))
    _undo(play, number)
    report.equal(
        "back in the department", play.client.people.show(who).department, "Harbour Operations"
    )
    report.equal("with all that it gives", crew.groups(who), groups)
    _settled(play, who)


def _what_is_still_there(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("Of what was handed over, what the receiver still has is promised and comes")
    who = play.organisation.of("Timetables", "Timetable planner", skip=2).user_name
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    owned = crew.rosters(who)
    number = play.confirm(play.plan(Verb.LEAVER, who, successor=heir)).number
    gone = sorted(owned)[:1]
    crew.hand_on(heir, gone, play.organisation.of("Timetables", skip=5).user_name)
    batch = _undo(play, number)
    told = {
        f.what: f.comes_back for f in batch.plans[0].fidelity if "roster" in f.what.split(": ")[1]
    }
    report.equal(
        "the plan says how many",
        told,
        {
            f"Crew rosters: {plural(len(owned) - 1, 'roster')}": True,
            "Crew rosters: 1 roster": False,
        },
    )
    report.equal("as many come", crew.rosters(who), owned - set(gone))
    _settled(play, who)


def _back_after_all_has_ended(play: Play) -> None:
    report, crew = play.report, play.crew
    report.section("Somebody returns after the forwarding of their mail has ended")
    who = play.organisation.of("Timetables", "Timetable planner", skip=3).user_name
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    crew.join(who, "Night duty")
    play.client.applications.read(CREW)
    groups, owned, seats = crew.groups(who), crew.rosters(who), crew.seats(who)
    left, boss = play.now, play.account(who, "staff-directory").settings.get("manager")
    play.confirm(play.plan(Verb.LEAVER, who, successor=heir))
    settings = play.account(who, MAIL).settings
    report.check(
        "mail is forwarded, the account hidden", {"forward", "hidden"} <= set(settings), settings
    )
    advance(play.client, (left + timedelta(days=12)).isoformat())
    before = play.account(who, MAIL).settings
    advance(play.client, (left + timedelta(days=22)).isoformat())
    play.until(lambda: "forward" not in play.account(who, MAIL).settings)
    report.note(f"12 days on: {before}; 22 days on: {play.account(who, MAIL).settings}")
    batch = play.plan(Verb.RETURNER, who)
    for line in batch.plans[0].fidelity:
        report.note(f"{'back' if line.comes_back else 'LOST'}  {line.what} ({line.why})")
    play.confirm(batch)
    play.until(lambda: not lines(play, who))
    settings = play.account(who, MAIL).settings
    report.check("mail is not forwarded again", not settings.get("forward"), settings)
    report.check("and nothing is hidden", settings.get("hidden", "") in ("", "no"), settings)
    found = play.account(who, "staff-directory").settings.get("manager")
    report.check("the directory names the manager of before", bool(boss) and found == boss, found)
    report.equal("groups, the one found there too", crew.groups(who), groups)
    report.equal("what was handed over", crew.rosters(who), owned)
    report.equal("seats", crew.seats(who), seats)
    _settled(play, who)


def _in_line(play: Play) -> None:
    report, crew, client = play.report, play.crew, play.client
    report.section("No seat is free: who waits and needs none any more gives up the place")
    holder = play.organisation.of("Timetables", skip=6).user_name
    report.equal("somebody holds a seat", crew.seats(holder), [PLANNER])
    _buy(play, _pool(play).held)
    names = ["leaves", "moves", "is undone", "is left out", "waits"]
    waiting = {name: _newcomer(play, name, n) for n, name in enumerate(names)}
    dockets = {}
    for name, who in waiting.items():
        batch = play.plan(Verb.JOINER, who)
        dockets[name] = client.plans.confirm(batch)[0].number
        play.until(functools.partial(_waits, play, who))
    places = [_place(play, w) for w in waiting.values()]
    report.check("five wait, in their order", places == sorted(p or 0 for p in places), places)
    client.plans.confirm(play.plan(Verb.LEAVER, waiting["leaves"]))
    moved = play.plan(
        Verb.MOVER, waiting["moves"], overlap_days=0, changes={"department": "Safety"}
    )
    client.plans.confirm(moved)
    undo = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=dockets["is undone"]))
    client.plans.confirm(undo)
    view = client.dockets.show(dockets["is left out"])
    (step,) = [s for s in view.steps if s.state == "waiting" and s.item == PLANNER]
    client.dockets.settle(step.id, Settlement.LEFT_OUT, "needs none")
    gone = [w for name, w in waiting.items() if name != "waits"]
    play.until(lambda: [_place(play, w) for w in gone] == [None] * 4)
    report.equal("four have given up their place", [_place(play, w) for w in gone], [None] * 4)
    report.equal("one is in line", _pool(play).waiting, 1)
    report.equal("with no seat yet", crew.seats(waiting["waits"]), [])
    play.confirm(play.plan(Verb.LEAVER, holder))
    play.until(lambda: crew.seats(waiting["waits"]) == [PLANNER])
    report.equal("a seat returns and is theirs", crew.seats(waiting["waits"]), [PLANNER])
    report.equal("nobody waits", _pool(play).waiting, 0)
    _settled(play, waiting["waits"])
    late = _newcomer(play, "comes late", 9)
    client.plans.confirm(play.plan(Verb.JOINER, late))
    play.until(lambda: _place(play, late) is not None)
    _buy(play, _pool(play).held + 1)
    play.until(lambda: crew.seats(late) == [PLANNER])
    report.equal("one more is bought, and goes to who waits", crew.seats(late), [PLANNER])
    held = _pool(play).held
    report.equal("the books say what the application counts", held, crew.taken(PLANNER))


def _pool(play: Play) -> wse.PoolRow:
    pools = play.client.seats.all()
    return next(p for p in pools if (p.application_id, p.license) == (CREW, PLANNER))


def _buy(play: Play, bought: int) -> None:
    pool = wse.PutPool(application_id=CREW, license=PLANNER, bought=bought)
    play.client.seats.put(pool)


def _newcomer(play: Play, name: str, number: int) -> str:
    login = f"line{number}"
    person = wp.NewPerson(
        user_name=login,
        given_name="Lin",
        family_name=name.title(),
        employee_number=f"4910{number}",
        department="Timetables",
        title="Timetable planner",
    )
    play.client.people.create([person])
    return login


def _waits(play: Play, who: str) -> bool:
    return _place(play, who) is not None


def _place(play: Play, who: str) -> int | None:
    """The place in line for a seat of Crew rosters."""
    seats = play.client.people.show(who).seats
    return next((s.place for s in seats if s.state == "waiting" and s.license == PLANNER), None)
