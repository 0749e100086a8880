"""The standing difference through the service and the command line: seen, accepted, rechecked, followed."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any

import httpx
import pytest

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.lines import LineKind, LineStatus, Side
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound, PlanStale
from yugum.wire import plans as wl
from yugum.wire import standing as ws
from yugum_standins.morrow import CREW, MAINTENANCE


def until(holds: Callable[[], Any], seconds: float = 30) -> None:
    """Asked until it holds, and not once more: what is asked may act."""
    deadline = time.monotonic() + seconds
    while not (held := holds()) and time.monotonic() < deadline:
        time.sleep(0.1)
    assert held


def confirmed(theatre: Theatre, wish: wl.NewPlan) -> bool:
    """Planned and confirmed, unless what the undo still does made the plan stale meanwhile."""
    try:
        return bool(theatre.client.plans.confirm(theatre.client.plans.make(wish)))
    except PlanStale:
        return False


@pytest.fixture
def lacking(theatre: Theatre) -> str:
    """Somebody whom an administrator of the application has taken out of a group of their role."""
    login = joined(theatre, "Engine Room")
    theatre.crew.leave(login, "Rosters")
    theatre.client.applications.read(CREW)
    return login


def the_line(theatre: Theatre, login: str) -> ws.StandingRow:
    (row,) = [r for r in theatre.client.people.show(login).standing if r.item == "Rosters"]
    return row


def about(login: str, **more: Any) -> ws.Accept:
    said = {
        "who": login,
        "application_id": CREW,
        "kind": LineKind.ENTITLEMENT,
        "item": "Rosters",
        "side": Side.MISSING,
        "reason": "on another watch",
    }
    return ws.Accept(**{**said, **more})


def test_what_is_missing_is_on_every_list_and_put_right_by_a_command(
    theatre: Theatre, lacking: str
) -> None:
    client = theatre.client
    row = the_line(theatre, lacking)
    assert (row.status, row.side, row.reason) == (
        LineStatus.FINDING,
        Side.MISSING,
        "role Engine Room",
    )
    until(lambda: any(r.user_name == lacking for r in client.standing.all(status="finding")))
    chosen = {"application": CREW, "kind": "entitlement", "side": "missing", "who": lacking}
    assert [r.item for r in client.standing.all(**chosen)] == ["Rosters"]
    assert list(client.standing.all(who=lacking, side="both")) == []
    assert list(client.standing.all(who=lacking, hours=1.0)) == [], "it is younger"
    shown = cli(theatre, "standing", "show", lacking)
    assert "Rosters" in shown.stdout
    assert "Not as it should be" in cli(theatre, "people", "show", lacking).stdout
    asked = cli(theatre, "recheck", lacking, answer="n\n")
    assert "grant Rosters" in asked.stdout
    assert "Rosters" not in theatre.crew.groups(lacking), "nothing happens before a yes"
    done = cli(theatre, "recheck", lacking, "--yes")
    assert done.returncode == 0, done.stderr
    assert "Rosters" in theatre.crew.groups(lacking)
    assert client.people.show(lacking).standing == []
    again = cli(theatre, "recheck", lacking, "--yes")
    assert "Nothing to do" in again.stdout
    nobody = cli(theatre, "recheck", "nobody-at-all", "--yes")
    assert nobody.returncode != 0


def test_accepting_is_for_what_differs_with_a_reason_and_ends(
    theatre: Theatre, lacking: str
) -> None:
    client = theatre.client
    for wrong in (
        about(lacking, item="Nothing"),
        about(lacking, side=Side.TOO_MUCH),
        about(lacking, application_id="no-such"),
        about(lacking, ends="2031-01-01"),
    ):
        with pytest.raises((InvalidInput, NotFound)):
            client.standing.accept(wrong)
    blank = cli(
        theatre, "standing", "accept", lacking, CREW, "entitlement", "Rosters",
        "--side", "missing", "--reason", " ",
    )  # fmt: skip
    assert (blank.returncode, "(reason)" in blank.stderr) == (2, True), blank.stderr
    made = client.standing.accept(about(lacking, ends="+2d"))
    row = the_line(theatre, lacking)
    assert (row.status, row.accepted_why) == (LineStatus.ACCEPTED, "on another watch")
    assert row.acceptance_id == made.id
    with pytest.raises(Conflict):
        client.standing.accept(about(lacking))
    out = cli(theatre, "standing", "reopen", made.id)
    assert out.returncode == 0, out.stderr
    assert the_line(theatre, lacking).status is LineStatus.FINDING
    with pytest.raises(NotFound):
        client.standing.reopen(made.id)
    words = ("standing", "accept", lacking, CREW, "entitlement", "Rosters")
    by_hand = cli(theatre, *words, "--side", "missing", "--reason", "so")
    assert by_hand.returncode == 0, by_hand.stderr
    events = [e.action for e in client.audit.page(limit=200).items]
    assert {"standing.accepted", "standing.reopened"} <= set(events)
    theatre.play.confirm(client.plans.make(wl.NewPlan(verb=Verb.RECHECK, who=[lacking])))


def test_a_suspension_outside_is_followed_everywhere(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Safety")
    theatre.crew.suspend(login)
    client.applications.read(CREW)
    row = next(d for d in client.findings.outside(CREW) if d.login == login)
    assert [m.value for m in row.means] == ["leaver", "absence", "precaution"]
    wrong = cli(theatre, "findings", "follow", row.id, "holiday", "--yes")
    assert wrong.returncode == 2
    done = cli(theatre, "findings", "follow", row.id, "precaution", "--yes")
    assert done.returncode == 0, done.stderr
    states = {a.application_id: a.state.value for a in client.people.show(login).accounts}
    assert set(states.values()) == {"suspended"}
    assert theatre.reporting.role(login) is False
    kept = [d for d in client.findings.outside(CREW, state="kept") if d.id == row.id]
    assert kept, "what was followed is decided"
    twice = cli(theatre, "findings", "follow", row.id, "leaver", "--yes")
    assert twice.returncode != 0
    nothing = client.plans.make(wl.NewPlan(verb=Verb.RECHECK, who=[login]))
    assert nothing.plans[0].steps == [], "no rule opens any of them"


@contextmanager
def silent(theatre: Theatre) -> Iterator[None]:
    """An application does not answer meanwhile."""
    reach = theatre.play.organisation.others[MAINTENANCE]

    def down(number: int) -> None:
        httpx.put(
            f"{reach['url']}/panel/faults",
            json={"down": number},
            headers=reach["headers"],
            timeout=10,
        )

    down(1)
    try:
        yield
    finally:
        down(0)


def test_a_precaution_leaves_to_others_what_they_have_still_to_do(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Engine Room")
    account = client.accounts.page(who=login, application=MAINTENANCE).items[0]
    with silent(theatre):
        wish = wl.NewPlan(verb=Verb.ACCOUNT, who=[login], accounts=[account.id], action="delete")
        gone = client.plans.confirm(client.plans.make(wish))[0]
        until(lambda: any(s.problem for s in client.dockets.show(gone.number).steps))
        shut = wl.NewPlan(
            verb=Verb.ACCOUNT, who=[login], measure="suspend", ground="a claim", review="+30d"
        )
        client.plans.confirm(client.plans.make(shut))
    there = partial(client.accounts.page, who=login, application=MAINTENANCE)
    until(lambda: [a.state.value for a in there().items] == ["deleted"])


def test_what_an_undo_has_still_to_give_ends_with_what_gives_it(theatre: Theatre) -> None:
    """An application comes back after somebody was undone into one department and moved to another."""
    client, login = theatre.client, joined(theatre, "Engine Room")
    moved = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.MOVER, who=[login], changes={"department": "Deck"}))
    )[0].number
    list(client.dockets.follow(moved))
    with silent(theatre):
        undo = client.plans.confirm(client.plans.make(wl.NewPlan(verb="undo", docket=moved)))[0]
        until(lambda: any(s.problem for s in client.dockets.show(undo.number).steps))
        away = wl.NewPlan(
            verb=Verb.MOVER, who=[login], changes={"department": "Harbour Operations"}
        )
        until(lambda: confirmed(theatre, away))
        until(
            lambda: (
                not [
                    s
                    for s in client.dockets.show(undo.number).steps
                    if s.application_id == MAINTENANCE and s.state not in ("done", "left_out")
                ]
            )
        )
    until(
        lambda: not client.accounts.page(who=login, application=MAINTENANCE).items[0].entitlements
    )
    until(lambda: confirmed(theatre, wl.NewPlan(verb=Verb.LEAVER, who=[login])))
    list(client.dockets.follow(client.people.show(login).dockets[0].number))
