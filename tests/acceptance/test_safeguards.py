"""What cannot be put back is typed, agreed to by a second operator and refused under a hold: always."""

from __future__ import annotations

import time
from collections.abc import Iterator

import pytest

from tests.acceptance.test_rules import OTHERS, operator, restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined, newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.joiner import rules_text
from yugum.client import Client
from yugum.core.approvals import PURGE
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput
from yugum.wire import plans as wl
from yugum_standins.load import do, loaded
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, REPORTING, TICKETS

pytestmark = pytest.mark.usefixtures("restored")


@pytest.fixture
def tickets(theatre: Theatre) -> CrewLook:
    """The application whose deletion is final, asked directly."""
    reach = loaded(theatre.stage).others[TICKETS]
    return CrewLook(reach["url"], reach["headers"])


@pytest.fixture
def second(theatre: Theatre) -> Iterator[Client]:
    with operator(theatre, OTHERS[0]) as other:
        yield other


def account_of(theatre: Theatre, login: str, application: str) -> str:
    return str(theatre.client.accounts.page(who=login, application=application).items[0].id)


def agreed(theatre: Theatre, second: Client, number: str) -> str:
    """A second operator agrees; the state that the docket ends in."""
    (row,) = theatre.client.approvals.all(docket=number, state="open")
    assert row.name == PURGE
    assert theatre.client.dockets.show(number).state == "awaiting"
    second.approvals.answer(row.id, agrees=True)
    return str(list(theatre.client.dockets.follow(number))[-1].state)


def test_deleting_where_deletion_is_final_asks_for_what_a_purge_asks(
    theatre: Theatre, tickets: CrewLook, second: Client
) -> None:
    client, login = theatre.client, joined(theatre, "Ticketing")
    account = account_of(theatre, login, TICKETS)
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete"))
    assert [s.action for s in batch.plans[0].steps if s.irreversible] == ["purge"]
    for typed in ("", "yes", "purge 2", login.upper()):
        with pytest.raises(Conflict, match="cannot be put back") as refused:
            client.plans.confirm(batch, typed=typed)
        assert login in refused.value.remedy
    once = cli(theatre, "accounts", "delete", account, "--yes")
    assert once.returncode == 4
    assert "cannot be put back" in once.stderr
    wrong = cli(theatre, "accounts", "delete", account, answer="y\nyes\n")
    assert wrong.returncode == 4
    assert tickets.user(login) is not None
    typed_in = cli(theatre, "accounts", "delete", account, answer=f"y\n{login}\n")
    assert typed_in.returncode == 0, typed_in.stderr
    number = typed_in.stdout.split(": waits for")[0].split()[-1]
    assert tickets.user(login) is not None, "nobody has agreed"
    assert agreed(theatre, second, number) == "done"
    assert tickets.user(login) is None


def test_a_joiner_is_undone_for_good_only_as_a_purge(
    theatre: Theatre, tickets: CrewLook, second: Client
) -> None:
    login = newcomer(theatre, "Ticketing")
    joiner = do(theatre.client, Verb.JOINER, login)
    assert cli(theatre, "dockets", "undo", joiner, "--yes").returncode == 4
    undone = cli(theatre, "dockets", "undo", joiner, "--yes", "--typed", login)
    assert undone.returncode == 0, undone.stderr
    assert "cannot be put back" in undone.stdout
    number = undone.stdout.split(": waits for")[0].split()[-1]
    assert (tickets.user(login) or {})["active"], "nothing is done before it is agreed to"
    assert agreed(theatre, second, number) == "done"
    assert tickets.user(login) is None
    states = {a.application_id: a.state for a in theatre.client.people.show(login).accounts}
    assert states.pop(TICKETS) == "purged"
    assert set(states.values()) == {"deleted"}, "where it can come back it is only deleted"


def test_what_is_left_out_of_an_undo_needs_nobodys_agreement(
    theatre: Theatre, tickets: CrewLook
) -> None:
    client, login = theatre.client, newcomer(theatre, "Ticketing")
    joiner = do(client, Verb.JOINER, login)
    left_out = {f"{TICKETS}/purge": "the till is counted first"}
    asked = wl.NewPlan(verb=Verb.UNDO, docket=joiner, left_out=left_out)
    number = client.plans.confirm(client.plans.make(asked))[0].number
    assert list(client.dockets.follow(number))[-1].state == "done"
    assert (tickets.user(login) or {})["active"] is False


def test_what_is_left_out_must_be_there(theatre: Theatre) -> None:
    account = account_of(theatre, joined(theatre), CREW)
    said = cli(theatre, "accounts", "delete", account, "--leave-out", f"{CREW}/purg=later")
    assert said.returncode == 4
    assert f"No step is called {CREW}/purg." in said.stderr
    assert f"{CREW}/delete" in said.stderr


def test_nobody_waits_for_a_second_operator_who_is_not_there(
    theatre: Theatre, tickets: CrewLook
) -> None:
    client, login = theatre.client, joined(theatre, "Ticketing")
    account = account_of(theatre, login, TICKETS)
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete"))
    with pytest.raises(Conflict) as refused:
        client.plans.confirm(batch, typed=login)
    assert "yugum operators add" in refused.value.remedy
    assert list(client.dockets.all(batch=batch.id)) == []
    assert (tickets.user(login) or {})["active"]


def test_a_hold_placed_while_a_purge_waits_keeps_the_account(
    theatre: Theatre, tickets: CrewLook, second: Client
) -> None:
    client, login = theatre.client, joined(theatre, "Ticketing")
    account = account_of(theatre, login, TICKETS)
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete"))
    number = client.plans.confirm(batch, typed="purge 1")[0].number
    held = cli(theatre, "apps", "hold", TICKETS, "--reason", "an audit")
    try:
        agreed(theatre, second, number)
        assert (tickets.user(login) or {})["active"], "a hold on the application came between"
        view = client.dockets.show(number)
        assert any("on hold by iholm: an audit" in c.text for c in view.cautions)
        with pytest.raises(Conflict, match="on hold by iholm: an audit"):
            client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete"))
    finally:
        client.decisions.end(held.stdout.strip().rsplit(" ", 1)[1])


def test_a_hold_placed_while_a_step_waits_keeps_the_account(
    theatre: Theatre, second: Client
) -> None:
    """The stop stands for anything that holds a docket up once it has begun."""
    client, login = theatre.client, joined(theatre, "Timetables")
    do(client, Verb.LEAVER, login)
    account = account_of(theatre, login, REPORTING)
    batch = client.plans.make(wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="purge"))
    number = client.plans.confirm(batch, typed=login)[0].number
    assert cli(theatre, "stop", "a bad rule").returncode == 0
    try:
        time.sleep(1.5)  # workers look once a second
        (row,) = client.approvals.all(docket=number)
        second.approvals.answer(row.id, agrees=True)
        list(client.dockets.follow(number))
        held = cli(theatre, "people", "decide", login, "hold", "--reason", "a claim")
        assert held.returncode == 0, held.stderr
    finally:
        assert cli(theatre, "go-on").returncode == 0
    deadline = time.monotonic() + 20
    codes: set[str] = set()
    while "held" not in codes and time.monotonic() < deadline:
        time.sleep(0.2)
        codes = {s.problem.code for s in client.dockets.show(number).steps if s.problem}
    assert codes == {"held"}
    assert theatre.reporting.role(login) is False, "it is still there"


def test_in_confidence_only_what_was_known_is_overridden_and_the_reference_is_kept(
    theatre: Theatre,
) -> None:
    client, boss = theatre.client, joined(theatre)
    client.rules.adopt(rules_text(guards={"reports": "override"}), "a guard")
    newcomer(theatre, manager=boss)
    more = ("--reason", "conduct", "--reference", "HR-77", "--override", "Ida takes them on")
    before = {p.batch_id for p in client.plans.prepared()}
    assert cli(theatre, "leaver", boss, "--confidential", *more).returncode == 0
    (batch,) = {p.batch_id for p in client.plans.prepared()} - before
    newcomer(theatre, manager=boss)
    for said in ((), ("--reason", "at once")):
        refused = cli(theatre, "plans", "fire", batch, *said)
        assert refused.returncode == 4
        assert "2 people report to" in refused.stderr, "one more than was known"
    assert {p.batch_id for p in client.plans.prepared()} == before | {batch}, "it is kept, once"
    fired = cli(theatre, "plans", "fire", batch, "--override", "Ida takes both on")
    assert fired.returncode == 0, fired.stderr
    view = next(client.dockets.all(who=boss, verb=Verb.LEAVER))
    assert (view.reference, view.reason) == ("HR-77", "conduct")


def test_what_was_known_when_it_was_prepared_stays_overridden(theatre: Theatre) -> None:
    client, boss = theatre.client, joined(theatre)
    client.rules.adopt(rules_text(guards={"reports": "override"}), "a guard")
    newcomer(theatre, manager=boss)
    batch = client.plans.make(
        wl.NewPlan(
            verb=Verb.LEAVER, who=[boss], urgent=True, confidential=True, override="Ida takes over"
        )
    )
    number = client.plans.fire(batch.id, reference="HR-78")[0].number
    assert client.dockets.show(number).reference == "HR-78"


def test_what_is_said_too_early_is_not_ignored(theatre: Theatre) -> None:
    login = joined(theatre)
    for said, place in (({"reference": "HR-1"}, "reference"), ({"override": "x"}, "override")):
        with pytest.raises(InvalidInput) as refused:
            theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], **said))
        assert refused.value.place == place
    account = account_of(theatre, login, CREW)
    asked = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="delete", confidential=True)
    with pytest.raises(InvalidInput) as refused:
        theatre.client.plans.make(asked)
    assert refused.value.place == "confidential"
    for asked in (
        wl.NewPlan(verb=Verb.ABSENCE, who=[login], since="2031-02-01"),
        wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account], action="suspend", since="2031-02-01"),
    ):
        with pytest.raises(InvalidInput) as refused:
            theatre.client.plans.make(asked)
        assert refused.value.place == "since"
