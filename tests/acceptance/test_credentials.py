"""A credential that is typed, and a link to another address: what the account's owner meets, what is on record."""

from __future__ import annotations

import pytest

from tests.acceptance.test_service import newcomer, raw
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.applications import Duty
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum_standins.load import do
from yugum_standins.morrow import DIRECTORY, REPORTING

STRONG = "Harbour-Light-2031-Seven"


def with_mail(theatre: Theatre) -> str:
    login = newcomer(theatre, "Safety")
    theatre.client.people.change(login, {"mail": f"{login}@morrowsound.example"})
    do(theatre.client, Verb.JOINER, login)
    return login


def account(theatre: Theatre, login: str, application: str) -> str:
    return theatre.client.accounts.page(who=login, application=application).items[0].id


def test_a_typed_one_fits_the_rules_and_its_owner_is_told_that_it_was(theatre: Theatre) -> None:
    client, login = theatre.client, with_mail(theatre)
    mine = account(theatre, login, REPORTING)
    rules = client.credentials.rules_of(mine)
    assert (rules.login, rules.application) == (login, "Reporting database")
    for weak, lacks in (("Short1", "characters or more"), (f"{STRONG}-{login}", "of the login")):
        with pytest.raises(InvalidInput, match=lacks):
            client.credentials.type(mine, weak)
    made = client.credentials.type(mine, STRONG, reason="at the counter")
    *_, docket = client.dockets.follow(made.docket)
    assert docket.reason == "at the counter"
    assert docket.steps[0].after == "typed in"
    assert theatre.reporting.sign_in(login, STRONG)
    told = theatre.play.post.wait(f"{login}@", f"A new password for {login}")
    assert STRONG not in str(told)
    assert STRONG not in raw(theatre, "GET", f"/dockets/{made.docket}").text
    assert STRONG not in "".join(client.audit.export())

    other = "Harbour-Light-2031-Eight"
    typed = cli(
        theatre, "credentials", "renew", f"{login}/{DIRECTORY}", "--typed", answer=f"{other}\n"
    )
    assert typed.returncode == 0, typed.stderr
    number = typed.stdout.split(":")[0]
    list(client.dockets.follow(number))
    until(lambda: theatre.play.directory.sign_in(login, other))
    client.applications.read(DIRECTORY)
    found = client.accounts.page(who=login, application=DIRECTORY).items[0]
    assert found.duties == [Duty.PASSWORD], "a typed one is to be changed like one that was made"
    no = cli(theatre, "credentials", "renew", f"{login}/{DIRECTORY}", "--typed", answer="x\n")
    assert "characters or more" in no.stderr


def test_another_address_gets_the_link_once_after_the_mail_was_shown(theatre: Theatre) -> None:
    client, login = theatre.client, with_mail(theatre)
    mine = account(theatre, login, REPORTING)
    post = theatre.play.post
    link = client.credentials.hand_over(mine, "known in person").link
    to = f"{login}@home.example"
    shown = client.credentials.hand_over(mine, "staff card", to=to, look=True)
    assert shown.mail is not None
    assert (shown.link, shown.mail.address) == ("", to)
    assert "#" not in shown.mail.text
    assert post.mails(to) == [], "a look sends nothing"
    assert client.credentials.of(login)[0].unopened
    said = ("credentials", "hand-over", mine, "--check", "staff card", "--to", to)
    no = cli(theatre, *said, answer="n\n")
    assert "First sign-in to Reporting database" in no.stderr
    assert "Nothing was sent." in no.stderr
    yes = cli(theatre, *said, answer="y\n")
    assert yes.returncode == 0, yes.stderr
    token = post.wait(to)["text"].split("/c#")[1].split()[0]
    with pytest.raises(NotFound):  # the one before is dead
        client.accounts.open_credential(link.rsplit("#", 1)[1])
    opened = client.accounts.open_credential(token)
    assert theatre.reporting.sign_in(login, opened.secret)
    event = client.audit.page(action="credential.link").items[0]
    assert event.payload is not None
    assert (event.payload["check"], event.payload["address"]) == ("staff card", to)
    assert client.people.show(login).outside_mail != to, "it is kept nowhere else"
    with pytest.raises(Conflict, match="No unopened"):
        client.credentials.hand_over(mine, "staff card", to=to, look=True)
    bad = cli(theatre, *said[:-1], "nobody", "--yes")
    assert bad.returncode != 0
    assert "no mail address" in bad.stderr
