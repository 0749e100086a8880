"""Proof ``mover``: an overlap, a late fact, a rename with an alias, a late extension, exceptions."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime, timedelta

import httpx

from tests.proofs.joiner import DESK, LOCKERS, rules_text
from tests.proofs.play import Play
from yugum.core.applications import Trust
from yugum.core.dockets import Settlement
from yugum.core.verbs import Verb
from yugum.errors import YugumError
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import plans as wl
from yugum_standins.load import advance
from yugum_standins.morrow import CREW, DIRECTORY, MAIL


def mover(play: Play) -> None:
    """People who change: department, name, term."""
    _overlap(play)
    _late_fact(play)
    _rename(play)
    _extension(play)
    _exceptions(play)
    _settings(play)
    _undone(play)
    _misbehaving(play)


def _overlap(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A harbour hand moves to Safety; the old access ends 14 days later")
    who = play.organisation.of("Harbour Operations", "Harbour hand").user_name
    before = play.crew.groups(who)
    report.check("holds the groups of Harbour", {"Harbour crew", "Rosters"} <= before, before)
    batch = play.plan(Verb.MOVER, who, changes={"department": "Safety", "title": "Safety officer"})
    stays = {s.item: s.reason for s in batch.plans[0].stays}
    report.check("the plan says what stays for now", "Harbour crew" in stays, stays)
    play.confirm(batch)
    now = play.now
    report.equal(
        "both roles' groups",
        play.crew.groups(who) - {"Night duty"},
        {"Harbour crew", "Rosters", "Safety observers"},
    )
    advance(client, (now + timedelta(days=14) - timedelta(seconds=1)).isoformat())
    report.check("until the last second", "Harbour crew" in play.crew.groups(who))
    advance(client, (now + timedelta(days=14)).isoformat())
    report.equal(
        "then only the new one's", play.crew.groups(who) - {"Night duty"}, {"Safety observers"}
    )
    last = client.people.show(who).dockets[0]
    named = "overlap of 14 days" in last.title and last.outcome == "done"
    report.check("by a docket of its own that says so", named, (last.title, last.outcome))


def _late_fact(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A move that took place nine days ago is told today")
    who = play.organisation.of("Ticketing", "Ticket clerk", skip=2).user_name
    past = (play.now - timedelta(days=9)).date().isoformat()
    batch = play.plan(
        Verb.MOVER,
        who,
        since=past,
        changes={"department": "Timetables", "title": "Timetable planner"},
    )
    play.confirm(batch)
    report.equal(
        "access is as it should be",
        play.crew.groups(who),
        {"Timetable planners", "Rosters"},
    )
    fact = client.people.show(who).facts[0]
    report.check(
        "effective then, known now",
        fact.effective_at.date().isoformat() == past and fact.known_at.date() == play.now.date(),
        fact,
    )


def _rename(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Somebody marries; the login changes everywhere, the old one stays an alias")
    who = play.organisation.of("Timetables", skip=6)
    old = who.user_name
    found = client.names.suggest(given=who.given_name, family="Bjornsen-Ek")
    new = next(s.name for s in found.names if s.kind == "login")
    report.note(f"{old} becomes {new}")
    password = "Before-The-Wedding-2031-x"
    account = next(a for a in client.people.show(old).accounts if a.application_id == DIRECTORY)
    made = client.credentials.renew(account.id, "for the proof")
    list(client.dockets.follow(made.docket))
    link = client.credentials.hand_over(account.id, "known in person").link.rsplit("#", 1)[1]
    list(client.dockets.follow(client.credentials.choose(link, password).docket))
    batch = play.plan(
        Verb.RENAME,
        old,
        changes={"user_name": new, "family_name": "Bjornsen-Ek"},
        until="",
    )
    play.show_steps(batch)
    renamed = {s.application_id for s in batch.plans[0].steps if s.action == "rename"}
    report.check("the impact stands there before: each application", len(renamed) >= 4, renamed)
    begun = play.now
    play.confirm(batch)
    report.equal("directory: under the new name", play.directory.entry(old), {})
    entry = play.directory.entry(new)
    report.equal("directory: the old login is an alias", entry.get("yugumAlias"), [old])
    report.equal("directory: her groups came along", play.directory.groups(new), {"Staff"})
    report.check("she signs in by the new name", play.directory.sign_in(new, password))
    report.equal("Crew rosters: the new login", (play.crew.user(new) or {}).get("userName"), new)
    report.equal("reporting database: a role of that name", play.reporting.role(new), True)
    report.equal("reporting database: the old one is gone", play.reporting.role(old), None)
    advance(client, (begun + timedelta(days=30) - timedelta(seconds=1)).isoformat())
    report.equal(
        "30 days less a second: still an alias", play.directory.entry(new)["yugumAlias"], [old]
    )
    advance(client, (begun + timedelta(days=30)).isoformat())
    report.check("then it is gone", "yugumAlias" not in play.directory.entry(new))
    again = client.names.suggest(given=who.given_name, family=who.family_name)
    tried = {
        t.name: t.problem for s in again.names if s.kind == "login" for t in s.tried if t.problem
    }
    report.check("nobody gets the old login soon", "quarantine" in tried.get(old, ""), tried)


def _extension(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A fixed term ends; two days later it is extended")
    seasonal = next(
        p for p in play.organisation.people if p.contract_ends == "2031-03-31"
    ).user_name
    ends = datetime(2031, 3, 31, 23, 0, tzinfo=UTC)
    groups = play.crew.groups(seasonal)
    advance(client, (ends - timedelta(days=3)).isoformat())
    boss = client.people.show(seasonal).manager
    deadline = time.monotonic() + 15
    told: list[str] = []
    while time.monotonic() < deadline and not told:
        told = [m.subject for m in client.mails.all(seasonal) if m.kind == "reminder"]
        time.sleep(0.3)
    report.check(f"{boss.name if boss else '?'} is reminded before", bool(told), told)
    advance(client, (ends + timedelta(days=2)).isoformat())
    report.equal("cut off", (play.crew.user(seasonal) or {}).get("active"), False)
    report.equal("no group left", play.crew.groups(seasonal), set())
    long = ""
    try:
        play.plan(Verb.EXTENSION, seasonal, until="2035-01-01")
    except YugumError as error:
        long = error.message
    report.check("beyond the longest term it is refused", "at most" in long, long)
    play.confirm(play.plan(Verb.EXTENSION, seasonal, until="2031-09-30"))
    report.equal("active again", (play.crew.user(seasonal) or {}).get("active"), True)
    report.equal("with the groups as before", play.crew.groups(seasonal), groups)
    view = client.people.show(seasonal)
    report.check(
        "and a new end, at which it ends by itself again",
        str(view.contract_ends) == "2031-09-30" and view.access_ends is not None,
        view.access_ends,
    )


def _exceptions(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A second position for a month, and two people compared")
    who = play.organisation.of("Safety", "Drill", skip=1)
    other = play.organisation.of("Safety", "Drill", skip=2)
    client.decisions.make(
        wde.NewDecision(
            who=who.user_name,
            kind="role",
            payload={"role": "Timetables"},
            reason="helps out with the spring timetable",
            ends="+30d",
        )
    )
    play.confirm(play.plan(Verb.MOVER, who.user_name, changes={"title": "Drill coordinator II"}))
    found = client.names.compare(who.user_name, other.user_name)
    only = {(x.application_id, x.item) for x in found.only_left}
    report.check(
        "only the one has the groups of Timetables", (CREW, "Timetable planners") in only, only
    )
    reasons = {x.left for x in found.only_left if x.item == "Timetable planners"}
    report.equal("because of the role", reasons, {"role Timetables"})
    explained = client.names.explain(who.user_name)
    report.check("what it should be is explained", "Timetables" in explained.roles, explained.roles)
    advance(client, "+30d")
    report.check(
        "after the month they are gone",
        "Timetable planners" not in play.crew.groups(who.user_name),
    )


def _settings(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Settings by role: the largest quota wins; what ends at a term moves with it")
    text = rules_text(
        roles={
            "Post": {
                "when": 'department eq "Deck"',
                "gives": [{"application": MAIL, "settings": {"quota": "2 GB"}}],
            },
            "Post of officers": {
                "when": 'title eq "Deck officer"',
                "gives": [{"application": MAIL, "settings": {"quota": "10 GB"}}],
            },
        }
    )
    trial = client.rules.try_out(text)
    lines = {(x.item): (x.gained, x.lost) for x in trial.lines}
    report.check(
        "trying it tells how many get which",
        lines.get("quota = 10 GB", (0, 0))[0] > 5 and lines.get("quota = 2 GB", (0, 0))[0] > 5,
        lines,
    )
    officer = play.organisation.of("Deck", "Deck officer", skip=3).user_name
    made = client.rules.adopt(text, "post", after=trial.version, carry_out=True)
    report.check("adopted and carried out", made.rechecked > 10, made.rechecked)
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline and client.dockets.page(state="running").items:
        time.sleep(0.5)
    advance(client, "+1h")
    seen = _quota(play, officer)
    report.equal("an officer of Deck has the larger one, in the application itself", seen, "10 GB")
    hand = play.organisation.of("Deck", "Deckhand", skip=3).user_name
    report.equal("a deckhand the other", _quota(play, hand), "2 GB")
    report.equal("nothing is stuck", client.dockets.page(stuck=True).items, [])


def _quota(play: Play, login: str) -> str:
    reach = play.organisation.others[MAIL]
    found = httpx.get(
        f"{reach['url']}/scim/v2/Users",
        params={"filter": f'userName eq "{login}"'},
        headers=reach["headers"],
    ).json()["Resources"][0]
    settings = found["urn:yugum:scim:schemas:1.0:Account"]["settings"]
    return str(settings.get("quota", ""))


def _undone(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A move is undone")
    who = play.organisation.of("Ticketing", "Ticket clerk", skip=6).user_name
    docket = play.confirm(
        play.plan(Verb.MOVER, who, changes={"department": "Safety", "title": "Safety officer"})
    )
    report.equal("moved", play.crew.groups(who), {"Safety observers"})
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=docket.number))
    play.confirm(batch)
    report.equal("and back", client.people.show(who).department, "Ticketing")
    report.equal("no groups in Crew rosters", play.crew.groups(who), set())


def _misbehaving(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Own steps that misbehave: shown clearly, nothing else held up, retry works")
    desk = json.loads((play.stage.folder / f"{DESK}.json").read_text())
    panel = f"http://127.0.0.1:{desk['port']}/panel/faults"
    behaviour = play.stage.folder / "scripts" / "locker-list.behaviour"
    for name, kind, options in (
        (DESK, "web-hook", {"hosts": "127.0.0.1", "timeout": "1"}),
        (LOCKERS, "script", {"program": "locker-list", "timeout": "1"}),
    ):
        hook = kind == "web-hook"
        client.applications.connect(
            wap.ConnectApplication(
                id=name,
                name=name,
                kind=kind,
                url=f"http://127.0.0.1:{desk['port']}/hook" if hook else "",
                secret=desk["secret"] if hook else None,
                options=options,
                trust=Trust.FULL,
            )
        )
    steps = [
        {"name": "print badge", "application": DESK},
        {"name": "locker", "application": LOCKERS},
    ]
    # The settings of the section before go again: from many people, which is asked about.
    text = rules_text(procedures={"mover": {"steps": steps}})
    client.rules.adopt(text, "own steps", take_away=10_000)
    cases = [
        (DESK, "hang", "has not answered"),
        (DESK, "error", "500"),
        (DESK, "garbage", "JSON"),
        (DESK, "lie", "not seen"),
        (LOCKERS, "exit", "ended with 3"),
        (LOCKERS, "loop", "has not answered"),
        (LOCKERS, "garbage", "JSON"),
    ]
    for index, (application, fault, word) in enumerate(cases):
        who = play.organisation.of("Engine Room", skip=3 + index).user_name
        if application == DESK:
            httpx.put(panel, json={"behaviour": fault})
        else:
            behaviour.write_text(fault)
        batch = client.plans.make(
            wl.NewPlan(
                verb=Verb.MOVER,
                who=[who],
                changes={"department": "Safety", "title": "Safety officer"},
            )
        )
        docket = client.plans.confirm(batch)[0].number
        problem = ""
        deadline = time.monotonic() + 15
        while time.monotonic() < deadline and word not in problem:
            view = client.dockets.show(docket)
            step = next(s for s in view.steps if s.application_id == application)
            problem = step.problem.text if step.problem else ""
            time.sleep(0.2)
        report.check(f"{application}, {fault}: {problem}", word in problem, problem)
        others = [s for s in view.steps if s.application_id not in (DESK, LOCKERS)]
        while time.monotonic() < deadline and any(s.state != "done" for s in others):
            time.sleep(0.2)
            view = client.dockets.show(docket)
            others = [s for s in view.steps if s.application_id not in (DESK, LOCKERS)]
        report.check(
            "    everything else is done",
            bool(others) and all(s.state == "done" for s in others),
            [(s.action, s.state) for s in others if s.state != "done"],
        )
        httpx.put(panel, json={"behaviour": ""})
        behaviour.write_text("")
        deadline = time.monotonic() + 40
        while time.monotonic() < deadline and view.state != "done":
            step = next(s for s in view.steps if s.application_id == application)
            if step.state in ("attention", "settling") or (step.problem and step.state == "due"):
                try:
                    client.dockets.settle(step.id, Settlement.RETRY)
                except YugumError:
                    time.sleep(0.2)
            time.sleep(0.3)
            view = client.dockets.show(docket)
        report.equal("    after mending and a retry it is done", view.state, "done")
