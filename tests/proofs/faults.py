"""The proof ``faults``: whatever goes wrong, the application holds what Yugum says, exactly once."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

import click
import httpx

from tests.proofs.play import Play
from yugum.core.dockets import Settlement
from yugum.core.verbs import Verb
from yugum.wire import dockets as wd
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import advance
from yugum_standins.morrow import CREW, PLANNER, ZONE

FAULTS: dict[str, dict[str, Any]] = {
    "slow (0.4 s an answer)": {"latency_ms": 400},
    "half the answers are errors": {"error_rate": 0.5},
    "asks to slow down (429)": {"busy": 6},
    "drops connections": {"drop_rate": 0.4},
    "effect made, reply lost": {"lose_reply_rate": 1.0},
    "shows changes late": {"stale_seconds": 1.5},
    "does not answer at all": {"down": 1},
    "refuses a value": {"reject": '"'},
    "read-only": {"read_only": 1},
}
ACTIONS = ("create", "grant", "take seat", "cut off", "transfer", "delete", "restore")
EFFECTS = {
    "create": ("user.created", 1),
    "grant": ("group.added", 2),
    "take seat": ("seat.taken", 1),
    "cut off": ("user.suspended", 1),
    "transfer": ("item.moved", 1),
    "delete": ("user.deleted", 1),
    "restore": ("user.restored", 1),
}
REST: dict[str, Any] = {
    "latency_ms": 0,
    "error_rate": 0,
    "busy": 0,
    "drop_rate": 0,
    "lose_reply_rate": 0,
    "stale_seconds": 0,
    "down": 0,
    "read_only": 0,
    "reject": "",
}
CLOSE_DAYS = 7
FAULT_SECONDS = 4.0
"""How long a fault that stops everything lasts."""


def faults(play: Play) -> None:
    """Every fault with every action, on crew rosters; then the database restarted under load."""
    report = play.report
    heir = next(p.user_name for p in play.organisation.people if p.title == "Head of Deck")
    table: dict[str, dict[str, str]] = {}
    for number, (name, fault) in enumerate(FAULTS.items()):
        report.section(name)
        table[name] = _life(play, f"fault{number}", heir, fault)
    report.section("Fault by action: effects in the application's own log, and whether it agrees")
    width = max(map(len, FAULTS))
    click.echo(" " * (width + 4) + "  ".join(f"{a:>9}" for a in ACTIONS))
    for name, row in table.items():
        click.echo(f"    {name:<{width}}" + "  ".join(f"{row[a]:>9}" for a in ACTIONS))
    _one_down(play)
    _cut_off_first(play)
    _restart(play)


def _life(play: Play, login: str, heir: str, fault: dict[str, Any]) -> dict[str, str]:
    """One person created, left, deleted and brought back while the fault lasts."""
    client, report = play.client, play.report
    client.people.create(
        [
            wp.NewPerson(
                user_name=login,
                given_name="Fay",
                family_name=login.capitalize(),
                employee_number=f"48{login[-1]}01",
                department="Deck",
                title="Deck officer",
                manager=heir,
                time_zone=ZONE,
            )
        ]
    )
    key = ""
    with _fault(play):
        _run(play, Verb.JOINER, login, fault)
    user = play.crew.user(login) or {}
    key = str(user.get("id", ""))
    report.equal("joined: groups", play.crew.groups(login), {"Deck crew", "Rosters"})
    report.equal("joined: one seat", play.crew.seats(login), [PLANNER])
    play.crew.add_roster(login, f"Roster of {login}")
    with _fault(play):
        _run(play, Verb.LEAVER, login, fault)
    user = play.crew.user(login) or {}
    report.equal("left: suspended", user.get("active"), False)
    report.equal("left: no way in", play.crew.ways_in(login), 0)
    report.equal("left: nothing owned", play.crew.rosters(login), set())
    due = play.now + timedelta(days=CLOSE_DAYS, hours=1)
    with _fault(play):
        _panel(play, {**REST, **fault})
        advance(client, due.isoformat())
        _settle(play, login, "close")
    report.check("closed: deleted with a window", play.crew.deleted(login) is not None)
    with _fault(play):
        _run(play, Verb.RETURNER, login, fault)
    user = play.crew.user(login) or {}
    report.equal("back: active", user.get("active"), True)
    account = next(a for a in client.people.show(login).accounts if a.application_id == CREW)
    held = {h.item for h in account.holdings if h.kind == "entitlement"}
    agrees = account.state == "active" and held == play.crew.groups(login)
    report.check("Yugum and the application agree", agrees, account)
    row = _counted(play, key, agrees)
    _run(play, Verb.LEAVER, login, {})  # so that the next one finds a seat
    return row


def _counted(play: Play, key: str, agrees: bool) -> dict[str, str]:
    log = [e for e in play.crew.log() if e["user"] == key]
    row = {}
    for action, (effect, wanted) in EFFECTS.items():
        seen = sum(e["effect"] == effect for e in log)
        if action in ("grant", "take seat"):
            wanted *= 2  # once when joining, once when coming back
        good = seen == wanted and agrees
        play.report.check(f"{action}: exactly once", good, f"{seen} times")
        row[action] = f"{'✓' if good else '✗'} {seen}/{wanted}"
    return row


@contextmanager
def _fault(play: Play) -> Iterator[None]:
    """Whatever fault was set within the block is over after it."""
    try:
        yield
    finally:
        _panel(play, REST)


def _panel(play: Play, faults: dict[str, Any]) -> None:
    organisation = play.organisation.crew
    httpx.put(
        f"{organisation['url']}/panel/faults", json=faults, headers=organisation["headers"]
    ).raise_for_status()


def _run(play: Play, verb: Verb, login: str, fault: dict[str, Any]) -> None:
    client = play.client
    batch = client.plans.make(wl.NewPlan(verb=verb, who=[login]))
    _panel(play, {**REST, **fault})
    docket = client.plans.confirm(batch, reference="FAULT")[0]
    _see_through(play, docket.number)


def _settle(play: Play, login: str, verb: str) -> None:
    """The docket of an obligation, which began by itself."""
    page = play.client.dockets.page(who=login, verb=verb)
    for row in page.items:
        if row.state in ("running", "scheduled"):
            _see_through(play, row.number)


def _see_through(play: Play, number: str) -> None:
    """Wait for a docket; where the fault stops everything, end it after a while and retry."""
    client = play.client
    deadline, began = time.monotonic() + 90, time.monotonic()
    lifted = False
    while time.monotonic() < deadline:
        view = client.dockets.show(number)
        if view.state in ("done", "superseded", "cancelled"):
            return
        if not lifted and time.monotonic() - began > FAULT_SECONDS:
            lifted = True
            _panel(play, REST)
        if lifted:
            _retry(play, view)
        time.sleep(0.2)
    play.report.check(
        f"docket {number} comes to its end", False, _problems(client.dockets.show(number))
    )


def _retry(play: Play, view: wd.DocketView) -> None:
    for step in view.steps:
        if step.state == "attention":
            play.client.dockets.settle(step.id, Settlement.RETRY)


def _problems(view: wd.DocketView) -> list[str]:
    return [f"{s.application_name} {s.action}: {s.problem.text}" for s in view.steps if s.problem]


def _one_down(play: Play) -> None:
    """With one application down a leaver is cut off everywhere else at once."""
    client, report = play.client, play.report
    report.section("One application is down while somebody leaves")
    who = play.organisation.of("Deck", "Deckhand", skip=2).user_name
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who]))
    _panel(play, {**REST, "down": 1})
    began = time.monotonic()
    docket = client.plans.confirm(batch)[0]
    while time.monotonic() - began < 20 and play.directory.open(who):
        time.sleep(0.05)
    report.check(
        f"cut off elsewhere after {time.monotonic() - began:.2f} s",
        not play.directory.open(who) and play.reporting.role(who) is False,
    )
    _panel(play, REST)
    _see_through(play, docket.number)
    report.equal("and there when it is back", (play.crew.user(who) or {}).get("active"), False)


def _cut_off_first(play: Play) -> None:
    """A bulk change has used up the application's rate; a cut-off still goes first."""
    client, report = play.client, play.report
    report.section("A bulk change has used up the application's rate when somebody leaves")
    bulk = [p.user_name for p in play.organisation.people if p.department == "Engine Room"][:24]
    urgent = play.organisation.of("Harbour Operations", "Berth", skip=3).user_name
    key = str((play.crew.user(urgent) or {})["id"])
    changes = {"department": "Harbour Operations", "title": "Harbour hand"}
    batch = client.plans.make(wl.NewPlan(verb=Verb.MOVER, who=bulk, changes=changes))
    leaving = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[urgent], urgent=True))
    _panel(play, {**REST, "rate": 6})
    after = len(play.crew.log())
    movers = client.plans.confirm(batch)
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline and len(play.crew.log()) - after < 3:
        time.sleep(0.1)
    done_before = len(play.crew.log()) - after
    client.plans.confirm(leaving)
    deadline = time.monotonic() + 40
    log = play.crew.log(after)  # the log has no limit of its own, unlike a look at the user
    while time.monotonic() < deadline and all(e["user"] != key for e in log):
        time.sleep(0.2)
        log = play.crew.log(after)
    place = next((i for i, e in enumerate(log) if e["user"] == key), -1)
    overtaken = len(log) - place
    _panel(play, {**REST, "rate": 0})
    for mover in movers:
        _see_through(play, mover.number)
    total = len(play.crew.log(after))
    report.check(
        f"change number {place + 1} of {total} is the cut-off (it was asked for after "
        f"{done_before})",
        0 <= place <= done_before + 12 and place < total / 2,
        f"{place}, {overtaken}",
    )


def _restart(play: Play) -> None:
    """Yugum's own database restarted in the middle of a batch."""
    client, report = play.client, play.report
    report.section("PostgreSQL is restarted under load")
    who = [p.user_name for p in play.organisation.people if p.department == "Ticketing"][5:29]
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=who))
    client.plans.confirm(batch)
    time.sleep(0.3)
    cluster = play.stage.clusters["postgres"]
    cluster.stop()
    cluster.start()
    deadline = time.monotonic() + 90
    open_still = set(who)
    while time.monotonic() < deadline and open_still:
        time.sleep(0.5)
        open_still = {w for w in who if play.directory.open(w)}
    report.equal("every one of the batch is cut off in the directory", open_still, set())
    running = 1
    while time.monotonic() < deadline and running:
        time.sleep(0.5)
        try:
            rows = client.dockets.page(state="running", limit=50).items
            running = len(rows)
            for row in rows:  # what a fault of before had left to somebody's attention
                _retry(play, client.dockets.show(row.number))
        except Exception:  # noqa: BLE001 - the service may still be finding its database again
            running = 1
    report.equal("no docket is left running", running, 0)
