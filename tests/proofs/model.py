"""A model of what docs/guide/standing.md promises, held against the applications after every event.

    python -m tests.proofs.model --seed 1 --events 300

It imports nothing of ``yugum.core``: what should be is worked out here from the guide, what is held is
asked from the applications, and the lines of the standing difference are compared with both.
"""

from __future__ import annotations

import random
import shutil
import sys
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import click
import httpx

from tests.conftest import FAST, NOW, scratch
from yugum.client import Client
from yugum.errors import Conflict
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire.dockets import SettleStep
from yugum_standins.load import advance, found
from yugum_standins.stage import Stage

ZONE = "Europe/London"
CLOSE = {"alpha": 7, "beta": 3, "gamma": 10}
WINDOW = {"alpha": 30, "beta": 14, "gamma": 0}
"""Days; in gamma a deletion is final."""
GIVES = {
    "Deck": {"alpha": {"deck"}, "beta": {"ropes"}},
    "Shore": {"alpha": {"shore"}, "gamma": {"desk"}},
    "Yard": {"beta": {"tools"}, "gamma": {"crane"}},
}
OVERLAP = {"Deck": 5, "Shore": 0, "Yard": 0}
RULES = "roles:\n" + "".join(
    f'  {name}:\n    when: department eq "{name}"\n    overlap_days: {OVERLAP[name]}\n    gives:\n'
    + "".join(
        f"      - application: {app}\n        entitlements: [{', '.join(sorted(groups))}]\n"
        for app, groups in gives.items()
    )
    for name, gives in GIVES.items()
)
GROUPS = ["deck", "ropes", "shore", "desk", "tools", "crane", "extra"]
RETRY = SettleStep(how="retry").how
SECONDS = 25.0
FOREVER = datetime.max.replace(tzinfo=UTC)


class Differs(Exception):
    """Yugum, or an application, is not as the guide says."""


def days_later(moment: datetime, days: int) -> datetime:
    """So many calendar days later, at the same time of the day in the person's zone."""
    there = moment.astimezone(ZoneInfo(ZONE)).replace(tzinfo=None, fold=0)
    return (there + timedelta(days=days)).replace(tzinfo=ZoneInfo(ZONE)).astimezone(UTC)


@dataclass(slots=True)
class Span:
    """Something that is in force from a moment until another."""

    begins: datetime
    ends: datetime = FOREVER
    item: str = ""
    where: str = ""
    id: str = ""

    def at(self, moment: datetime) -> bool:
        return self.begins <= moment < self.ends


@dataclass(slots=True)
class Held:
    """An account as its application should have it; ``ended`` since when nothing gives it."""

    state: str = "none"
    groups: set[str] = field(default_factory=set)
    until: datetime | None = None
    ended: datetime | None = None
    known: datetime | None = None
    restored: datetime | None = None


@dataclass(slots=True)
class Somebody:
    login: str
    department: str
    leaves: datetime = FOREVER
    leaving_known: datetime | None = None
    away: list[Span] = field(default_factory=list)
    roles: list[Span] = field(default_factory=list)
    extras: list[Span] = field(default_factory=list)
    holds: list[Span] = field(default_factory=list)
    held: dict[str, Held] = field(default_factory=dict)

    def given(self, app: str, at: datetime) -> set[str] | None:
        """The groups that roles and exceptions give in an application; None for no account."""
        if at >= self.leaves:
            return None
        names = {self.department} | {s.item for s in self.roles if s.at(at)}
        groups = [GIVES[n][app] for n in names if app in GIVES[n]]
        groups += [{s.item} for s in self.extras if s.where == app and s.at(at)]
        return set().union(*groups) if groups else None

    def moments(self) -> list[datetime]:
        spans = [*self.away, *self.roles, *self.extras, *self.holds]
        return [self.leaves, *(s.begins for s in spans), *(s.ends for s in spans)]


class Model:
    """What the guide promises, played forward."""

    def __init__(self, now: datetime) -> None:
        self.now = now
        self.people: dict[str, Somebody] = {}
        self.holds: list[Span] = []
        self.down: set[str] = set()

    def close_due(self, who: Somebody, app: str, at: datetime) -> datetime | None:
        """When the account is closed, if nothing gives it; None under a hold without end."""
        held = who.held[app]
        left = at >= who.leaves
        ended = who.leaves if left else held.ended
        if ended is None:
            return None
        known = who.leaving_known if left else held.known
        start = max(ended, held.restored) if held.restored else ended
        due = days_later(start, CLOSE[app])
        if known is not None and known > start:
            due = max(due, known + timedelta(hours=24))
        holds = [*who.holds, *(h for h in self.holds if h.where == app)]
        for hold in sorted(holds, key=lambda h: h.ends):
            if hold.at(due):
                due = hold.ends
        if due <= at:
            for hold in sorted(holds, key=lambda h: h.ends):
                if hold.at(at):
                    due = max(due, hold.ends)
        return None if due == FOREVER else due

    def on_hold(self, who: Somebody, app: str, at: datetime) -> bool:
        return any(h.at(at) for h in [*who.holds, *(h for h in self.holds if h.where == app)])

    def settle(self, who: Somebody, at: datetime, known: datetime | None = None) -> None:
        """What becomes of somebody's accounts at a moment, in the applications that answer."""
        for app in CLOSE:
            held = who.held.setdefault(app, Held())
            given = who.given(app, at)
            if given is None and held.ended is None and held.state != "none":
                held.ended, held.known = known or at, at if known else None
            if given is not None:
                held.ended = held.known = None
            if app not in self.down:
                self._act(who, app, held, given, at)

    def _act(
        self, who: Somebody, app: str, held: Held, given: set[str] | None, at: datetime
    ) -> None:
        """What an application that answers makes of it."""
        if held.state == "deleted":
            self._of_deleted(who, app, held, at)
        if given is None:
            self._withdraw(who, app, held, at)
        elif any(s.at(at) for s in who.away):
            held.state = "suspended" if held.state == "active" else held.state
        else:
            if held.state == "deleted":
                held.restored = at
            if held.state in ("none", "gone"):
                held.restored = None
            held.state, held.until, held.groups = "active", None, set(given)

    def _of_deleted(self, who: Somebody, app: str, held: Held, at: datetime) -> None:
        assert held.until is not None
        if at >= held.until:
            held.state, held.until, held.restored = "gone", None, None
        elif self.on_hold(who, app, at):
            held.state, held.until, held.restored = "suspended", None, at

    def _withdraw(self, who: Somebody, app: str, held: Held, at: datetime) -> None:
        if held.state not in ("active", "suspended"):
            return
        held.state, held.groups = "suspended", set()
        due = self.close_due(who, app, at)
        if due is not None and due <= at:
            held.until = at + timedelta(days=WINDOW[app]) if WINDOW[app] else None
            held.state = "deleted" if WINDOW[app] else "gone"

    def forward(self, to: datetime) -> None:
        """Play all moments until one, that one included."""
        while True:
            ahead = [m for p in self.people.values() for m in self._ahead(p)]
            ahead += [m for h in self.holds for m in (h.begins, h.ends)]
            following = min((m for m in ahead if self.now < m <= to), default=None)
            if following is None:
                break
            self.now = following
            for person in self.people.values():
                self.settle(person, following)
        self.now = to

    def _ahead(self, who: Somebody) -> list[datetime]:
        found = who.moments()
        for app, held in who.held.items():
            if held.until is not None:
                found.append(held.until)
            if held.state == "suspended" and who.given(app, self.now) is None:
                due = self.close_due(who, app, self.now)
                found += [due] if due is not None else []
        return found

    def lines(self, who: Somebody) -> set[tuple[str, str, str]]:
        """What should be otherwise in applications that do not answer: kind and side."""
        return {(app, kind, side) for app in self.down for kind, side in self._lines_in(who, app)}

    def _lines_in(self, who: Somebody, app: str) -> Iterator[tuple[str, str]]:
        held, given = who.held[app], who.given(app, self.now)
        there = held.state in ("active", "suspended")
        if given is None:
            due = self.close_due(who, app, self.now)
            ends = held.until if held.state == "deleted" else due
            over = ends is not None and ends <= self.now and held.state not in ("none", "gone")
            if held.state == "active" or over:
                yield "account", "too_much"
            if there and held.groups:
                yield "entitlement", "too_much"
        elif any(s.at(self.now) for s in who.away):
            if held.state == "active":
                yield "account", "too_much"
        else:
            if held.state != "active":
                yield "account", "missing"
                yield "step", "asked"  # the credential that comes with it
            if given - (held.groups if there else set()):
                yield "entitlement", "missing"
            if there and held.groups - given:
                yield "entitlement", "too_much"


class Machine:
    """The stage, random events on it, and the comparison after each."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.folder = scratch()
        self.stage = Stage(self.folder, settings=FAST)
        self.stage.database()
        self.apps = {
            name: self.stage.standin(
                name, {"groups": GROUPS, "users": []}, traits={"window_days": WINDOW[name]}
            )
            for name in CLOSE
        }
        token = found(self.stage, NOW)
        self.stage.serve(0)
        self.stage.worker("w", {"YUGUM_RETRY_BASE_SECONDS": "0.1"})
        self.client = Client(self.stage.url, token)
        for name, app in self.apps.items():
            profile: dict[str, Any] = {
                "window_days": WINDOW[name],
                "close_after_days": CLOSE[name],
            }
            if not WINDOW[name]:
                profile["deletion"] = "final"
            self.client.applications.connect(
                wap.ConnectApplication(
                    id=name,
                    name=name,
                    kind="scim",
                    trust="full",
                    url=f"{app['url']}/scim/v2",
                    secret=app["token"],
                    profile=wap.ProfileDocument(**profile),
                )
            )
        self.client.rules.adopt(RULES)
        self.model = Model(self.client.clock.show().now)
        self.done: list[str] = []
        self.compared = 0
        self.kinds: Counter[str] = Counter()

    def close(self) -> None:
        self.client.close()
        self.stage.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    # --- events ------------------------------------------------------------------------------

    def play(self, number: int) -> None:
        events = {
            "joins": 6 if len(self.model.people) < 14 else 0,
            "moves": 5,
            "moved_long_ago": 2,
            "leaves": 3,
            "is_away": 3,
            "gets_an_exception": 4,
            "loses_an_exception": 2,
            "is_held": 2,
            "is_let_go": 3,
            "application_held": 1,
            "goes_down": 3,
            "comes_up": 5 if self.model.down else 0,
            "time_passes": 9,
        }
        name = self.dice.choices(list(events), list(events.values()))[0]
        told = getattr(self, name)()
        if told is None:
            return
        self.kinds[name] += 1
        self.done.append(f"{number}: {told}")
        click.echo(self.done[-1])
        self.compare()

    def _somebody(self, *, left: bool = False) -> Somebody | None:
        now = self.model.now
        some = [p for p in self.model.people.values() if (p.leaves <= now) is left]
        return self.dice.choice(some) if some else None

    def _confirm(self, verb: str, who: str, **more: Any) -> None:
        batch = self.client.plans.make(wl.NewPlan(verb=verb, who=[who], **more))
        if batch.plans[0].steps or more or verb != "recheck":
            self.client.plans.confirm(batch, typed=f"purge {len(batch.plans)}")

    def joins(self) -> str:
        login = f"person{len(self.model.people)}"
        department = self.dice.choice(list(GIVES))
        self.client.people.create(
            [wp.NewPerson(user_name=login, department=department, time_zone=ZONE)]
        )
        self._confirm("joiner", login)
        made = self.model.people[login] = Somebody(login, department)
        self.model.settle(made, self.model.now)
        return f"{login} joins {department}"

    def moves(self) -> str | None:
        who = self._somebody()
        if who is None or who.leaves < FOREVER:
            return None
        to = self.dice.choice([d for d in GIVES if d != who.department])
        self._confirm("mover", who.login, changes={"department": to})
        now = self.model.now
        if days := OVERLAP[who.department]:
            who.roles.append(Span(now, days_later(now, days), who.department))
        who.department = to
        self.model.settle(who, now)
        return f"{who.login} moves to {to}"

    def moved_long_ago(self) -> str | None:
        who = self._somebody()
        if who is None or who.leaves < FOREVER or OVERLAP[who.department]:
            return None
        now = self.model.now
        then = now - timedelta(days=self.dice.randint(1, 40))
        to = self.dice.choice([d for d in GIVES if d != who.department])
        self._confirm("mover", who.login, changes={"department": to}, since=then.isoformat())
        who.department = to
        self.model.settle(who, now, then)
        return f"{who.login} moved to {to} on {then:%d %b}, as is known now"

    def leaves(self) -> str | None:
        who = self._somebody()
        if who is None or who.leaves < FOREVER:
            return None
        now = self.model.now
        at = now
        if self.dice.random() < 0.5:
            day = (now + timedelta(days=self.dice.randint(1, 20))).astimezone(ZoneInfo(ZONE))
            at = datetime.combine(day.date(), datetime.min.time(), ZoneInfo(ZONE))
            at = at.replace(hour=17).astimezone(UTC)
            self._confirm("leaver", who.login, at=f"{day:%Y-%m-%d}")
        else:
            self._confirm("leaver", who.login)
        who.leaves, who.leaving_known = at, now
        self.model.settle(who, now)
        return f"{who.login} leaves at {at:%d %b %H:%M}"

    def is_away(self) -> str | None:
        who = self._somebody()
        now = self.model.now
        if who is None or who.leaves < FOREVER or any(s.at(now) for s in who.away):
            return None
        until = now + timedelta(days=self.dice.randint(1, 15), hours=self.dice.randint(0, 9))
        self._confirm("absence", who.login, until=until.isoformat())
        who.away = [Span(now, until)]
        self.model.settle(who, now)
        return f"{who.login} is away until {until:%d %b %H:%M}"

    def gets_an_exception(self) -> str | None:
        who = self._somebody()
        if who is None or who.leaves < FOREVER:
            return None
        now, app = self.model.now, self.dice.choice(list(CLOSE))
        until = now + timedelta(days=self.dice.randint(1, 12))
        made = self.client.decisions.make(
            wde.NewDecision(
                who=who.login,
                kind="grant",
                payload=wde.DecisionPayload(application=app, kind="entitlement", item="extra"),
                reason="a fair",
                ends=until.isoformat(),
            )
        )
        self._confirm("recheck", who.login)
        who.extras.append(Span(now, until, "extra", app, made.id))
        self.model.settle(who, now)
        return f"{who.login} gets extra in {app} until {until:%d %b %H:%M}"

    def loses_an_exception(self) -> str | None:
        now = self.model.now
        some = [(p, s) for p in self.model.people.values() for s in p.extras if s.at(now)]
        if not some:
            return None
        who, span = self.dice.choice(some)
        self.client.decisions.end(span.id)
        span.ends = now
        self.model.settle(who, now)
        return f"{who.login} loses extra in {span.where}"

    def is_held(self) -> str | None:
        who = self._somebody(left=self.dice.random() < 0.7)
        now = self.model.now
        if who is None or any(h.at(now) for h in who.holds):
            return None
        ends = now + timedelta(days=self.dice.randint(2, 30)) if self.dice.random() < 0.5 else None
        more = {"ends": ends.isoformat()} if ends else {}
        made = self.client.decisions.make(
            wde.NewDecision(who=who.login, kind="hold", reason="a claim", **more)
        )
        who.holds.append(Span(now, ends or FOREVER, id=made.id))
        self.model.settle(who, now)
        return f"hold on {who.login} until {ends or 'it is ended'}"

    def is_let_go(self) -> str | None:
        now = self.model.now
        some = [h for p in self.model.people.values() for h in p.holds if h.at(now)]
        some += [h for h in self.model.holds if h.at(now)]
        if not some:
            return None
        hold = self.dice.choice(some)
        self.client.decisions.end(hold.id)
        hold.ends = now
        for person in self.model.people.values():
            self.model.settle(person, now)
        return "a hold ends"

    def application_held(self) -> str | None:
        now, app = self.model.now, self.dice.choice(list(CLOSE))
        if any(h.at(now) and h.where == app for h in self.model.holds):
            return None
        made = self.client.hold(app, reason="an audit")
        self.model.holds.append(Span(now, where=app, id=made.id))
        for person in self.model.people.values():
            self.model.settle(person, now)
        return f"hold on {app}"

    def _fault(self, app: str, *, down: bool) -> None:
        reach = self.apps[app]
        httpx.put(
            f"{reach['url']}/panel/faults", json={"down": int(down)}, headers=reach["headers"]
        )

    def goes_down(self) -> str | None:
        up = sorted(set(CLOSE) - self.model.down)
        if not up:
            return None
        app = self.dice.choice(up)
        self._fault(app, down=True)
        self.model.down.add(app)
        return f"{app} goes down"

    def comes_up(self) -> str:
        app = self.dice.choice(sorted(self.model.down))
        self._fault(app, down=False)
        self.model.down.discard(app)
        self._try_again()
        for person in self.model.people.values():
            self.model.settle(person, self.model.now)
        return f"{app} answers again"

    def _try_again(self) -> None:
        """What waits for its next try is tried now: nobody here waits a minute for it."""
        for row in self.client.dockets.all(state="running"):
            for step in self.client.dockets.show(row.number).steps:
                if step.problem is not None and step.state in ("due", "attention", "settling"):
                    with suppress(Conflict):
                        self.client.dockets.settle(step.id, RETRY)

    def time_passes(self) -> str:
        step = timedelta(days=self.dice.randint(0, 9), hours=self.dice.randint(1, 23))
        to = self.model.now + step
        advance(self.client, to.isoformat())
        self.model.forward(to)
        return f"it is {to:%d %b %Y %H:%M}"

    # --- looking -----------------------------------------------------------------------------

    def _truth(self, app: str, login: str) -> tuple[str, set[str], datetime | None]:
        """What the application itself says of an account: its state, its groups, until when."""
        reach = self.apps[app]
        for path in ("Users", "DeletedUsers"):
            if path == "DeletedUsers" and not WINDOW[app]:
                break
            reply = httpx.get(
                f"{reach['url']}/scim/v2/{path}",
                params={"filter": f'userName eq "{login}"'},
                headers=reach["headers"],
            )
            for user in reply.json().get("Resources", []):
                groups = {g["display"] for g in user.get("groups", [])}
                if path == "DeletedUsers":
                    return "deleted", groups, datetime.fromisoformat(user["recoverableUntil"])
                return ("active" if user["active"] else "suspended"), groups, None
        return "gone", set(), None

    def compare(self) -> None:
        """Wait until everything is as the model has it; else say what is not."""
        deadline = time.monotonic() + SECONDS
        while True:
            wrong = list(self._differences())
            if not wrong:
                return
            if time.monotonic() > deadline:
                raise Differs("\n".join(wrong[:6]))
            time.sleep(0.15)

    def _differences(self) -> Iterator[str]:
        now = self.model.now
        if self.client.clock.show().now != now:
            yield f"it is not {now}"
        for who in self.model.people.values():
            for app in CLOSE.keys() - self.model.down:
                held = who.held[app]
                state, groups, until = self._truth(app, who.login)
                self.compared += 1
                if state != held.state.replace("none", "gone"):
                    yield f"{who.login} in {app}: {state}, not {held.state} ({held})"
                elif state in ("active", "suspended") and groups != held.groups:
                    yield f"{who.login} in {app}: {sorted(groups)}, not {sorted(held.groups)}"
                elif until is not None and held.until is not None and until != held.until:
                    yield f"{who.login} in {app}: until {until}, not {held.until}"
            rows = self.client.people.show(who.login).standing
            found = {(r.application_id, r.kind.value, r.side.value) for r in rows}
            self.compared += len(rows) + 1
            if found != (wanted := self.model.lines(who)):
                yield f"lines of {who.login}: {sorted(found)}, not {sorted(wanted)}"
            idle = [r for r in rows if r.status.value not in ("waiting", "running")]
            if idle:
                yield f"{who.login}: nobody is at {idle[0].kind} {idle[0].item} {idle[0].side}"
            late = [r for r in rows if r.since > now]
            if late:
                yield f"{who.login}: {late[0].item} since {late[0].since}, which is to come"


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
        for app in sorted(machine.model.down):
            machine._fault(app, down=False)
        machine.model.down.clear()
        machine._try_again()
        for person in machine.model.people.values():
            machine.model.settle(person, machine.model.now)
        machine.compare()
    except Differs as error:
        click.echo(f"DIFFERS: {error}")
        sys.exit(1)
    finally:
        machine.close()
    took = time.monotonic() - began
    click.echo(
        f"{len(machine.done)} events, {machine.compared} comparisons, 0 differences, {took:.0f} s"
    )


if __name__ == "__main__":
    main()
