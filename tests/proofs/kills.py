"""Everything that runs is killed, 200 times, while there is work: nothing is lost, doubled or stuck.

``python -m tests.proofs.kills [--kills N] [--seed S]`` prints what was hit and what came of it.
"""

from __future__ import annotations

import argparse
import os
import random
import re
import shutil
import signal
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any, TypeVar

import click
import psycopg

from tests.conftest import NOW, scratch
from tests.proofs.play import Report
from tests.signing import token_of
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.errors import Conflict, DatabaseAway, NotFound, ServiceUnreachable
from yugum.wire import applications as wap
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import found
from yugum_standins.look import CrewLook, PostLook
from yugum_standins.stage import Child, Stage, run_sql

T = TypeVar("T")
VICTIMS = {"worker": 140, "service": 40, "postgres": 20}
TOGETHER = 10
"""Of the kills of PostgreSQL so many take a service and a worker along."""
SETTINGS = {"YUGUM_LEASE_SECONDS": "3", "YUGUM_RETRY_BASE_SECONDS": "0.2", "YUGUM_CLAIM": "8"}
AWAY = (ServiceUnreachable, DatabaseAway)
BATCH, JOINERS = 20, 4
OPEN = """SELECT
  (SELECT count(*) FROM steps WHERE state IN ('intent', 'settling')) AS intents,
  (SELECT count(*) FROM mails WHERE sent_at IS NULL) AS mails,
  (SELECT count(*) FROM approvals WHERE state = 'open') AS approvals,
  (SELECT count(*) FROM readings WHERE state = 'running') AS readings"""
RULES = """
roles:
  Watch:
    when: department eq "Watch"
    gives:
      - application: crew
        entitlements: [Watch]
    approval: second
approvals:
  second: {by: [second], mode: any}
notices:
  told:
    verb: leaver
    at: done
    to: [office@harbour.example]
    subject: "{name} is cut off"
    text: "Docket {docket} is done."
"""


class Ship:
    """Two applications, a mail server and everything of Yugum, each of which may be killed."""

    def __init__(self, folder: Path, leavers: int) -> None:
        self.stage = Stage(folder)
        self.url = self.stage.database()
        more = {"log_statement": "ddl", "log_line_prefix": "%m %u "}
        self.reporting = self.stage.cluster("reporting", more).url()
        self.leavers = [f"leaver{n}" for n in range(leavers)]
        roles = [f'CREATE ROLE "{n}" LOGIN; GRANT readers TO "{n}"' for n in self.leavers]
        run_sql(self.reporting, ["CREATE ROLE readers", *roles])
        users = [{"userName": n, "groups": ["Everybody"], "sessions": 1} for n in self.leavers]
        crew = self.stage.standin("crew", {"groups": ["Everybody", "Watch"], "users": users})
        self.crew = CrewLook(crew["url"], crew["headers"])
        self.stage.post_office()
        self.post = PostLook(folder)
        token = found(self.stage, NOW)
        self.stage.serve(0)
        self.client = Client(self.stage.url, token)
        for begin in range(0, leavers, 500):
            self.client.people.create(
                [wp.NewPerson(user_name=n, given_name=n) for n in self.leavers[begin : begin + 500]]
            )
        connect = self.client.applications.connect
        connect(
            wap.ConnectApplication(
                id="crew", name="Crew", kind="scim", url=f"{crew['url']}/scim/v2",
                secret=crew["token"], trust=Trust.FULL,
            )
        )  # fmt: skip
        connect(
            wap.ConnectApplication(
                id="reporting", name="Reporting", kind="postgres", secret=self.reporting,
                trust=Trust.FULL,
            )
        )  # fmt: skip
        for application in ("crew", "reporting"):
            self.client.applications.read(application)
        self.client.operators.add(wop.NewOperator(login="second", name="S", role="administrator"))
        self.second = Client(self.stage.url, token_of(self.client, self.stage.url, "second"))
        self.client.rules.adopt(RULES)
        self.workers = [self.stage.worker(f"w{n}", SETTINGS) for n in range(2)]

    def rows(self, query: str, *values: object) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.url, connect_timeout=5) as connection:
            return connection.execute(query.encode(), values).fetchall()

    def kill(self, victim: str, dice: random.Random) -> None:
        """Kill it, and whatever dies with it, without a word; start what nobody else starts."""
        together = victim == "all"
        dead: list[Child] = []
        if victim == "worker" or together:
            dead.append(dice.choice(self.workers))
        if victim == "service" or together:
            dead.append(self.stage.children["service"])
        if victim == "postgres" or together:
            pid = (
                (self.stage.folder / "postgres" / "data" / "postmaster.pid").read_text().split()[0]
            )
            os.kill(int(pid), signal.SIGKILL)
        for child in dead:
            assert child.process is not None
            child.process.kill()
            child.process.wait()
        for child in dead:
            child.start()

    def close(self) -> None:
        self.client.close()
        self.second.close()
        self.stage.stop()


def persist(call: Callable[[], T], seconds: float = 60) -> T:
    """A call as somebody makes it who tries again while the service or the database is away."""
    deadline = time.monotonic() + seconds
    while True:
        try:
            return call()
        except AWAY:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.3)


class Work:
    """What goes on meanwhile: batches of leavers, joiners who need a yes, answers, readings."""

    def __init__(self, ship: Ship) -> None:
        self.ship = ship
        self.left: list[str] = []
        self.joined: list[str] = []
        self.over = threading.Event()
        self.readings: Counter[str] = Counter()
        self.troubles: list[str] = []
        self.threads = [
            threading.Thread(target=self._until_over, args=(act, pause), daemon=True)
            for act, pause in ((self.feed, 0.2), (self.answer, 5.0), (self.read, 0.5))
        ]

    def begin(self) -> None:
        for thread in self.threads:
            thread.start()

    def end(self) -> None:
        self.over.set()
        for thread in self.threads:
            thread.join(90)

    def _until_over(self, act: Callable[[], None], pause: float) -> None:
        while not self.over.wait(pause):
            try:
                act()
            except AWAY:
                continue
            except psycopg.OperationalError:
                continue
            except Exception as error:  # noqa: BLE001 - told at the end
                self.troubles.append(f"{act.__name__}: {error!r}")

    def feed(self) -> None:
        """Keep some dockets running; what was confirmed is confirmed, whoever died meanwhile."""
        query = "SELECT count(*) FROM dockets WHERE state IN ('running', 'scheduled')"
        if self.ship.rows(query)[0][0] > 2 * BATCH or len(self.left) >= len(self.ship.leavers):
            return
        names = self.ship.leavers[len(self.left) : len(self.left) + BATCH]
        self.confirmed(Verb.LEAVER, names)
        self.left += names
        new = [f"joiner{len(self.joined) + n}" for n in range(JOINERS)]
        people = [
            wp.NewPerson(user_name=n, given_name=n, department="Watch", another=True) for n in new
        ]
        with suppress(Conflict):  # they were made before the reply was lost
            persist(lambda: self.ship.client.people.create(people))
        self.confirmed(Verb.JOINER, new)
        self.joined += new

    def confirmed(self, verb: Verb, names: list[str]) -> None:
        client = self.ship.client
        asked = wl.NewPlan(verb=verb, who=names)
        batch = persist(lambda: client.plans.make(asked))
        persist(lambda: client.plans.confirm(batch))

    def answer(self) -> None:
        for row in self.ship.second.approvals.all()[:JOINERS]:
            with suppress(Conflict, NotFound):
                self.ship.second.approvals.answer(row.id, agrees=True)

    def read(self) -> None:
        try:
            self.ship.client.applications.read("crew")
            self.readings["done"] += 1
        except AWAY:
            self.readings["cut short"] += 1
            raise


def order(kills: int, dice: random.Random) -> Iterator[str]:
    """Whom to kill, in which order."""
    whole = sum(VICTIMS.values())
    parts = {victim: round(count * kills / whole) for victim, count in VICTIMS.items()}
    together = round(TOGETHER * kills / whole)
    found = ["all"] * together + ["postgres"] * (parts["postgres"] - together)
    found += ["service"] * (parts["service"] - together)
    found += ["worker"] * (parts["worker"] - together)
    dice.shuffle(found)
    yield from found


def play(ship: Ship, kills: int, seed: int, report: Report) -> None:
    dice, work = random.Random(seed), Work(ship)
    hits: Counter[str] = Counter()
    victims: Counter[str] = Counter()
    ship.crew.fault(latency_ms=150)
    ship.post.fault(delay_ms=400)
    work.begin()
    began = time.monotonic()
    for number, victim in enumerate(order(kills, dice), 1):
        time.sleep(dice.uniform(1.5, 4.0))
        counts: tuple[int, ...] = (0, 0, 0, 0)
        with suppress(psycopg.OperationalError):
            counts = ship.rows(OPEN)[0]
        for name, count in zip(("intent", "mail", "approval", "reading"), counts, strict=True):
            hits[name] += count > 0
        each = 3 if victim == "all" else 1
        hits["any"] += each * any(counts[:3])
        victims.update(("postgres", "service", "worker") if victim == "all" else (victim,))
        ship.kill(victim, dice)
        if number % 20 == 0:
            click.echo(
                f"    {number} kills, {len(work.left)} leavers, {time.monotonic() - began:.0f} s"
            )
    work.end()
    ship.crew.fault(latency_ms=0)
    ship.post.fault()
    report.section("What was killed, and what was open then")
    report.note(f"{dict(victims)}, {victims.total()} in {time.monotonic() - began:.0f} s")
    report.note(f"kills at which there was an open … {dict(hits)}; readings: {dict(work.readings)}")
    report.check(f"{victims.total()} kills", victims.total() >= kills, victims)
    wanted = round(150 * kills / 200)
    report.check(
        f"{hits['any']} of them hit an open intent, mail or approval", hits["any"] >= wanted
    )
    report.equal("nobody's call failed otherwise", work.troubles, [])
    _settled(ship, report)
    _once(ship, work, report)


def _settled(ship: Ship, report: Report) -> None:
    report.section("Nothing is stuck")
    second = {row.id: row for row in persist(ship.second.approvals.all)}
    for approval in second:
        with suppress(Conflict):
            ship.second.approvals.answer(approval, agrees=True)
    open_now = """SELECT (SELECT count(*) FROM dockets WHERE state IN ('running', 'scheduled'))
      + (SELECT count(*) FROM mails WHERE sent_at IS NULL)
      + (SELECT count(*) FROM readings WHERE state = 'running')"""
    deadline = time.monotonic() + 300
    left = 1
    while left and time.monotonic() < deadline:
        time.sleep(1)
        with suppress(psycopg.OperationalError):
            left = ship.rows(open_now)[0][0]
    stuck = ship.rows(
        "SELECT action, state, problem->>'text', count(*) FROM steps "
        "WHERE state NOT IN ('done', 'left_out') GROUP BY 1, 2, 3"
    )
    report.equal("every step is done", stuck, [])
    dockets = ship.rows("SELECT verb, state, count(*) FROM dockets GROUP BY 1, 2 ORDER BY 1, 2")
    report.equal(
        "every docket has ended", {s for _, s, _ in dockets} - {"done", "superseded"}, set()
    )
    report.note(f"dockets: {dockets}")
    unsent = ship.rows("SELECT tries, problem FROM mails WHERE sent_at IS NULL")
    report.equal("every mail is sent", unsent, [])
    running = ship.rows("SELECT id FROM readings WHERE state = 'running'")
    report.equal("no reading waits for a process that died", running, [])
    ended = ship.rows("SELECT state, count(*) FROM readings GROUP BY 1 ORDER BY 1")
    report.note(f"readings: {ended}")


def _once(ship: Ship, work: Work, report: Report) -> None:
    report.section("Nothing is lost, nothing is doubled, as the applications themselves say")
    log = (ship.stage.folder / "reporting" / "server.log").read_text(errors="replace")
    closed = Counter(re.findall(r'statement: ALTER ROLE "(\w+)" NOLOGIN', log))
    report.equal(
        f"reporting database: {len(work.left)} roles closed, each once",
        {n: closed[n] for n in work.left if closed[n] != 1}, {},
    )  # fmt: skip
    ids = {str((ship.crew.user(n) or {}).get("id")): n for n in (*work.left, *work.joined)}
    report.equal("Crew: nobody of them is missing", ids.get("None"), None)
    effects: Counter[tuple[str, str]] = Counter()
    for entry in ship.crew.log():
        if entry["user"] in ids:
            effects[ids[entry["user"]], entry["effect"]] += 1
    for effect in ("user.suspended", "sessions.ended", "group.removed"):
        wrong = {n: effects[n, effect] for n in work.left if effects[n, effect] != 1}
        report.equal(f"Crew: {effect} once for each of {len(work.left)} leavers", wrong, {})
    for effect in ("user.created", "group.added"):
        wrong = {n: effects[n, effect] for n in work.joined if effects[n, effect] != 1}
        report.equal(f"Crew: {effect} once for each of {len(work.joined)} joiners", wrong, {})
    sent = {str(r[0]): str(r[1]) for r in ship.rows("SELECT id, subject FROM mails")}
    arrived = {m["id"].strip("<>").partition("@")[0]: int(m["times"]) for m in ship.post.mails()}
    lost = set(sent) - set(arrived)
    report.equal(f"post office: {len(sent)} mails, each arrived", lost, set())
    twice = sum(n > 1 for n in arrived.values())
    report.note(f"{twice} arrived again under the Message-ID they had (RFC 5321 6.1)")
    told = Counter(s for s in sent.values() if s.endswith("is cut off"))
    report.equal(
        "one mail of its own for each leaver",
        {n: told[f"{n} is cut off"] for n in work.left if told[f"{n} is cut off"] != 1}, {},
    )  # fmt: skip
    answers = ship.rows(
        "SELECT docket_id, count(*) FROM audit_events WHERE action = 'approval.answered' "
        "GROUP BY 1 HAVING count(*) <> 1"
    )
    report.equal("each approval was answered once", answers, [])
    receipts = ship.rows(
        "SELECT count(*) FROM steps s LEFT JOIN receipts r ON r.step_id = s.id "
        "WHERE s.state = 'done' AND r.step_id IS NULL"
    )[0][0]
    report.equal("every step that is done has its receipt", receipts, 0)


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=sum(VICTIMS.values()))
    parser.add_argument("--seed", type=int, default=1)
    said = parser.parse_args()
    folder, report = scratch(), Report()
    ship = Ship(folder, leavers=2000)
    try:
        play(ship, said.kills, said.seed, report)
    finally:
        ship.close()
        if report.failed:
            click.echo(f"The logs are in {folder}.")
        else:
            shutil.rmtree(folder, ignore_errors=True)
    return report.close()


if __name__ == "__main__":
    sys.exit(main())
