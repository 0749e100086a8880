"""What should be stays so: what came by an exception goes with it; what a clock cannot say is refused."""

from __future__ import annotations

from tests.proofs.leaver import refused
from tests.proofs.play import Play
from yugum.core.verbs import Verb
from yugum.wire import decisions as wde
from yugum.wire import plans as wl
from yugum_standins.load import advance, loaded
from yugum_standins.look import CrewLook
from yugum_standins.morrow import TICKETS


def standing(play: Play) -> None:
    """Exceptions that end by their date and by hand, in an application where no role gives anything."""
    _exceptions(play)
    _clock_change(play)


def _given(play: Play, who: str, ends: str) -> list[str]:
    """An exception for an entitlement and a seat of an application that no role of theirs gives."""
    client, made = play.client, []
    for kind, item in (("entitlement", "Counter"), ("seat", "Seller")):
        payload = wde.DecisionPayload(application=TICKETS, kind=kind, item=item)
        asked = wde.NewDecision(
            who=who, kind="grant", payload=payload, reason="the fair", ends=ends
        )
        made.append(client.decisions.make(asked).id)
    play.confirm(play.plan(Verb.MOVER, who, changes={"title": "Helps at the fair"}))
    return made


def _exceptions(play: Play) -> None:
    report, client = play.report, play.client
    reach = loaded(play.stage).others[TICKETS]
    tickets = CrewLook(reach["url"], reach["headers"])
    report.section("An exception ends, in an application where no role gives an account")
    one, two = (play.organisation.of("Safety", skip=n).user_name for n in (3, 4))
    _given(play, one, "+2d")
    by_hand = _given(play, two, "")
    for who in (one, two):
        report.equal("the application has the account", tickets.groups(who), {"Counter"})
        report.equal("and its seat is taken", tickets.seats(who), ["Seller"])
    advance(client, "+2d")
    play.until(lambda: not (tickets.user(one) or {})["active"])
    report.equal("the account is cut off there", (tickets.user(one) or {})["active"], False)
    play.until(lambda: not tickets.seats(one))
    report.equal("the entitlement is gone", tickets.groups(one), set())
    report.equal("the seat is free", tickets.seats(one), [])
    dockets = list(client.dockets.all(who=one))
    reasons = {s.reason for s in client.dockets.show(dockets[0].number).steps}
    report.check("the docket says why", "the exception has ended" in reasons, reasons)

    report.section("An exception is ended by hand")
    for made in by_hand:
        client.decisions.end(made)
    play.until(lambda: not (tickets.user(two) or {})["active"])
    report.equal("the account is cut off there", (tickets.user(two) or {})["active"], False)
    play.until(lambda: not tickets.seats(two))
    report.equal("the seat is free", tickets.seats(two), [])
    said = refused(lambda: client.decisions.end(by_hand[0]))
    report.check("a second ending is refused", "in force" in said, said)

    report.section("Closing days later, once")
    advance(client, "+31d")
    for who in (one, two):
        play.until(lambda who=who: tickets.user(who) is None)  # type: ignore[misc]
        report.equal("the application has it no more", tickets.user(who), None)
        left = [d.verb for d in client.dockets.all(who=who)]
        report.equal("by one docket", left.count(Verb.CLOSE), 1)
    others = {a.application_id: a.state for a in client.people.show(one).accounts}
    others.pop(TICKETS)
    report.equal("everything else is as it was", set(others.values()), {"active"})


def _clock_change(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A time that there is not, on the night the clocks change")
    who = play.organisation.of("Safety", skip=5).user_name
    asked = wl.NewPlan(verb=Verb.LEAVER, who=[who], at="2032-03-28 01:30")
    said = refused(lambda: client.plans.make(asked))
    report.check("it is refused with both neighbours", "00:59" in said and "02:00" in said, said)
