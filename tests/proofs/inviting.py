"""Part of the proof ``coming-in``: an invitation that nobody accepts, and duties that are done and seen."""

from __future__ import annotations

from datetime import timedelta

from tests.proofs.play import Play
from yugum.core.verbs import Verb
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.look import CrewLook
from yugum_standins.morrow import BERTH_PLANNER, EXCHANGE

SEAT, STRONG = "Berth seat", "Berth-Seven-Lantern-9"


def inviting(play: Play) -> None:
    """Two are invited: one comes and does what there is to do, the other never does."""
    client, report = play.client, play.report
    reach = play.organisation.others[EXCHANGE]
    exchange = CrewLook(reach["url"], reach["headers"])
    boss = play.organisation.people[70]
    held, begin = exchange.taken(SEAT), client.clock.show().now
    report.section("Berth exchange invites: one comes, one does not")
    for login, given in (("wcomes", "Wanda"), ("wnever", "Wilf")):
        person = wp.NewPerson(
            user_name=login,
            given_name=given,
            family_name="Quay",
            department="Safety",
            title=BERTH_PLANNER,
            manager=boss.user_name,
            mail=f"{login}@morrowsound.example",
            starts=f"{begin:%Y-%m-%d}",
        )
        client.people.create([person])
        play.confirm(play.plan(Verb.JOINER, login))
    shown = exchange.account("wnever")["invitation"]
    report.check("the application says: invited, not accepted", shown["acceptedAt"] is None, shown)
    report.equal("their seats are counted there", exchange.taken(SEAT), held + 2)
    asked = exchange.account("wcomes")["duties"]
    report.equal("the duties of the profile are set there", asked, ["second_factor", "terms"])
    report.check("nobody gets in before accepting", not exchange.sign_in("wcomes", STRONG))

    report.check("she accepts and chooses a password", exchange.accept("wcomes", STRONG))
    report.check("and signs in with it", exchange.sign_in("wcomes", STRONG))
    for duty in asked:
        exchange.do_duty("wcomes", duty)
    client.applications.read(EXCHANGE)
    lines = {
        row.user_name: next(x for x in row.lines if x.application_id == EXCHANGE)
        for row in client.people.joiners()
        if row.user_name in ("wcomes", "wnever")
    }
    hers, his = lines["wcomes"], lines["wnever"]
    report.check("the first sign-in is read back", hers.signed_in is True, hers)
    report.equal("the duties are done and seen", (hers.duties, hers.lacks), ([], []))
    report.check("he is not ready", any("not accepted" in x for x in his.lacks), his.lacks)

    for _ in client.clock.advance((begin + timedelta(days=4)).isoformat()):
        pass
    mail = play.post.wait("wnever@morrowsound.example", "invitation")
    report.check("after three days he is reminded", "withdrawn on" in mail["text"], mail)
    play.post.wait(boss.mail, "Wilf Quay")
    report.check("and so is the manager", True)
    for _ in client.clock.advance((begin + timedelta(days=15)).isoformat()):
        pass
    play.until(lambda: not (exchange.user("wnever") or {"active": True})["active"])
    report.check("after fourteen the application says: closed", _closed(exchange, "wnever"))
    report.check("the invitation is good no more", not exchange.accept("wnever", STRONG))
    play.until(lambda: exchange.taken(SEAT) == held + 1)
    report.equal("the seat is back, counted there", exchange.taken(SEAT), held + 1)
    report.check("hers is as it was", not _closed(exchange, "wcomes"))
    said = [d for d in client.people.decisions("wnever") if d.kind == "deny"]
    report.check("it stands among his decisions", bool(said), said)

    client.decisions.end(said[0].id)
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=["wnever"])))
    report.check("once that is ended he is invited anew", exchange.accept("wnever", STRONG))


def _closed(look: CrewLook, login: str) -> bool:
    return not (look.user(login) or {})["active"]
