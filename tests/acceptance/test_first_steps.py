"""The first steps of an installation, and rules held against what applications have."""

from __future__ import annotations

import io
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest.mock import patch

import psycopg
import pytest

from tests.begun import begun
from tests.conftest import Theatre
from yugum.cli.main import main
from yugum.cluster import Cluster
from yugum.core.applications import Trust
from yugum.wire import seats as wse
from yugum_standins.morrow import CREW, DIRECTORY, EXCHANGE, PLANNER, RADIO, REPORTER, REPORTING

RULE = """
roles:
  Deck:
    when: department eq "Deck"
    gives:
      - application: {application}
        entitlements: [{group}]
"""
SEAT = RULE.replace("entitlements: [{group}]", "seats: [{license}]")


def typed(state: Path, answer: str, *words: str) -> tuple[int, str]:
    """A command of somebody whose state folder this is."""
    out = io.StringIO()
    with (
        patch.object(sys, "argv", ["yugum", "--state", str(state), *words]),
        patch.object(sys, "stdin", io.StringIO(answer)),
        redirect_stdout(out),
        redirect_stderr(out),
        pytest.raises(SystemExit) as end,
    ):
        main()
    return int(end.value.code or 0), out.getvalue()


@pytest.fixture
def reports(cluster: Cluster) -> str:
    """An application of one's own: a cluster with an account of somebody and one of nobody's."""
    with psycopg.connect(cluster.url(), autocommit=True) as connection:
        connection.execute("DROP ROLE IF EXISTS jlund, left_long_ago, deck_reports")
        connection.execute("CREATE ROLE deck_reports NOLOGIN")
        connection.execute("CREATE ROLE jlund LOGIN IN ROLE deck_reports")
        connection.execute("CREATE ROLE left_long_ago LOGIN")
    return cluster.url()


def test_setup_leads_from_a_link_to_what_is_found_and_passes_over_what_is_done(
    database_url: str, reports: str, tmp_path: Path
) -> None:
    staff = tmp_path / "staff.csv"
    staff.write_text("Login,First name,Last name,Department\njlund,Jo,Lund,Deck\nbad one,,,Deck\n")
    mine = tmp_path / "mine"
    with begun(database_url) as (_, link):
        code, told = typed(mine, "a long new password\n\n\n", "setup", link)
        assert code == 0, told
        assert "Later: yugum people file" in told
        assert "Later: yugum apps connect" in told
        code, told = typed(mine, "nowhere.csv\n", "setup")
        assert code == 4
        assert "There is no file nowhere.csv" in told
        code, told = typed(mine, f"{staff}\nfax\n", "setup")
        assert code == 4
        assert "There is no kind fax" in told
        assert "1 row to correct" in told, "the other one is in"
        code, told = typed(mine, f"postgres\nReports\n\n\n{reports}\n", "setup")
        assert code == 0, told
        assert "1 person already" in told
        assert "1 linked, 1 with nobody behind" in told
        assert "1 nobody behind" in told
        assert "yugum apps trust reports full" in told
        code, told = typed(mine, "", "setup")
        assert code == 0
        assert "There are: Reports" in told
        code, told = typed(mine, "", "apps", "list")
        assert Trust.WATCH.value in told
        rules = tmp_path / "rules.yaml"
        rules.write_text(RULE.format(application="reports", group="deck_report"))
        code, told = typed(mine, "", "rules", "adopt", str(rules), "--yes")
        assert code == 4
        assert f"{rules}:7:24: reports has no group deck_report." in told
        assert "Did you mean 'deck_reports'?" in told


@pytest.mark.parametrize(
    ("application", "group", "near"),
    [
        (CREW, "Deck crw", "Deck crew"),
        (DIRECTORY, "Stafff", "Staff"),
        (REPORTING, "deck_report", "deck_reports"),
    ],
)
def test_a_group_that_an_application_has_not_is_a_mistake(
    theatre: Theatre, application: str, group: str, near: str
) -> None:
    check = theatre.client.rules.check
    found = check(RULE.format(application=application, group=group))
    assert [(p.line, p.message) for p in found] == [(7, f"{application} has no group {group}.")]
    assert f"'{near}'" in found[0].remedy
    assert check(RULE.format(application=application, group=near)) == []


def test_a_license_that_an_application_does_not_sell_is_a_mistake(theatre: Theatre) -> None:
    """Also where somebody has made a pool of it here."""
    ghost = wse.PutPool(application_id=EXCHANGE, license="Berth seats", bought=5)
    theatre.client.seats.put(ghost)
    text = SEAT.format(application=EXCHANGE, license=ghost.license)
    found = theatre.client.rules.check(text)
    assert [(p.line, p.message) for p in found] == [(7, f"{EXCHANGE} has no license Berth seats.")]
    assert "'Berth seat'" in found[0].remedy
    assert theatre.client.rules.check(SEAT.format(application=CREW, license=PLANNER)) == []
    # Of a database the book of seats is kept here: its pools are its licenses.
    assert theatre.client.rules.check(SEAT.format(application=REPORTING, license=REPORTER)) == []


def test_an_application_that_does_not_say_what_it_has_makes_no_mistakes(theatre: Theatre) -> None:
    assert theatre.client.rules.check(RULE.format(application=RADIO, group="Any")) == []
