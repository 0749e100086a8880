"""New credentials for many, and slips: each once, on record, and good in the application itself."""

from __future__ import annotations

import html
import re
import stat
import time
from pathlib import Path

import pytest

from tests.acceptance.test_service import joined, newcomer
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.errors import InvalidInput
from yugum_standins.morrow import CREW, DIRECTORY, RADIO, REPORTING


def on_paper(page: str) -> list[tuple[str, str]]:
    """Login and password of each slip."""
    found = re.findall(r"<dt>Login</dt><dd>(.*?)</dd><dt>Password</dt><dd>(.*?)</dd>", page)
    return [(login, html.unescape(secret)) for login, secret in found]


def test_many_get_new_ones_and_slips_are_printed_once(theatre: Theatre, tmp_path: Path) -> None:
    client = theatre.client
    first, second, none = joined(theatre, "Deck"), joined(theatre, "Deck"), newcomer(theatre)
    looked = next(client.credentials.issue([first, second, none], [CREW, DIRECTORY], look=True))
    assert {(r.login, r.docket) for r in looked} == {(first, ""), (second, "")}
    assert len(looked) == 4
    before = {r.account_id: r for r in looked}
    made = next(client.credentials.issue([first, second, none], [CREW, DIRECTORY], reason="lost"))
    assert {r.account_id for r in made} == set(before)
    assert all(r.docket and not r.problem for r in made)
    for row in made:
        *_, docket = client.dockets.follow(row.docket)
        assert docket.reason == "lost"
    page = client.credentials.slips([first, second, none], [CREW, DIRECTORY]).decode()
    slips = on_paper(page)
    assert sorted(login for login, _ in slips) == sorted([first, first, second, second])
    assert len({secret for _, secret in slips}) == 4, "generated each"
    assert "Nothing to print" not in page
    assert on_paper(client.credentials.slips([first], [CREW]).decode()) == []
    assert f"{first} in Crew rosters" in client.credentials.slips([first], [CREW]).decode()
    printed = client.audit.page(action="credential.printed").items
    assert {(e.payload or {})["account"] for e in printed} >= {*before}


def test_what_is_on_the_slip_opens_the_account(theatre: Theatre, tmp_path: Path) -> None:
    login, to = joined(theatre, "Deck"), tmp_path / "slips.html"
    words = ("credentials", "issue", login, "--application", REPORTING, "--slips", str(to))
    done = cli(theatre, *words, "--yes")
    assert done.returncode == 0, done.stderr
    assert stat.S_IMODE(to.stat().st_mode) == 0o600
    ((name, secret),) = on_paper(to.read_text())
    assert name == login
    until(lambda: theatre.reporting.sign_in(login, secret))
    again = cli(theatre, *words, "--yes")
    assert "is there already" in again.stderr
    no = cli(theatre, *words[:3], answer="n\n")
    assert "Nothing was changed" in no.stderr
    other = cli(theatre, "credentials", "slips", login, "--to", str(tmp_path / "none.html"))
    assert "0 slips" not in other.stderr or other.returncode == 0


def test_what_is_about_to_be_replaced_is_not_printed(theatre: Theatre) -> None:
    client, login = theatre.client, joined(theatre, "Deck")
    assert cli(theatre, "stop", "nothing is set now").returncode == 0
    try:
        time.sleep(1.5)  # workers look once a second
        (made,) = next(client.credentials.issue([login], [REPORTING]))
        page = client.credentials.slips([login], [REPORTING]).decode()
        assert on_paper(page) == [], "the old one would be good for nothing"
        assert f"{login} in Reporting database" in page
    finally:
        assert cli(theatre, "go-on").returncode == 0
    until(lambda: client.dockets.show(made.docket).state == "done")
    ((_, secret),) = on_paper(client.credentials.slips([login], [REPORTING]).decode())
    assert theatre.reporting.sign_in(login, secret)


def test_what_takes_no_credential_is_refused(theatre: Theatre) -> None:
    login = newcomer(theatre)
    for wrong in (RADIO, "nowhere"):
        with pytest.raises(InvalidInput) as refused:
            next(theatre.client.credentials.issue([login], [wrong]))
        assert CREW in refused.value.remedy
