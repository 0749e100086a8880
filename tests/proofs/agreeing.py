"""Part of proof ``return``: approvals that are given, refused, forgotten; no means no; dating anew."""

from __future__ import annotations

from datetime import timedelta

from tests.proofs.joiner import rules_text
from tests.proofs.leaver import refused, second
from tests.proofs.play import Play
from tests.proofs.standing import lines
from tests.signing import token_of
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.core.verbs import Verb
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import advance

ASKED = ("", "docket", "leaver", "asked")


def agreeing(play: Play) -> None:
    """What waits for a yes, and what never does."""
    other = second(play)
    with other:
        _rules(play)
        _leaver_awaits(play, other)
        _leaver_refused(play, other)
        _leaver_forgotten(play, other)
        _no_means_no(play, other)
        _dated_anew(play)
    _nobody_answers(play)


def _rules(play: Play) -> None:
    text = rules_text(
        approvals={"leavers": {"by": ["bkrog"], "expire_hours": 48, "deputies": ["deputy"]}},
        procedures={
            "leaver": {"approval": "leavers"},
            "joiner": {"approval": "leavers"},
        },
    )
    play.client.operators.add(wop.NewOperator(login="deputy", name="Dea", role="operator"))
    play.client.rules.adopt(text, "leavers are agreed to", take_away=10_000)


def _open(play: Play, who: str) -> bool:
    return bool((play.crew.user(who) or {}).get("active"))


def _leaves(play: Play, skip: int) -> tuple[str, set[str], str]:
    """Somebody leaves at once, and waits for an agreement: login, what they owned, the docket."""
    who = play.organisation.of("Timetables", "Timetable planner", skip=skip).user_name
    owned = play.crew.rosters(who)
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    batch = play.plan(Verb.LEAVER, who, successor=heir)
    told = " ".join(c.text for c in batch.plans[0].cautions)
    play.report.check("the plan says who is asked", "leavers) of" in told, told)
    number = play.client.plans.confirm(batch, reference="PROOF-7", reason="resigned")[0].number
    play.until(lambda: not _open(play, who))
    play.report.equal("the application says: suspended", _open(play, who), False)
    play.report.equal("nothing is handed over yet", play.crew.rosters(who), owned)
    return who, owned, number


def _leaver_awaits(play: Play, other: Client) -> None:
    report, client = play.report, play.client
    report.section("A leaver's approval delays the handover, never the end of access")
    who, _, number = _leaves(play, 4)
    play.until(lambda: ASKED in lines(play, who))
    report.equal("it awaits", client.dockets.show(number).state, "awaiting")
    rows = [r for r in client.day().standing if r.user_name == who]
    report.check("the day sheet has a line of it", any(r.kind == "docket" for r in rows), rows)
    row = client.approvals.all(docket=number)[0]
    made = play.now
    advance(client, (made + timedelta(hours=1)).isoformat())
    report.check("not yet reminded of", not _asked_of(play, number, "Dea"))
    advance(client, (made + timedelta(days=1)).isoformat())
    play.until(lambda: _asked_of(play, number, "Dea"))
    report.check("after four working hours the deputy is asked too", _asked_of(play, number, "Dea"))
    other.approvals.answer(row.id, agrees=True, note="so be it")
    list(client.dockets.follow(number))
    play.until(lambda: play.crew.rosters(who) == set())
    report.equal("agreed to, it is handed over", play.crew.rosters(who), set())
    play.until(lambda: not lines(play, who))
    report.equal("nothing of theirs differs", lines(play, who), {})


def _asked_of(play: Play, number: str, name: str) -> bool:
    rows = play.client.approvals.all(docket=number)
    return any(a.name == name for r in rows for a in r.asked)


def _leaver_refused(play: Play, other: Client) -> None:
    report, client = play.report, play.client
    report.section("A leaver's plan is refused after access has ended: it is open again")
    who = play.organisation.of("Timetables", "Timetable planner", skip=5).user_name
    groups, seats = play.crew.groups(who), play.crew.seats(who)
    who, owned, number = _leaves(play, 5)
    row = client.approvals.all(docket=number)[0]
    other.approvals.answer(row.id, agrees=False, note="she stays")
    play.until(lambda: _open(play, who))
    report.equal("open again", _open(play, who), True)
    held = (play.crew.groups(who), play.crew.seats(who), play.crew.rosters(who))
    report.equal("with groups, seats and what was owned", held, (groups, seats, owned))
    report.equal("active", client.people.show(who).state, "active")
    answer = client.approvals.all(docket=number, state="refused")[0].answers[-1]
    report.equal("the refusal is on record", answer.note, "she stays")
    play.until(lambda: not lines(play, who))
    report.equal("nothing of theirs differs", lines(play, who), {})


def _leaver_forgotten(play: Play, other: Client) -> None:
    report, client = play.report, play.client
    report.section("Nobody answers for a leaver: access stays ended, the rest stays a line")
    who, owned, number = _leaves(play, 6)
    advance(client, "+49h")
    play.until(lambda: client.dockets.show(number).state == "cancelled")
    advance(client, "+20d")
    play.until(lambda: ASKED in lines(play, who) and lines(play, who)[ASKED].code == "expired")
    report.equal("the line says why", lines(play, who)[ASKED].code, "expired")
    report.equal("still suspended", _open(play, who), False)
    report.check("and not closed past its day", play.crew.user(who) is not None)
    report.equal("nothing was handed over", play.crew.rosters(who), owned)
    number = client.plans.confirm(play.plan(Verb.LEAVER, who))[0].number
    row = client.approvals.all(docket=number)[0]
    other.approvals.answer(row.id, agrees=True, note="late")
    list(client.dockets.follow(number))
    play.until(lambda: play.crew.user(who) is None)
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Timetables")
    theirs = play.crew.rosters(heir)
    report.check("planned again and agreed to: handed over", theirs >= owned, theirs)
    report.equal("and closed", play.crew.user(who), None)
    play.until(lambda: not lines(play, who))
    report.equal("nothing of theirs differs", lines(play, who), {})


def _newcomer(starts: str, **more: object) -> wp.NewPerson:
    return wp.NewPerson.model_validate(
        {
            "user_name": "nnew",
            "given_name": "Nia",
            "family_name": "New",
            "employee_number": "49990",
            "department": "Timetables",
            "title": "Timetable planner",
            "starts": starts,
            **more,
        }
    )


def _no_means_no(play: Play, other: Client) -> None:
    report, client = play.report, play.client
    report.section("No to a joiner: no person, no account, the refusal on record")
    starts = (play.now + timedelta(days=10)).date().isoformat()
    client.people.create([_newcomer(starts)])
    number = client.plans.confirm(play.plan(Verb.JOINER, "nnew"))[0].number
    row = client.approvals.all(docket=number)[0]
    other.approvals.answer(row.id, agrees=False, note="the post is gone")
    said = refused(lambda: client.people.show("nnew"))
    report.check("there is no person", "Nobody is called" in said, said)
    advance(client, "+12d")
    report.equal("on the day no account is made", play.crew.user("nnew"), None)
    gone = next(d for d in client.people.declined() if d.user_name == "nnew")
    report.equal("who said no, and why", (gone.author, gone.reason), ("bkrog", "the post is gone"))
    report.equal("their docket can be looked at", client.dockets.show(number).state, "cancelled")
    said = refused(lambda: client.people.create([_newcomer(starts)]))
    report.check("the same record is asked about", "was declined by bkrog" in said, said)
    later = (play.now + timedelta(days=20)).date().isoformat()
    client.people.create([_newcomer(later)])
    report.equal("a changed one is taken in", str(client.people.show("nnew").starts), later)
    said = refused(lambda: client.people.create([_newcomer(later, user_name="nnew2")]))
    report.check("the same number twice is asked about", "same number" in said, said)
    client.people.decline("nnew", "played")


def _dated_anew(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Dating anew keeps reference and reason, and says what is needed again")
    who = play.organisation.of("Safety", skip=6).user_name
    first = client.plans.confirm(
        play.plan(Verb.LEAVER, who, at="+20d"), reference="HR-7", reason="retires"
    )[0]
    batch = play.plan(Verb.LEAVER, who, at="+30d")
    told = " ".join(c.text for c in batch.plans[0].cautions)
    place = f"docket {int(first.number.split('-')[-1])}"
    report.check("which docket it takes the place of", place in told, told)
    report.check("what is needed again", "Needed again: leavers" in told, told)
    second_ = client.plans.confirm(batch)[0]
    view = client.dockets.show(second_.number)
    report.equal("reference and reason", (view.reference, view.reason), ("HR-7", "retires"))
    old = client.approvals.all(docket=first.number, state="refused")[0]
    report.equal("the first asks nobody any more", old.state, "refused")
    client.dockets.cancel(second_.number, "played")
    report.equal("cancelled: nobody leaves", client.people.show(who).access_ends, None)


def _nobody_answers(play: Play) -> None:
    report, client = play.report, play.client
    report.section(
        "Nobody answers: an administrator may, marked as such; what expires is told and stays a line"
    )
    head = next(p for p in play.organisation.people if p.title == "Head of Safety")
    rules = rules_text(
        approvals={"moves": {"by": ["bkrog"], "expire_hours": 24}},
        procedures={"mover": {"approval": "moves"}},
    )
    second(play)
    client.rules.adopt(rules, "moves are agreed to", take_away=10_000)
    author = wop.NewOperator(
        login="head", name="Head", role=OperatorRole.OPERATOR, person=head.user_name
    )
    client.operators.add(author)
    with Client(play.stage.url, token_of(play.client, play.stage.url, "head", "operator")) as other:
        who = play.organisation.of("Safety", skip=4).user_name
        asked = wl.NewPlan(verb=Verb.MOVER, who=[who], changes={"department": "Deck"})
        docket = other.plans.confirm(other.plans.make(asked))[0]
        row = client.approvals.all(docket=docket.number)[0]
        said = refused(lambda: other.approvals.answer(row.id, agrees=True, note="mine"))
        report.check("not by its author", "not asked" in said, said)
        said = refused(lambda: client.approvals.answer(row.id, agrees=True))
        report.check("not without saying why", "Say why" in said, said)
        client.approvals.answer(row.id, agrees=True, note="Birgit Krog is away")
        list(client.dockets.follow(docket.number))
        answer = client.approvals.all(docket=docket.number, state="given")[0].answers[-1]
        report.check("marked as an administrator's", "administrator" in answer.name, answer)
        report.equal("and the move is made", "Deck crew" in play.crew.groups(who), True)
        who = play.organisation.of("Safety", skip=5).user_name
        asked = wl.NewPlan(verb=Verb.MOVER, who=[who], changes={"department": "Deck"})
        late = other.plans.confirm(other.plans.make(asked))[0]
    advance(client, "+25h")
    play.until(lambda: client.dockets.show(late.number).state == "cancelled")
    report.equal(
        "after its time the docket is cancelled",
        client.dockets.show(late.number).state,
        "cancelled",
    )
    mail = play.post.wait(f"{head.user_name}@", "Not approved in time")
    report.check(
        "its author is told",
        who in mail["text"] + mail["subject"] or "mover" in mail["subject"],
        mail,
    )
    key = ("", "docket", "mover", "asked")
    play.until(lambda: key in lines(play, who))
    report.equal("and it stays a line", lines(play, who)[key].code, "expired")
