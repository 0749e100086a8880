"""Random events on running applications, held after each against what the guide promises (`promise`).

    python -m tests.proofs.model --seed 1 --events 300

What should be comes from the promise, what is held from the applications themselves, and every line of
the standing difference is compared with both: its status, since when, and what or whom it waits for.
"""

from __future__ import annotations

import random
import shutil
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any, cast
from zoneinfo import ZoneInfo

import bonsai
import click
import httpx
import psycopg

from tests.conftest import FAST, NOW, scratch
from tests.proofs.leaver import second
from tests.proofs.promise import (
    AGREED,
    APPLICATIONS,
    ASIDE,
    AWAITS,
    BERTH,
    EXTRA,
    FIRST_SERVED,
    FOREVER,
    FORGOTTEN,
    GIVES,
    GROUPS,
    LEAVER,
    OVERLAP,
    SAYS,
    SEATED,
    ZONE,
    Aside,
    Held,
    Key,
    Model,
    Somebody,
    Span,
    days_later,
)
from yugum.client import Client
from yugum.errors import ApplicationUnavailable, Conflict, PlanStale
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import seats as wse
from yugum.wire import standing as wst
from yugum.wire.dockets import SettleStep
from yugum.wire.reservations import NewReservation
from yugum_standins.directory import BASE, Directory, group_entry
from yugum_standins.load import advance, found
from yugum_standins.look import ACCOUNT
from yugum_standins.stage import Stage, run_sql

RULES = "roles:\n" + "".join(
    f'  {name}:\n    when: department eq "{name}"\n    overlap_days: {OVERLAP[name]}\n    gives:\n'
    + "".join(
        f"      - application: {app}\n        entitlements: [{', '.join(sorted(groups))}]\n"
        + (f"        seats: [{BERTH}]\n" if app == SEATED else "")
        for app, groups in gives.items()
    )
    for name, gives in GIVES.items()
)
RULES += "accounts:\n" + "".join(
    f'  {app}: {{keep: in_step, attributes: {{{name}: {{of: "{{department}}"}}}}}}\n'
    for app, name in SAYS.items()
)
RULES += f"""
licenses: {{{SEATED}: {{{BERTH}: {{priority: ['department eq "{FIRST_SERVED}"']}}}}}}
"""
RULES += """
approvals:
  leavers: {by: [second], expire_hours: 48}
procedures:
  leaver: {approval: leavers}
"""
WORK = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
RETRY = SettleStep(how="retry").how
FULL, WATCH = (wap.TrustChange(trust=t).trust for t in ("full", "watch"))
SECONDS = 60.0
PEOPLE = 12
WAITS = {"down": {"no-answer", "needs"}, "watched": {"trust"}}
"""What a line may wait for in an application that is out, by why it is."""

Truth = dict[str, Held]


class Differs(Exception):
    """Yugum, or an application, is not as the guide says."""


class Applications:
    """The applications themselves: asked past Yugum, stopped and started."""

    def __init__(self, stage: Stage) -> None:
        self.stage = stage
        self.reach: dict[str, dict[str, Any]] = {}
        for name, one in APPLICATIONS.items():
            if one.kind == "scim":
                traits = {"window_days": one.window}
                self.reach[name] = stage.standin(
                    name, {"groups": GROUPS, "users": [], "licenses": {BERTH: 50}}, traits=traits
                )
        self.target = stage.cluster("target")
        run_sql(self.target.url(), [f'CREATE ROLE "{g}"' for g in GROUPS])
        self.directory: Directory = stage.directory(lambda: [group_entry(g, []) for g in GROUPS])

    def connection(self, name: str) -> dict[str, Any]:
        kind = APPLICATIONS[name].kind
        if kind == "postgres":
            return {"secret": self.target.url()}
        if kind == "ldap":
            one = self.directory
            return {"url": one.url, "secret": one.password, "options": one.options}
        return {"url": f"{self.reach[name]['url']}/scim/v2", "secret": self.reach[name]["token"]}

    def answer(self, name: str, *, answers: bool) -> None:
        kind = APPLICATIONS[name].kind
        if kind == "scim":
            reach = self.reach[name]
            faults = {"down": int(not answers)}
            httpx.put(f"{reach['url']}/panel/faults", json=faults, headers=reach["headers"])
            return
        server = self.target if kind == "postgres" else self.directory
        if answers:
            server.start()
        else:
            server.stop()

    def truth(self, name: str) -> Truth:
        """What the application itself says of every account, by login."""
        return {"scim": self._scim, "postgres": self._postgres, "ldap": self._ldap}[
            APPLICATIONS[name].kind
        ](name)

    def _scim(self, name: str) -> Truth:
        reach, result = self.reach[name], {}
        recoverable = APPLICATIONS[name].window > 0
        for path in ("DeletedUsers", "Users") if recoverable else ("Users",):
            reply = httpx.get(
                f"{reach['url']}/scim/v2/{path}", params={"count": 500}, headers=reach["headers"]
            )
            for user in reply.json().get("Resources", []):
                held = Held("active" if user.get("active") else "suspended")
                held.groups = {g["display"] for g in user.get("groups", [])}
                held.says = user.get(WORK, {}).get("department", "")
                held.seat = bool(user.get(ACCOUNT, {}).get("seats"))
                if path == "DeletedUsers":
                    held = Held("deleted", until=datetime.fromisoformat(user["recoverableUntil"]))
                result[user["userName"]] = held
        return result

    def _postgres(self, _: str) -> Truth:
        sql = """SELECT r.rolname, r.rolcanlogin, coalesce(shobj_description(r.oid, 'pg_authid'), ''),
                   array_remove(array_agg(g.rolname::text), NULL)
                 FROM pg_roles r LEFT JOIN pg_auth_members m ON m.member = r.oid
                 LEFT JOIN pg_roles g ON g.oid = m.roleid
                 WHERE r.rolname LIKE 'person%' GROUP BY r.oid, 1, 2, 3"""
        with psycopg.connect(self.target.url()) as connection:
            rows = connection.execute(sql).fetchall()
        return {
            r[0]: _marked(active=r[1], mark=r[2], groups=set(r[3]), says=r[2].partition("\n")[2])
            for r in rows
        }

    def _ldap(self, _: str) -> Truth:
        wanted = ["uid", "pwdAccountLockedTime", "description", "memberOf", SAYS["epsilon"]]
        with self.directory.client().connect(timeout=5) as connection:
            entries = connection.search(
                BASE, bonsai.LDAPSearchScope.SUB, "(objectClass=inetOrgPerson)", wanted
            )
        return {
            str(e["uid"][0]): _marked(
                active=not e.get("pwdAccountLockedTime"),
                mark=" ".join(map(str, e.get("description", []))),
                groups={str(g).split(",")[0].removeprefix("cn=") for g in e.get("memberOf", [])},
                says=" ".join(map(str, e.get(SAYS["epsilon"], []))),
            )
            for e in entries
        }


def _marked(*, active: bool, mark: str, groups: set[str], says: str) -> Held:
    """An account whose application lets Yugum mark what is parked."""
    if not active and "parked until " in mark:
        until = mark.split("parked until ")[1].split()[0].rstrip(")")
        return Held("deleted", groups, until=datetime.fromisoformat(until))
    return Held("active" if active else "suspended", groups, says=says)


class Machine:
    """The stage, random events on it, and the comparison after each."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.looks = random.Random(seed)  # how often is looked depends on how fast the machine is
        self.folder = scratch()
        self.stage = Stage(self.folder, settings=FAST)
        self.stage.database()
        self.apps = Applications(self.stage)
        token = found(self.stage, NOW)
        self.stage.serve(0)
        self.stage.worker("w", {"YUGUM_RETRY_BASE_SECONDS": "0.1"})
        self.client = Client(self.stage.url, token)
        for name, one in APPLICATIONS.items():
            self.client.applications.connect(
                wap.ConnectApplication(
                    id=name,
                    name=name,
                    kind=one.kind,
                    trust="full",
                    contact=one.contact,
                    profile=wap.ProfileDocument(
                        window_days=one.window, close_after_days=one.close, deletion=one.deletion
                    ),
                    **self.apps.connection(name),
                )
            )
        self._buy(3)
        self.second = second(cast("Any", self), "second")
        self.client.rules.adopt(RULES)
        self.model = Model(self.client.clock.show().now)
        self.done: list[str] = []
        self.compared = 0
        self.late: dict[str, datetime] = {}
        self.kinds: Counter[str] = Counter()
        self.shut: dict[str, str] = {}
        self.changed: dict[str, list[datetime]] = {}
        self.undone: dict[str, Callable[[], str | None]] = {}
        """What becomes of it when a docket that was carried out is undone; None where it was not."""

    def close(self) -> None:
        self.second.close()
        self.client.close()
        self.stage.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    # --- events ------------------------------------------------------------------------------

    def play(self, number: int) -> None:
        events: dict[Callable[[], str | None], int] = {
            self.joins: 6,
            self.moves: 5,
            self.moved_long_ago: 2,
            self.leaves: 3,
            self.left_long_ago: 1,
            self.is_away: 3,
            self.gets_an_exception: 4,
            self.loses_an_exception: 2,
            self.is_held: 2,
            self.is_let_go: 3,
            self.application_held: 1,
            self.is_closed_by_hand: 1,
            self.is_read: 2,
            self.is_changed_there: 3,
            self.goes_out: 3,
            self.line_is_accepted: 2,
            self.comes_back: 4,
            self.time_passes: 9,
            self.is_answered: 4,
            self.is_asked_about_again: 2,
            self.is_hired_again: 2,
            self.is_undone: 4,
            self.is_shut_for_now: 2,
            self.is_opened_again: 2,
            self.buys_a_seat: 1,
            self.is_set_aside: 2,
            self.is_passed_on: 3,
        }
        event = self.dice.choices(list(events), list(events.values()))[0]
        told = event()
        if told is None:
            return
        self.kinds[event.__name__] += 1
        self.done.append(f"{number}: {told}")
        click.echo(self.done[-1])
        self.compare()

    def finish(self) -> None:
        """Everything answers again: nothing is left that waits."""
        for app in sorted(self.model.out):
            self._back(app)
        self.compare()

    def _somebody(self, *, left: bool = False) -> Somebody | None:
        """Anybody in use or, with ``left``, anybody who has left; nobody who is to leave."""
        now, people = self.model.now, self._known_before()
        some = [p for p in people if left and p.leaves <= now]
        some += [p for p in people if not left and p.leaves == FOREVER]
        return self.dice.choice(some) if some else None

    def _known_before(self) -> list[Somebody]:
        """All of whom nothing late was told this moment: only here does time stand still."""
        return [p for p in self.model.people.values() if self.late.get(p.login) != self.model.now]

    def _do(self, verb: str, *who: str, **more: Any) -> str:
        """Plan and carry out; a plan of nothing, made by a recheck, is not. Again if it got stale.

        Returns the docket's number.
        """
        for attempt in range(8):
            batch = self.client.plans.make(wl.NewPlan(verb=verb, who=list(who), **more))
            if verb == "recheck" and not any(p.steps for p in batch.plans):
                return ""
            typed = who[0] if len(who) == 1 else f"purge {len(batch.plans)}"
            try:
                made = self.client.plans.confirm(batch, typed=typed)
            except PlanStale:
                time.sleep(0.3 * (attempt + 1))
            else:
                return made[0].number
        raise Differs(f"a plan of {verb} gets stale again and again")

    def joins(self) -> str | None:
        number = len(self.model.people)
        if number - sum(p.leaves < FOREVER for p in self.model.people.values()) >= PEOPLE:
            return None
        login, department = f"person{number}", self.dice.choice(list(GIVES))
        self._was_there(login, department)
        begun = self.dice.choice([None, self._midnight(-self.dice.randint(1, 30))])
        self.client.people.create(
            [
                wp.NewPerson(
                    user_name=login,
                    given_name="Person",
                    family_name=f"Number{number}",
                    department=department,
                    time_zone=ZONE,
                    starts=f"{begun:%Y-%m-%d}" if begun else "",
                )
            ]
        )
        self._do("joiner", login)
        made = self.model.people[login] = Somebody(login, department)
        if begun:
            made.begins, made.first_day = begun.astimezone(UTC), begun.date()
            self.late[login] = self.model.now
        self.model.settle(made, made.begins if begun else None)
        return f"{login} joins {department}"

    def _midnight(self, days: int) -> datetime:
        """The first moment of a day so many days from today."""
        day = self.model.now.astimezone(ZoneInfo(ZONE)).date() + timedelta(days=days)
        return datetime.combine(day, datetime.min.time(), ZoneInfo(ZONE))

    def _was_there(self, login: str, department: str) -> None:
        """Sometimes an account was made by hand, and read, before its person was known."""
        some = [a for a in GIVES[department] if a in self.apps.reach and a not in self.model.out]
        if not some or self.dice.random() < 0.6:
            return
        app = self.dice.choice(some)
        reach = self.apps.reach[app]
        document = {"userName": login, "displayName": "Person", "active": True}
        httpx.post(
            f"{reach['url']}/scim/v2/Users", json=document, headers=reach["headers"]
        ).raise_for_status()
        self.client.applications.read(app)
        self.model.read(app)

    def moves(self) -> str | None:
        who = self._somebody()
        if who is None:
            return None
        to = self.dice.choice([d for d in GIVES if d != who.department])
        were = {a: h.state for a, h in who.held.items()}
        gave = {a: GIVES[to].get(a, set()) - h.groups for a, h in who.held.items()}
        number = self._do("mover", who.login, changes={"department": to})
        now, before, overlap = self.model.now, who.department, None
        if days := OVERLAP[who.department]:
            overlap = Span(now, days_later(now, days), who.department)
            who.roles.append(overlap)
        who.department = to
        self.model.settle(who)
        gone = ("none", "gone", "deleted")
        made = {
            a: who.held[a].came + (a in self.model.out)  # to be made once it answers
            for a in were
            if were[a] in gone and who.given(a, now) is not None
            if self.model.out.get(a) != "watched"  # there somebody else's docket makes it
        }
        self.undone[number] = partial(self._move_back, who, (before, to), overlap, made, gave)
        return f"{who.login} moves to {to}"

    def moved_long_ago(self) -> str | None:
        who = self._somebody()
        if who is None or OVERLAP[who.department] or not self._first_today(who):
            return None
        then = self.model.now - timedelta(days=self.dice.randint(1, 40))
        if then < who.begins:
            return None
        to = self.dice.choice([d for d in GIVES if d != who.department])
        self._do("mover", who.login, changes={"department": to}, since=then.isoformat())
        who.department = to
        self.model.settle(who, then)
        return f"{who.login} moved to {to} on {then:%d %b}, as is known now"

    def leaves(self) -> str | None:
        who = self._somebody()
        if who is None:
            return None
        now = at = self.model.now
        if self.dice.random() < 0.5:
            day = (now + timedelta(days=self.dice.randint(1, 20))).astimezone(ZoneInfo(ZONE))
            at = datetime.combine(day.date(), datetime.min.time(), ZoneInfo(ZONE))
            at = at.replace(hour=17)
            number = self._goes(who, at=f"{day:%Y-%m-%d}")
        else:
            number = self._goes(who)
        who.leaves, who.leaving_known = at, now
        self.undone[number] = partial(self._stay, who, at)
        self.model.settle(who)
        return f"{who.login} leaves at {at:%d %b %H:%M}{', if agreed to' if who.asked else ''}"

    def _goes(self, who: Somebody, **more: Any) -> str:
        """Plan a leaver, one of two of which waits for nobody."""
        urgent = self.dice.random() < 0.5
        number = self._do("leaver", who.login, urgent=urgent, **more)
        if not urgent:
            who.asked = Span(self.model.now, self.model.now + AGREED, id=number)
        return number

    def _first_today(self, who: Somebody) -> bool:
        """Whether nothing late was told of somebody yet this moment: only here does time stand still."""
        first = self.late.get(who.login) != self.model.now
        self.late[who.login] = self.model.now
        return first

    def left_long_ago(self) -> str | None:
        who = self._somebody()
        if who is None or not self._first_today(who):
            return None
        now = self.model.now
        then = now - timedelta(days=self.dice.randint(1, 60))
        if then < who.begins:
            return None
        number = self._goes(who, since=then.isoformat())
        self.undone[number] = partial(self._stay, who, then)
        who.leaves, who.leaving_known = then, now
        self.model.settle(who, then)
        return f"{who.login} left on {then:%d %b}, as is known now"

    def is_away(self) -> str | None:
        who, now = self._somebody(), self.model.now
        if who is None or who.is_away(now):
            return None
        until = now + timedelta(days=self.dice.randint(1, 15), hours=self.dice.randint(0, 9))
        number = self._do("absence", who.login, until=until.isoformat())
        who.away = [Span(now, until)]
        self.undone[number] = partial(self._be_there, who, who.away[0])
        self.model.settle(who)
        return f"{who.login} is away until {until:%d %b %H:%M}"

    def gets_an_exception(self) -> str | None:
        who, now = self._somebody(), self.model.now
        if who is None:
            return None
        app = self.dice.choice(list(APPLICATIONS))
        until = now + timedelta(days=self.dice.randint(1, 12))
        made = self.client.decisions.make(
            wde.NewDecision(
                who=who.login,
                kind="grant",
                payload=wde.DecisionPayload(application=app, kind="entitlement", item=EXTRA),
                new=True,
                reason="a fair",
                ends=until.isoformat(),
            )
        )
        self._do("recheck", who.login)
        who.extras.append(Span(now, until, EXTRA, app, made.id))
        self.model.settle(who)
        return f"{who.login} gets extra in {app} until {until:%d %b %H:%M}"

    def loses_an_exception(self) -> str | None:
        now = self.model.now
        some = [(p, s) for p in self.model.people.values() for s in p.extras if s.at(now)]
        if not some:
            return None
        who, span = self.dice.choice(some)
        self.client.decisions.end(span.id)
        span.ends = now
        self.model.settle(who)
        return f"{who.login} loses extra in {span.where}"

    def is_answered(self) -> str | None:
        """Whoever is asked about a leaver says yes, or no."""
        now = self.model.now
        some = [p for p in self._known_before() if p.asks(now) == AWAITS]
        if not some:
            return None
        who, agrees = self.dice.choice(some), self.dice.random() < 0.7
        assert who.asked is not None
        (row,) = self.client.approvals.all(docket=who.asked.id)
        self.second.approvals.answer(row.id, agrees=agrees, note="said so")
        who.asked = None
        if not agrees:
            who.leaves, who.leaving_known = FOREVER, None
        self.model.settle(who)
        return f"the leaving of {who.login} is {'agreed to' if agrees else 'refused'}"

    def is_asked_about_again(self) -> str | None:
        """What nobody answered in time is planned again."""
        now = self.model.now
        some = [
            p
            for p in self.model.people.values()
            if p.asks(now) == FORGOTTEN and p.leaves <= now and not self.model.out
        ]
        if not some:
            return None
        who = self.dice.choice(some)
        assert who.asked is not None
        self.undone.pop(who.asked.id, None)  # that one was never carried out
        who.asked = None
        self._goes(who)
        self.model.settle(who)
        return f"{who.login} is planned to leave again"

    def is_hired_again(self) -> str | None:
        now = self.model.now
        some = [p for p in self._known_before() if p.leaves <= now]
        if not some:
            return None
        who = self.dice.choice(some)
        self._do("returner", who.login)
        who.leaves, who.leaving_known, who.asked = FOREVER, None, None
        today = self._midnight(0)
        who.begins, who.first_day = today.astimezone(UTC), today.date()
        for span in who.precautions:
            span.ends = min(span.ends, now)
        self.model.settle(who)
        return f"{who.login} is hired again"

    def is_undone(self) -> str | None:
        """A docket that was carried out is undone, at any later moment."""
        awaits = {p.asked.id for p in self.model.people.values() if p.asked is not None}
        some = sorted(self.undone.keys() - awaits)
        if not some:
            return None
        number = self.dice.choice(some)
        told = self.undone.pop(number)()
        if told is None:
            return None
        self._do("undo", docket=number)
        self.model.all()
        return f"docket {number} is undone: {told}"

    def _move_back(
        self,
        who: Somebody,
        way: tuple[str, str],
        overlap: Span | None,
        made: dict[str, int],
        gave: dict[str, set[str]],
    ) -> str | None:
        now, (before, to) = self.model.now, way
        late = who not in self._known_before()
        if late or who.leaves <= now or "beta" in made or self.model.out.keys() & set(made):
            return None
        if overlap is not None and overlap.at(now):
            overlap.ends = now
        if who.department == to:
            who.department = before
        if who.is_away(now) or who.is_shut(now):  # what it gave goes all the same
            for app, groups in gave.items():
                who.held[app].groups -= groups - (who.given(app, now) or set())
        for app, came in made.items():  # what it made, and nobody since, is closed at once
            there = who.held[app].state in ("active", "suspended") and who.held[app].came == came
            if there and who.given(app, now) is None and not self.model.on_hold(who, app, now):
                self.model.settle(who)
                self.model.delete(who.held[app], app)
        return f"{who.login} did not move from {before} to {to}"

    def _stay(self, who: Somebody, at: datetime) -> str | None:
        if who.leaves != at or at > self.model.now or not self._first_today(who):
            return None
        who.leaves, who.leaving_known = FOREVER, None
        return f"{who.login} did not leave"

    def _be_there(self, who: Somebody, away: Span) -> str | None:
        late = who not in self._known_before()
        if late or who.leaves <= self.model.now or away not in who.away:
            return None
        who.away = []
        return f"{who.login} was not away"

    def is_shut_for_now(self) -> str | None:
        who, now = self._somebody(), self.model.now
        if who is None or who.is_shut(now):
            return None
        self.shut[who.login] = self._do(
            "account", who.login, measure="suspend", ground="a claim", review="+30d"
        )
        who.precautions.append(Span(now))
        self.model.settle(who)
        return f"{who.login} is suspended as a precaution"

    def is_opened_again(self) -> str | None:
        now = self.model.now
        some = [p for p in self.model.people.values() if p.is_shut(now)]
        if not some:
            return None
        who = self.dice.choice(some)
        self._do("undo", docket=self.shut[who.login])
        for span in who.precautions:
            span.ends = min(span.ends, now)
        self.model.settle(who)
        return f"the precaution on {who.login} is lifted"

    def buys_a_seat(self) -> str | None:
        if self.model.bought >= 6:
            return None
        self.model.bought += 1
        self._buy(self.model.bought)
        self.model.serve()
        self.model.all()
        return f"there are {self.model.bought} seats"

    def _buy(self, bought: int) -> None:
        self.client.seats.put(wse.PutPool(application_id=SEATED, license=BERTH, bought=bought))

    def is_set_aside(self) -> str | None:
        """A seat that is free, also after those who wait, is kept for somebody for some days."""
        model = self.model
        who, spare = self._lacks_one(), model.free - len(model.kept) - len(model.line)
        if who is None or spare < 1:
            return None
        days = self.dice.randint(1, 20)
        self._set_aside(who, ends=self._midnight(days).date())
        model.asides.append(Aside(who.login, self._midnight(days + 1).astimezone(UTC)))
        model.all()
        return f"a seat is set aside for {who.login} for {days} days"

    def is_passed_on(self) -> str | None:
        """Somebody's seat goes to a named one once it is given back, and not to the line."""
        model, who = self.model, self._lacks_one()
        passed = {a.holder for a in model.asides if not a.given}
        some = [p for p in model.people.values() if p.held[SEATED].seat and p.login not in passed]
        if who is None or not some:
            return None
        holder = self.dice.choice(some)
        self._set_aside(who, holder=holder.login)
        ends = self._midnight(ASIDE.days + 1).astimezone(UTC)
        model.asides.append(Aside(who.login, ends, holder.login))
        return f"the seat of {holder.login} is passed on to {who.login}"

    def _lacks_one(self) -> Somebody | None:
        """Somebody without a seat for whom nothing is set aside yet."""
        model = self.model
        some = [
            p
            for p in model.people.values()
            if p.leaves > model.now and not p.held[SEATED].seat and model.aside_for(p.login) is None
        ]
        return self.dice.choice(some) if some else None

    def _set_aside(self, who: Somebody, **more: Any) -> None:
        pool = next(p for p in self.client.seats.all() if p.license == BERTH)
        self.client.seats.reserve(pool.id, NewReservation(reason="so", person=who.login, **more))

    def is_held(self) -> str | None:
        who, now = self._somebody(left=self.dice.random() < 0.7), self.model.now
        if who is None or any(h.at(now) for h in who.holds):
            return None
        ends = now + timedelta(days=self.dice.randint(2, 30)) if self.dice.random() < 0.5 else None
        more = {"ends": ends.isoformat()} if ends else {}
        made = self.client.decisions.make(
            wde.NewDecision(who=who.login, kind="hold", reason="a claim", **more)
        )
        who.holds.append(Span(now, ends or FOREVER, id=made.id))
        self.model.settle(who)
        return f"hold on {who.login} until {ends or 'it is ended'}"

    def is_let_go(self) -> str | None:
        now = self.model.now
        some = [(p.login, h) for p in self.model.people.values() for h in p.holds if h.at(now)]
        some += [(h.where, h) for h in self.model.holds if h.at(now)]
        if not some:
            return None
        name, hold = self.dice.choice(some)
        self.client.decisions.end(hold.id)
        hold.ends = now
        self.model.all()
        return f"the hold on {name} ends"

    def application_held(self) -> str | None:
        now, app = self.model.now, self.dice.choice(list(APPLICATIONS))
        if any(h.at(now) and h.where == app for h in self.model.holds):
            return None
        made = self.client.hold(app, reason="an audit")
        self.model.holds.append(Span(now, where=app, id=made.id))
        self.model.all()
        return f"hold on {app}"

    def is_closed_by_hand(self) -> str | None:
        """Somebody who has left is deleted before the day."""
        who, now = self._somebody(left=True), self.model.now
        if who is None:
            return None
        some = [
            a
            for a, held in who.held.items()
            if held.state == "suspended"
            and a not in self.model.out
            and not self.model.on_hold(who, a, now)
        ]
        if not some:
            return None
        app = self.dice.choice(some)
        account = next(
            a.id
            for a in self.client.people.show(who.login).accounts
            if a.application_id == app and a.state.value == "suspended"
        )
        number = self._do("account", who.login, accounts=[account], action="delete")
        for row in self.client.approvals.all(docket=number):  # where nothing can come back
            self.second.approvals.answer(row.id, agrees=True, note="seen")
        self.model.delete(who.held[app], app)
        self.model.settle(who)
        return f"{who.login} is closed in {app} by hand"

    def is_read(self) -> str | None:
        some = sorted(a for a in APPLICATIONS if self.model.out.get(a) != "down")
        app = self.dice.choice(some)
        deadline = time.monotonic() + SECONDS
        while True:
            try:
                self.client.applications.read(app)
            except ApplicationUnavailable:  # it has just been started
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.5)
            else:
                break
        self.model.read(app)
        return f"{app} is read"

    def is_changed_there(self) -> str | None:
        """Somebody changes the attribute in the application itself; a reading finds it, and it is put back."""
        who, app, now = self._somebody(), "epsilon", self.model.now
        if who is None or app in self.model.out or who.held[app].state != "active":
            return None
        often = [m for m in self.changed.get(who.login, []) if m > now - timedelta(days=1)]
        if len(often) >= 3 or who.is_away(now) or who.is_shut(now):
            return None
        self.changed[who.login] = [*often, now]
        with self.apps.directory.client().connect(timeout=5) as connection:
            entry = bonsai.LDAPEntry(f"uid={who.login},ou=people,{BASE}", connection)
            entry.change_attribute(SAYS[app], bonsai.LDAPModOp.REPLACE, "Elsewhere")  # type: ignore[arg-type]
            entry.modify()
        self.client.applications.read(app)
        self.model.read(app)
        return f"the department of {who.login} is changed in {app}"

    def goes_out(self) -> str | None:
        some = sorted(APPLICATIONS.keys() - self.model.out - {SEATED})
        if len(some) < 2:
            return None
        app = self.dice.choice(some)
        why = self.dice.choice(sorted(WAITS))
        if why == "down":
            self.apps.answer(app, answers=False)
        else:
            self.client.applications.trust(app, WATCH)
        self.model.out[app] = why
        return f"{app} is {why}"

    def line_is_accepted(self) -> str | None:
        """For somebody a line may stay, for some days; it is told again afterwards."""
        now = self.model.now
        some = [
            (p, key)
            for p in self.model.people.values()
            for key in sorted(p.since)
            if self.model.out.get(key[0]) == "watched" and not _accepted(p, key, now)
            if key
            not in self.model.unseen(p)  # the application has let it go: it may be told or not
        ]
        if not some:
            return None
        who, key = self.dice.choice(some)
        until = now + timedelta(days=self.dice.randint(1, 9))
        self.client.standing.accept(
            wst.Accept(
                who=who.login,
                application_id=key[0],
                kind=key[1],
                item=key[2],
                side=key[3],
                reason="for now",
                ends=until.isoformat(),
            )
        )
        who.accepted.append((key, Span(now, until)))
        return f"{' '.join(key)} of {who.login} may stay until {until:%d %b}"

    def comes_back(self) -> str | None:
        if not self.model.out:
            return None
        app = self.dice.choice(sorted(self.model.out))
        self._back(app)
        return f"{app} is as it was"

    def _back(self, app: str) -> None:
        why = self.model.out.pop(app)
        if why == "down":
            self.apps.answer(app, answers=True)
            self._try_again(app)
        else:
            self.client.applications.trust(app, FULL)
            if self.model.people:
                self._do("recheck", *self.model.people)
        self.model.all()

    def _try_again(self, app: str) -> None:
        """What waits for its next try is tried now: nobody here waits a minute for it."""
        for row in self.client.dockets.all(state="running"):
            for step in self.client.dockets.show(row.number).steps:
                waits = step.problem is not None and step.state in ("due", "attention", "settling")
                if waits and step.application_id == app:
                    with suppress(Conflict):
                        self.client.dockets.settle(step.id, RETRY)

    def time_passes(self) -> str:
        step = timedelta(days=self.dice.randint(0, 9), hours=self.dice.randint(1, 23))
        to = self.model.now + step
        advance(self.client, to.isoformat())
        self.model.forward(to)
        return f"it is {to:%d %b %Y %H:%M}"

    # --- looking -----------------------------------------------------------------------------

    def compare(self) -> None:
        """Wait until everything is as the model has it; else say what is not."""
        deadline = time.monotonic() + SECONDS
        while True:
            wrong = list(self._differences())
            if not wrong:
                return
            if time.monotonic() > deadline:
                named = dict.fromkeys(w.split()[0] for w in wrong)
                known = [f"{n}: {self.model.people.get(n)}" for n in named]
                raise Differs("\n".join((*wrong[:6], *known, *self._stuck())))
            time.sleep(0.1)

    def _stuck(self) -> Iterator[str]:
        """What open steps wait for, as their dockets say it."""
        for row in self.client.dockets.all(state="running"):
            for step in self.client.dockets.show(row.number).steps:
                if step.problem is not None and step.state != "done":
                    name = f"{row.number} {step.application_id} {step.action}"
                    yield f"{name}: {step.state}, {step.problem.code}: {step.problem.text}"

    def _differences(self) -> Iterator[str]:
        now = self.model.now
        if self.client.clock.show().now != now:
            yield f"it is not {now}"
        for app in sorted(APPLICATIONS.keys() - self.model.out.keys()):
            yield from self._held_otherwise(app)
        rows: dict[str, list[wst.StandingRow]] = {}
        for row in self.client.standing.all():
            rows.setdefault(row.user_name, []).append(row)
        for who in self.model.people.values():
            yield from self._told_otherwise(who, rows.get(who.login, []))
        if self.model.people:
            who = self.looks.choice(list(self.model.people.values()))
            yield from self._told_otherwise(who, self.client.people.show(who.login).standing)

    def _held_otherwise(self, app: str) -> Iterator[str]:
        truth = self.apps.truth(app)
        for who in self.model.people.values():
            held, found = who.held[app], truth.get(who.login, Held("gone"))
            self.compared += 1
            if found.state != held.state.replace("none", "gone"):
                yield f"{who.login} in {app}: {found.state}, not {held}"
            elif found.state in ("active", "suspended") and found.groups != held.groups:
                yield f"{who.login} in {app}: {sorted(found.groups)}, not {sorted(held.groups)}"
            elif found.state in ("active", "suspended") and found.seat != held.seat:
                yield f"{who.login} in {app}: a seat {found.seat}, not {held.seat}"
            elif found.state in ("active", "suspended") and app in SAYS and found.says != held.says:
                yield f"{who.login} in {app}: says {found.says}, not {held.says}"
            elif found.until is not None and found.until != held.until:
                yield f"{who.login} in {app}: until {found.until}, not {held.until}"

    def _told_otherwise(self, who: Somebody, rows: list[wst.StandingRow]) -> Iterator[str]:
        told = {(r.application_id, r.kind.value, r.item, r.side.value): r for r in rows}
        self.compared += 1
        for key in sorted((told.keys() ^ who.since.keys()) - self.model.unseen(who)):
            row = told.get(key)
            yield f"{who.login} {key}: " + (f"is told {row}" if row else "is not told")
        for key in told.keys() & who.since.keys():
            row, since = told[key], who.since[key]
            self.compared += 3
            accepted = _accepted(who, key, self.model.now)
            waits = self._waits(who, key)
            status = "accepted" if accepted else "waiting" if waits else "finding"
            if row.status.value != status:
                yield f"{who.login} {key}: is {row.status} ({row.code})"
            elif not accepted and waits and row.code not in waits:
                yield f"{who.login} {key}: waits for {row.code}"
            elif key[0] and row.contact != APPLICATIONS[key[0]].contact:
                yield f"{who.login} {key}: is a matter of {row.contact}"
            elif key[1] == "seat" and row.since == who.either:
                continue
            elif row.since != since and key[1] != "step":  # that is since its docket
                yield f"{who.login} {key}: since {row.since}, not {since}"

    def _waits(self, who: Somebody, key: Key) -> set[str]:
        """What a line may wait for; nothing, where nobody is at it."""
        now = self.model.now
        if key == LEAVER:
            return {"approval"} if who.asks(now) == AWAITS else set()
        if key == (SEATED, "seat", BERTH, "missing"):
            return {"seat"}
        held = key[2] == "closing" and self.model.on_hold(who, key[0], self.model.now)
        if who.only_secured(now) and key[1:] != ("account", "", "too_much"):
            if who.asks(now) == AWAITS:
                return {"approval"}
            watched = {"trust"} if self.model.out.get(key[0]) == "watched" else set()
            return watched | ({"hold"} if held else set())
        return WAITS.get(self.model.out.get(key[0], ""), set()) | ({"hold"} if held else set())


def _accepted(who: Somebody, key: Key, at: datetime) -> bool:
    return any(k == key and s.at(at) for k, s in who.accepted)


@click.command()
@click.option("--seed", type=int, default=1)
@click.option("--events", type=int, default=300)
def main(seed: int, events: int) -> None:
    """Play events; the first difference ends it."""
    machine = Machine(seed)
    began = time.monotonic()
    try:
        number = 0
        while len(machine.done) < events:
            number += 1
            machine.play(number)
        machine.finish()
    except Differs as error:
        click.echo(f"DIFFERS: {error}")
        sys.exit(1)
    finally:
        machine.close()
    took = time.monotonic() - began
    click.echo(", ".join(f"{name} {n}" for name, n in machine.kinds.most_common()))
    click.echo(
        f"{len(machine.done)} events, {machine.compared} comparisons, 0 differences, {took:.0f} s"
    )


if __name__ == "__main__":
    main()
