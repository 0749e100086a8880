"""Invitations and duties of the first sign-in: asked of the application itself, through their whole time."""

from __future__ import annotations

import uuid
from datetime import datetime, timedelta
from typing import Any

import pytest

from tests.acceptance.test_service import newcomer
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.applications import Duty
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict, InvalidInput
from yugum.wire import applications as wap
from yugum.wire import plans as wl
from yugum.wire.accounts import AccountRow
from yugum_standins.load import do
from yugum_standins.look import CrewLook
from yugum_standins.morrow import BERTH_PLANNER, DIRECTORY, EXCHANGE

STRONG = "Berth-Seven-Lantern-9"
SEAT = "Berth seat"


def exchange(theatre: Theatre) -> CrewLook:
    reach = theatre.play.organisation.others[EXCHANGE]
    return CrewLook(reach["url"], reach["headers"])


def invited(theatre: Theatre, **more: Any) -> str:
    """Somebody new who was invited, with an address to which the application wrote."""
    mail = f"{uuid.uuid4().hex[:10]}@morrowsound.example"
    login = newcomer(theatre, "Safety", title=BERTH_PLANNER, mail=mail, **more)
    do(theatre.client, Verb.JOINER, login)
    return login


def account(theatre: Theatre, login: str) -> AccountRow:
    return theatre.client.accounts.page(who=login, application=EXCHANGE).items[0]


def line(theatre: Theatre, login: str) -> Any:
    row = next(r for r in theatre.client.people.joiners() if r.user_name == login)
    return next(x for x in row.lines if x.application_id == EXCHANGE)


def read(theatre: Theatre) -> None:
    theatre.client.applications.read(EXCHANGE)


def test_an_invitation_is_a_state_until_it_is_accepted(theatre: Theatre) -> None:
    look, client = exchange(theatre), theatre.client
    held = look.taken(SEAT)
    now = client.clock.show().now
    login = invited(theatre, starts=f"{now:%Y-%m-%d}")
    mine = account(theatre, login)
    assert mine.state == "active"
    assert mine.invited_at == datetime.fromisoformat(look.account(login)["invitation"]["sentAt"])
    assert look.taken(SEAT) == held + 1, "its seat is counted"
    assert not look.sign_in(login, STRONG)
    assert [x for x in line(theatre, login).lacks if "not accepted" in x]
    assert line(theatre, login).credential == "", "they choose one themselves"
    found = {a.login for a in client.accounts.all(application=EXCHANGE, to_do="invitation")}
    assert login in found
    listed = cli(theatre, "accounts", "list", "--application", EXCHANGE, "--to-do", "invitation")
    assert login in listed.stdout
    assert "invited, not accepted" in cli(theatre, "people", "show", login).stdout
    with pytest.raises(InvalidInput):
        list(client.accounts.all(to_do="everything"))

    before = _sent(look, login)
    again = cli(theatre, "accounts", "invite", f"{login}/{EXCHANGE}", "--yes")
    assert again.returncode == 0, again.stderr
    assert _sent(look, login) == before + 1
    told = {c.application_name for c in client.credentials.of(login)}
    with pytest.raises(Conflict, match="with the invitation"):
        client.credentials.renew(mine.id)
    assert "Berth exchange" not in told, "nobody makes a credential for whoever is invited"

    assert look.accept(login, STRONG)
    read(theatre)
    mine = account(theatre, login)
    assert (mine.state, mine.invited_at) == ("active", None)
    assert not [x for x in line(theatre, login).lacks if "accepted" in x]
    assert line(theatre, login).signed_in, "the first sign-in is read back"
    assert mine.id not in {a.id for a in client.accounts.all(to_do="invitation")}
    assert not [d for d in client.findings.outside(EXCHANGE) if d.login == login], (
        "nobody changed it outside"
    )
    with pytest.raises(Conflict):
        _act(theatre, mine.id, Quick.INVITE)
    do(client, Verb.LEAVER, login)
    assert look.account(login)["seats"] == []


def test_duties_are_set_seen_done_and_asked_for_later(theatre: Theatre) -> None:
    look, client = exchange(theatre), theatre.client
    now = client.clock.show().now
    login = invited(theatre, starts=f"{now:%Y-%m-%d}")
    assert look.account(login)["duties"] == ["second_factor", "terms"], "as the profile says"
    assert line(theatre, login).duties == [Duty.SECOND_FACTOR, Duty.TERMS]
    shown = cli(theatre, "people", "joiners").stdout
    assert "to do at the first sign-in: enrol a second factor, accept the terms" in shown
    look.accept(login, STRONG)
    assert look.do_duty(login, "terms")
    read(theatre)
    assert account(theatre, login).duties == [Duty.SECOND_FACTOR]
    assert look.do_duty(login, "second_factor")
    read(theatre)
    assert account(theatre, login).duties == []
    assert not list(client.standing.all(who=login)), "done is done, nobody asks again"

    mine = account(theatre, login).id
    asked = cli(
        theatre, "accounts", "require", mine, "--duty", "profile", "--duty", "mail", "--yes"
    )
    assert asked.returncode == 0, asked.stderr
    assert look.account(login)["duties"] == ["mail", "profile"]
    number = client.dockets.page(who=login).items[0].number
    assert look.do_duty(login, "mail")
    undone = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    told = {f.what: f.why for f in undone.plans[0].fidelity}
    assert told["Berth exchange: confirm the mail address"].startswith("already")
    *_, _ = client.dockets.follow(client.plans.confirm(undone)[0].number)
    assert look.account(login)["duties"] == []
    with pytest.raises(InvalidInput):
        _act(theatre, mine, Quick.REQUIRE)
    with pytest.raises(InvalidInput):
        client.plans.make(
            wl.NewPlan(verb=Verb.ACCOUNT, accounts=[mine], action=Quick.SUSPEND, duties=[Duty.MAIL])
        )
    with pytest.raises(InvalidInput):
        client.plans.make(wl.NewPlan(verb=Verb.ABSENCE, who=[login], duties=[Duty.MAIL]))
    twice = _act(theatre, mine, Quick.REQUIRE, Duty.MAIL, Duty.MAIL).plans[0]
    assert [s.item for s in twice.steps] == ["mail"]
    plan = _act(theatre, mine, Quick.REQUIRE, Duty.PASSWORD).plans[0]
    assert plan.steps == []
    assert "cannot ask anybody to set a new password" in plan.cautions[0].text
    with pytest.raises(InvalidInput, match="must_change"):
        client.applications.change_profile(
            EXCHANGE, wap.ProfileDocument.model_construct(duties=[Duty.PASSWORD])
        )


def test_a_new_password_of_the_directory_is_a_duty_too(theatre: Theatre) -> None:
    login = newcomer(theatre, "Safety")
    do(theatre.client, Verb.JOINER, login)
    theatre.client.applications.read(DIRECTORY)
    mine = theatre.client.accounts.page(who=login, application=DIRECTORY).items[0]
    assert mine.duties == [Duty.PASSWORD], "must_change: true"


def test_whoever_does_not_accept_is_reminded_and_then_not_given_it(theatre: Theatre) -> None:
    look, client = exchange(theatre), theatre.client
    boss = theatre.play.organisation.people[0]
    login = invited(theatre, manager=boss.user_name)
    late, unseen = invited(theatre), invited(theatre)
    assert look.seats(login) == [SEAT]
    person = client.people.show(login)
    reminded = [s for s in person.next if "Berth exchange" in s.because or "Berth" in s.text]
    assert [s.text for s in reminded][:1] == ["They and the manager are reminded"]
    begin = client.clock.show().now
    for _ in client.clock.advance((begin + timedelta(days=4)).isoformat()):
        pass
    mails = [m for m in client.mails.all() if m.subject.startswith(person.display_name)]
    assert {m.address for m in mails} == {person.mail, boss.mail}
    assert look.accept(late, STRONG), "an invitation can be accepted late"
    read(theatre)
    assert look.accept(unseen, STRONG), "of which no reading tells"
    for _ in client.clock.advance((begin + timedelta(days=15)).isoformat()):
        pass
    until(lambda: not active(look, login))
    # Not counted in all: whoever waits for a seat gets it.
    until(lambda: look.seats(login) == [])
    assert active(look, late)
    assert active(look, unseen), "whoever has accepted is looked at first"
    assert not look.accept(login, STRONG), "the invitation is withdrawn"
    made = [d for d in client.people.decisions(login) if d.kind == "deny"]
    assert [(d.author, "not accepted" in d.reason) for d in made] == [("schedule", True)]
    looks = [d for d in client.dockets.page(who=login).items if d.verb == "recheck"]
    assert [d.title for d in looks] == [
        "recheck: the invitation to Berth exchange was not accepted"
    ]
    assert client.audit.page(action="invitation.lapsed").items

    client.decisions.end(made[0].id)
    do(client, Verb.JOINER, login)
    until(lambda: active(look, login))
    until(lambda: account(theatre, login).invited_at is not None)
    assert look.accept(login, STRONG), "it is given again, and invited anew"


def test_of_an_application_that_does_not_answer_nothing_is_withdrawn(theatre: Theatre) -> None:
    look, client = exchange(theatre), theatre.client
    login = invited(theatre)
    begin = client.clock.show().now
    look.fault(down=1)
    try:
        for _ in client.clock.advance((begin + timedelta(days=14, hours=1)).isoformat()):
            pass
        assert not [d for d in client.people.decisions(login) if d.kind == "deny"]
    finally:
        look.fault(down=0)
    for _ in client.clock.advance((begin + timedelta(days=15, hours=1)).isoformat()):
        pass
    until(lambda: not active(look, login))
    assert [d.kind for d in client.people.decisions(login)] == ["deny"]


def test_an_undone_leaver_is_invited_anew_and_no_password_is_spoken_of(theatre: Theatre) -> None:
    look, client = exchange(theatre), theatre.client
    login = invited(theatre)
    number = do(client, Verb.LEAVER, login)
    plan = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    told = {f.what: f.why for f in plan.plans[0].fidelity}
    assert "Crew rosters: password" in told
    assert "Berth exchange: password" not in told, "nobody ever had one"
    list(client.dockets.follow(client.plans.confirm(plan)[0].number))
    assert look.accept(login, STRONG)


def test_nobody_is_invited_without_an_address(theatre: Theatre) -> None:
    login = newcomer(theatre, "Safety", title=BERTH_PLANNER)
    plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login])).plans[0]
    assert EXCHANGE not in {s.application_id for s in plan.steps}
    assert any("has no address at work" in c.text for c in plan.cautions)


def test_a_leaver_who_never_accepted_cannot_any_more(theatre: Theatre) -> None:
    look = exchange(theatre)
    login = invited(theatre)
    plan = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login])).plans[0]
    step = next(s for s in plan.steps if s.application_id == EXCHANGE and s.action == "cut_off")
    assert (step.before, step.after) == ("invited, not accepted", "invitation withdrawn")
    do(theatre.client, Verb.LEAVER, login)
    assert not look.accept(login, STRONG)


def _act(theatre: Theatre, account_id: str, what: Quick, *duties: Duty) -> wl.BatchView:
    return theatre.client.plans.make(
        wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account_id], action=what, duties=list(duties))
    )


def active(look: CrewLook, login: str) -> bool:
    return bool((look.user(login) or {})["active"])


def _sent(look: CrewLook, login: str) -> int:
    key = (look.user(login) or {})["id"]
    return sum(e["effect"] == "invitation.sent" and e["user"] == key for e in look.log())
