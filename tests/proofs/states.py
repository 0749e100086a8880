"""A machine that does anything to accounts in any order, on real processes, and looks for harm.

    python -m tests.proofs.states --seed 1 --steps 40

After each thing done it asks the applications themselves. What must never be: something lost before
its time, something purged under a hold, an account shown otherwise than its application has it, an
account opened that somebody closed.
"""

from __future__ import annotations

import random
import shutil
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import click
import httpx
import psycopg

from tests.conftest import FAST, NOW, scratch
from tests.proofs.reasons import without_reason
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.dockets import Settlement
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict, YugumError
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.directory import person_entry
from yugum_standins.load import advance, found
from yugum_standins.look import DirectoryLook
from yugum_standins.stage import Stage, run_sql

PEOPLE = 5
SCIM: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "long": ({"window_days": 30, "archive": True}, {"window_days": 30, "close_after_days": 7}),
    "short": (
        {"window_days": 14, "seats_return": True},
        {"window_days": 14, "close_after_days": 3, "seat_at_restore": "returned"},
    ),
    "final": ({"window_days": 0}, {"deletion": "final", "window_days": 0, "close_after_days": 10}),
}
PARKED: dict[str, dict[str, Any]] = {
    "database": {"deletion": "park", "window_days": 20, "close_after_days": 5},
    "directory": {
        "deletion": "park",
        "window_days": 25,
        "close_after_days": 4,
        "leaver_settings": {"container": "leavers", "mark": "Has left: {date}"},
        "standard_settings": {"container": "people", "mark": ""},
    },
    "mail": {
        "deletion": "park",
        "window_days": 15,
        "close_after_days": 9,
        "leaver_settings": {"reply": "{name} has left."},
        "standard_settings": {"reply": ""},
        "leaver_setting_days": {"reply": 6},
    },
}
"""What parks: PostgreSQL, LDAP and Dovecot, all of them real."""
WINDOWS = {name: profile["window_days"] for name, (_, profile) in SCIM.items()} | {
    name: profile["window_days"] for name, profile in PARKED.items()
}
RULES = "roles:\n  All:\n    when: userName pr\n    gives:\n" + "".join(
    f"      - application: {name}\n" for name in WINDOWS
)


class Harm(Exception):
    """Something that must never be."""


@dataclass(slots=True)
class Kept:
    """What the machine remembers of one account."""

    state: str = ""
    until: datetime | None = None
    closed_by_hand: bool = False
    may_be_purged: bool = False


def _parked(is_open: bool, mark: str) -> tuple[str, datetime | None]:
    if is_open:
        return "active", None
    if "parked until " in mark:
        return "deleted", datetime.fromisoformat(mark.split("parked until ")[1].split()[0])
    return "suspended", None


class Machine:
    """The stage, what may be done, and what must hold after each thing done."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.folder = scratch()
        self.stage = Stage(self.folder, settings=FAST)
        self.stage.database()
        cluster = self.stage.cluster("reporting", {})
        self.database = cluster.url()
        names = [f"person{n}" for n in range(PEOPLE)]
        run_sql(self.database, [f'CREATE ROLE "{n}" LOGIN' for n in names])
        self.apps: dict[str, dict[str, Any]] = {}
        for name, (traits, _) in SCIM.items():
            users = [{"userName": n, "sessions": 1} for n in names]
            self.apps[name] = self.stage.standin(name, {"users": users}, traits=traits)
        directory = self.stage.directory(lambda: [person_entry(n, "", n, "") for n in names])
        self.directory = DirectoryLook(directory)
        self.mail = self.stage.mail_store([(n, n) for n in names], "states.example")
        token = found(self.stage, NOW)
        self.stage.serve(0)
        self.stage.worker("w", {"YUGUM_RETRY_BASE_SECONDS": "0.1"})
        self.client = Client(self.stage.url, token)
        self.client.people.create([wp.NewPerson(user_name=n, family_name=n) for n in names])
        for name, (_, profile) in SCIM.items():
            app = self.apps[name]
            self._connect(name, "scim", profile, url=f"{app['url']}/scim/v2", secret=app["token"])
        self._connect("database", "postgres", PARKED["database"], secret=self.database)
        self._connect(
            "directory",
            "ldap",
            PARKED["directory"],
            url=directory.url,
            secret=directory.password,
            options=directory.options,
        )
        self._connect(
            "mail",
            "dovecot",
            PARKED["mail"],
            url=self.mail.doveadm,
            secret=self.mail.secret,
            options=self.mail.options,
        )
        self.client.rules.adopt(RULES)
        for name in WINDOWS:
            self.client.applications.read(name)
        self.names = names
        self.kept: dict[tuple[str, str], Kept] = {}
        self.holds: dict[str, str] = {}
        self.done: list[str] = []
        self.looked = NOW
        self.look()

    def _connect(self, name: str, kind: str, profile: dict[str, Any], **more: Any) -> None:
        self.client.applications.connect(
            wap.ConnectApplication(
                id=name,
                name=name,
                kind=kind,
                trust=Trust.FULL,
                profile=wap.ProfileDocument(**profile),
                **more,
            )
        )

    def close(self) -> None:
        self.client.close()
        self.stage.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    # --- looking -----------------------------------------------------------------------------

    def truth(self, name: str, login: str) -> tuple[str, datetime | None]:
        """The state of an account as its application has it."""
        others = {
            "database": self._in_database,
            "directory": self._in_directory,
            "mail": self._in_mail,
        }
        if name in others:
            return others[name](login)
        app = self.apps[name]
        for path in ("Users", "DeletedUsers"):
            if path == "DeletedUsers" and name == "final":
                break
            reply = httpx.get(
                f"{app['url']}/scim/v2/{path}",
                params={"filter": f'userName eq "{login}"'},
                headers=app["headers"],
            )
            for user in reply.json().get("Resources", []):
                if user["userName"] != login:
                    continue
                if path == "DeletedUsers":
                    return "deleted", datetime.fromisoformat(user["recoverableUntil"])
                more = user.get("urn:yugum:scim:schemas:1.0:Account", {})
                if user["active"]:
                    return "active", None
                return ("archived" if more.get("archived") else "suspended"), None
        return "purged", None

    def _in_database(self, login: str) -> tuple[str, datetime | None]:
        with psycopg.connect(self.database) as connection:
            row = connection.execute(
                "SELECT rolcanlogin, coalesce(shobj_description(oid, 'pg_authid'), '')"
                " FROM pg_roles WHERE rolname = %s",
                (login,),
            ).fetchone()
        return ("purged", None) if row is None else _parked(row[0], row[1])

    def _in_directory(self, login: str) -> tuple[str, datetime | None]:
        entry = self.directory.entry(login)
        if not entry:
            return "purged", None
        mark = " ".join(str(d) for d in entry.get("description", []))
        return _parked("pwdAccountLockedTime" not in entry, mark)

    def _in_mail(self, login: str) -> tuple[str, datetime | None]:
        with psycopg.connect(self.mail.url) as connection:
            query = "SELECT state, parked_until FROM mailboxes WHERE login = %s"
            row = connection.execute(query, (login,)).fetchone()
        if row is None:
            return "purged", None
        return ("deleted", row[1]) if row[0] == "parked" else (row[0], None)

    def settle(self) -> None:
        """Faults away, and wait until nothing runs any more."""
        for app in self.apps.values():
            httpx.put(
                f"{app['url']}/panel/faults",
                json={"error_rate": 0, "lose_reply_rate": 0, "drop_rate": 0},
                headers=app["headers"],
            )
        deadline = time.monotonic() + 40
        quiet = 0
        while time.monotonic() < deadline:
            at_rest = self.client.standing.behind().ahead == 0
            quiet = (
                quiet + 1 if at_rest and not self.client.dockets.page(state="running").items else 0
            )
            if quiet == 4:  # what has just changed is looked at within a second
                return
            for docket in self.client.dockets.page(state="running").items:
                for step in self.client.dockets.show(docket.number).steps:
                    if step.state == "attention":
                        with suppress(YugumError):
                            self.client.dockets.settle(step.id, Settlement.RETRY)
            time.sleep(0.1)
        running = self.client.dockets.page(state="running").items
        steps = [s for d in running for s in self.client.dockets.show(d.number).steps]
        stuck = [
            (s.application_id, s.action, s.state, s.problem) for s in steps if s.state != "done"
        ]
        raise Harm(f"dockets do not come to an end: {stuck[:3]}")

    def look(self) -> None:  # noqa: C901, PLR0912 - a case for each kind of step
        """Compare what Yugum shows with what the applications have, and with what may be."""
        now = self.client.clock.show().now
        for login in self.names:
            shown: dict[str, str] = {}
            person = self.client.people.show(login)
            for seat in without_reason(self.client, login):
                raise Harm(f"nothing gives {seat}, and nothing is said of it")
            lines = {
                (r.application_id, r.side.value)
                for r in person.standing
                if r.kind == "account" and not r.item
            }
            for account in person.accounts:
                if shown.get(account.application_id, "purged") == "purged":
                    shown[account.application_id] = account.state
            for name in list(WINDOWS):
                state, until = self.truth(name, login)
                kept = self.kept.setdefault((name, login), Kept())
                where = f"{login} in {name}"
                if shown.get(name, "purged") != state:
                    raise Harm(
                        f"{where} is shown as {shown.get(name)}, the application has {state}"
                    )
                if (state == "active") != ((name, "too_much") in lines) and person.state == "left":
                    raise Harm(f"{where} is {state}, the standing difference says {sorted(lines)}")
                if state == "active" and (name, "missing") in lines:
                    raise Harm(f"{where} is there and said to be missing")
                held = bool({login, name} & self.holds.keys())
                if state == "purged" and kept.state not in ("", "purged"):
                    if held:
                        raise Harm(f"{where} was purged under a hold")
                    early = kept.until is None or now < kept.until
                    if early and not kept.may_be_purged and name != "final":
                        raise Harm(f"{where} was lost before {kept.until}")
                if state == "deleted" and held:
                    raise Harm(f"{where} is deleted under a hold, and was not brought back")
                if state == "active" and kept.closed_by_hand:
                    raise Harm(f"{where} was opened, though somebody had closed it")
                if state == "deleted" and kept.state != "deleted":
                    window = timedelta(days=WINDOWS[name])
                    if until is None or until < self.looked + window:
                        raise Harm(f"{where} can come back until {until} only")
                kept.state, kept.until = state, until if state == "deleted" else kept.until
                if state not in ("deleted", "purged"):
                    kept.until = None
        self.looked = now

    # --- doing -------------------------------------------------------------------------------

    def step(self) -> None:
        """Do one thing of those that can be done, and look."""
        choice = self.dice.choices(
            (self.quick, self.leave, self.come_back, self.hold, self.pass_time, self.both),
            (8, 3, 3, 3, 4, 1),
        )[0]
        if self.dice.random() < 0.25:
            self.fault()
        try:
            choice()
        except YugumError as error:
            self.done.append(f"  refused: {error.message}")
        self.settle()
        if self.holds:  # what is deleted already is brought back at the next due moment
            advance(self.client, "+1h")
            self.settle()
        self.look()

    def _accounts(self, login: str) -> dict[str, Any]:
        rows = self.client.accounts.all(who=login)
        return {a.application_id: a for a in rows if a.state != "purged"}

    def quick(self) -> None:
        what = self.dice.choice(list(Quick))
        login, name = self.dice.choice(self.names), self.dice.choice(list(WINDOWS))
        account = self._accounts(login).get(name)
        if account is None:
            return
        self.done.append(f"{what.value} {login} in {name}")
        kept = self.kept[name, login]
        plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account.id], action=what.value)
        batch = self.client.plans.make(plan)
        if what is Quick.PURGE:
            with suppress(Conflict):
                self.client.plans.confirm(batch)
                raise Harm("a purge went without being typed")
            row = self.client.plans.confirm(batch, typed=login)[0]
            if self.client.dockets.show(row.number).state != "awaiting":
                raise Harm("a purge went without a second operator")
            self.client.dockets.cancel(row.number)
            return
        kept.may_be_purged = what is Quick.DELETE and name == "final"
        self.client.plans.confirm(batch)
        if what in (Quick.SUSPEND, Quick.ARCHIVE):
            # What is closed of a leaver goes with the leaving.
            kept.closed_by_hand = self.client.people.show(login).state != "left"
        elif what in (Quick.RESUME, Quick.REOPEN, Quick.RESTORE):
            kept.closed_by_hand = False

    def leave(self) -> None:
        login = self.dice.choice(self.names)
        self.done.append(f"{login} leaves")
        self._carry_out(Verb.LEAVER, login)

    def come_back(self) -> None:
        login = self.dice.choice(self.names)
        self.done.append(f"{login} comes back")
        self._carry_out(Verb.RETURNER, login)

    def _carry_out(self, verb: Verb, login: str) -> None:
        self.client.plans.confirm(self.client.plans.make(wl.NewPlan(verb=verb, who=[login])))

    def hold(self) -> None:
        if self.holds and self.dice.random() < 0.5:
            which = self.dice.choice(sorted(self.holds))
            self.done.append(f"hold on {which} ends")
            self.client.decisions.end(self.holds[which])
            del self.holds[which]
        elif self.dice.random() < 0.5:
            login = self.dice.choice(self.names)
            if login not in self.holds:
                self.done.append(f"hold on {login}")
                made = self.client.decisions.make(
                    wde.NewDecision(who=login, kind="hold", reason="inquiry")
                )
                self.holds[login] = made.id
        else:
            name = self.dice.choice(list(WINDOWS))
            if name not in self.holds:
                self.done.append(f"hold on {name}")
                self.holds[name] = self.client.hold(name, "audit").id
                time.sleep(1.5)  # everybody's obligations follow within a moment

    def pass_time(self) -> None:
        now = self.client.clock.show().now
        ends = [k.until for k in self.kept.values() if k.until is not None and k.until > now]
        if ends and self.dice.random() < 0.6:
            moment = min(ends) - timedelta(seconds=self.dice.choice((0, 1)))
            to = max(moment, now).isoformat()
        else:
            to = self.dice.choice(("+1h", "+3d", "+8d"))
        self.done.append(f"time passes: {to}")
        advance(self.client, to)

    def fault(self) -> None:
        name = self.dice.choice(sorted(SCIM))
        faults = self.dice.choice(
            ({"error_rate": 0.4}, {"lose_reply_rate": 0.5}, {"drop_rate": 0.3})
        )
        self.done.append(f"fault in {name}: {faults}")
        app = self.apps[name]
        httpx.put(f"{app['url']}/panel/faults", json=faults, headers=app["headers"])

    def both(self) -> None:
        """Two operators at once: one wins, the other is told."""
        login = self.dice.choice(self.names)
        self.done.append(f"two at once on {login}")
        made = [
            self.client.plans.make(wl.NewPlan(verb=verb, who=[login], **more))
            for verb, more in (
                (Verb.LEAVER, {}),
                (Verb.MOVER, {"changes": {"title": f"t{self.dice.random()}"}}),
            )
        ]

        def confirm(batch: wl.BatchView) -> bool:
            try:
                self.client.plans.confirm(batch)
            except Conflict:
                return False
            return True

        with ThreadPoolExecutor(2) as pool:
            won = list(pool.map(confirm, made))
        if sum(won) != 1:
            raise Harm(f"of two at once {sum(won)} won")


@click.command()
@click.option("--seed", type=int, default=1)
@click.option("--steps", type=int, default=40)
def main(seed: int, steps: int) -> None:
    """Run the machine; exits 1 when it finds harm."""
    machine = Machine(seed)
    try:
        for number in range(steps):
            machine.step()
            click.echo(f"{number + 1}: {machine.done[-1]}")
    except Harm as harm:
        click.echo("\n".join(machine.done[-6:]))
        click.echo(f"HARM: {harm}")
        sys.exit(1)
    finally:
        machine.close()


if __name__ == "__main__":
    main()
