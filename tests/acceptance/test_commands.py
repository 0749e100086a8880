"""Every command that changes something, typed as an operator types it, and what it then says."""

from __future__ import annotations

import csv
import io
import json
import re
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest

from tests.acceptance.test_service import joined, newcomer
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import PASSWORD, session_of
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW, PLANNER, REPORTING


def typed(theatre: Theatre, *words: str, code: int = 0, answer: str = "") -> str:
    """What a command prints; it ends as expected."""
    done = cli(theatre, *words, answer=answer)
    assert done.returncode == code, (words, done.stdout, done.stderr)
    return done.stdout if code == 0 else done.stderr


def told(theatre: Theatre, *words: str) -> Any:
    return json.loads(typed(theatre, "--output", "json", *words))


def number_in(text: str) -> str:
    found = re.search(r"\b[A-Z]{1,6}-\d+\b", text)
    assert found is not None, text
    return found.group()


def wait_for_state(theatre: Theatre, number: str, state: str, seconds: float = 30) -> None:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and theatre.client.dockets.show(number).state != state:
        time.sleep(0.1)
    assert theatre.client.dockets.show(number).state == state


def test_a_whole_working_life_by_commands(theatre: Theatre) -> None:
    family = f"Q{uuid.uuid4().hex[:8]}"
    made = typed(
        theatre, "joiner", "?", "--given", "Ída", "--family", family, "--department", "Deck",
        "--site", "Oxhaven", "--yes", "--reference", "HR-1",
    )  # fmt: skip
    who = next(theatre.client.people.all(q=family)).user_name
    assert who.isascii()
    assert family in made
    assert theatre.crew.groups(who)
    moved = typed(theatre, "mover", who, "--department", "Timetables", "--overlap", "0", "--yes")
    assert "Timetables" in moved
    assert "Rosters" in theatre.crew.groups(who) or theatre.crew.groups(who)
    away = typed(theatre, "absence", who, "--until", "+20d", "--yes", "--reason", "parental")
    assert number_in(away)
    assert (theatre.crew.user(who) or {})["active"] is False
    assert theatre.client.people.show(who).state == "absent"
    back = typed(theatre, "returner", who, "--yes")
    assert number_in(back)
    assert (theatre.crew.user(who) or {})["active"] is True
    renamed = typed(theatre, "rename", who, "--family", f"{family}-Berg", "--yes")
    assert f"{family}-Berg" in theatre.client.people.show(who).display_name, renamed
    left = typed(theatre, "leaver", who, "--yes", "--reason", "new horizon")
    assert (theatre.crew.user(who) or {})["active"] is False
    assert theatre.reporting.role(who) in (False, None)
    undone = typed(theatre, "dockets", "undo", number_in(left), "--yes")
    assert number_in(undone) != number_in(left)
    assert (theatre.crew.user(who) or {})["active"] is True
    listed = told(theatre, "dockets", "list", "--who", who)
    verbs = [row["verb"] for row in listed]
    assert verbs[:2] == ["undo", "leaver"]
    assert {"joiner", "mover", "absence", "returner", "rename"} <= set(verbs)
    assert listed[-1]["reference"] == "HR-1"


def test_nothing_happens_without_a_yes(theatre: Theatre) -> None:
    login = joined(theatre)
    before = theatre.client.dockets.page(limit=1).total, len(theatre.crew.log())
    for words in (
        ("leaver", login),
        ("mover", login, "--department", "Deck"),
        ("absence", login, "--until", "+9d"),
        ("rename", login, "--family", "Other"),
    ):
        done = cli(theatre, *words, answer="n\n")
        assert done.returncode != 0 or "Nothing was changed" in done.stderr + done.stdout, words
        empty = cli(theatre, *words, answer="")
        assert empty.returncode != 0, (words, "no answer is no yes")
    assert (theatre.client.dockets.page(limit=1).total, len(theatre.crew.log())) == before


def test_an_exception_is_made_seen_and_ended(theatre: Theatre) -> None:
    login = joined(theatre, "Deck")
    typed(
        theatre, "people", "decide", login, "grant", "--application", CREW,
        "--entitlement", "Night duty", "--reason", "stands in", "--ends", "+30d",
    )  # fmt: skip
    shown = told(theatre, "people", "decisions", login)
    assert [(d["kind"], d["reason"]) for d in shown] == [("grant", "stands in")]
    do(theatre.client, Verb.JOINER, login)
    assert "Night duty" in theatre.crew.groups(login)
    explained = typed(theatre, "names", "explain", login)
    assert "Night duty" in explained
    typed(theatre, "people", "end-decision", shown[0]["id"])
    until(lambda: "Night duty" not in theatre.crew.groups(login))  # nobody has to ask for it
    refused = typed(theatre, "people", "decide", login, "grant", "--reason", "x", code=4)
    assert "application" in refused or "entitlement" in refused


def test_a_hold_by_command_keeps_from_purging(theatre: Theatre) -> None:
    login = joined(theatre)
    typed(theatre, "people", "decide", login, "hold", "--reason", "claim pending")
    do(theatre.client, Verb.LEAVER, login)
    account = next(
        a for a in theatre.client.people.show(login).accounts if a.application_id == CREW
    )
    forbidden = typed(theatre, "accounts", "delete", account.id, "--yes", code=4)
    assert "hold" in forbidden.lower()
    assert (theatre.crew.user(login) or {})["id"], "it is there"


def test_holds_are_listed_until_they_are_over(theatre: Theatre) -> None:
    login, client = joined(theatre), theatre.client
    tomorrow = f"{client.clock.show().now + timedelta(days=1):%Y-%m-%d}"
    typed(theatre, "people", "decide", login, "hold", "--reason", "a claim", "--ends", tomorrow)
    typed(theatre, "apps", "hold", REPORTING, "--reason", "an audit")
    name = client.people.show(login).display_name
    mine = {h.name: h for h in client.decisions.holds() if h.reason in ("a claim", "an audit")}
    assert (mine[name].person_id, mine[name].application_id) == (client.people.show(login).id, None)
    whole = mine["Reporting database"]
    assert (whole.person_id, whole.application_id, whole.ends_at) == (None, REPORTING, None)
    shown = typed(theatre, "holds")
    assert "application Reporting database  until it is ended  by iholm: an audit" in shown
    assert name in shown
    for hold in mine.values():
        assert f"yugum people end-decision {hold.id}" in shown
        typed(theatre, "people", "end-decision", hold.id)
    left = {h.id for h in client.decisions.holds()}
    assert not left & {h.id for h in mine.values()}
    past = ("--reason", "late", "--ends", "2030-01-01")
    for words in (("people", "decide", login, "hold"), ("apps", "hold", REPORTING)):
        assert "nothing would be decided" in typed(theatre, *words, *past, code=4)


def test_quick_actions_on_several_accounts(theatre: Theatre) -> None:
    logins = [joined(theatre) for _ in range(2)]
    ids = [
        a.id
        for login in logins
        for a in theatre.client.people.show(login).accounts
        if a.application_id == CREW
    ]
    typed(theatre, "accounts", "suspend", *ids, "--yes", "--reason", "lost phones")
    assert [(theatre.crew.user(x) or {})["active"] for x in logins] == [False, False]
    typed(theatre, "accounts", "resume", *ids, "--yes")
    assert [(theatre.crew.user(x) or {})["active"] for x in logins] == [True, True]
    shown = told(theatre, "accounts", "list", "--who", logins[0], "--application", CREW)
    assert [a["state"] for a in shown] == ["active"]


def test_a_purge_must_be_typed(theatre: Theatre) -> None:
    login = joined(theatre)
    do(theatre.client, Verb.LEAVER, login)
    account = next(
        a for a in theatre.client.people.show(login).accounts if a.application_id == CREW
    )
    refused = cli(theatre, "accounts", "purge", account.id, answer="something else\n")
    assert refused.returncode != 0
    assert (theatre.crew.user(login) or {})["id"], "it is there"
    assert theatre.client.people.show(login).accounts


def test_pools_and_their_holders(theatre: Theatre) -> None:
    pool = next(p for p in theatre.client.seats.all() if p.license == PLANNER)
    license = f"Simulator {uuid.uuid4().hex[:6]}"
    typed(theatre, "seats", "pool", CREW, license, "3", "--price", "12.50")
    listed = {p["license"]: p for p in told(theatre, "seats", "list")}
    assert (listed[license]["bought"], listed[license]["held"]) == (3, 0)
    typed(theatre, "seats", "pool", CREW, license, "5")
    assert {p["license"]: p["bought"] for p in told(theatre, "seats", "list")}[license] == 5
    holders = told(theatre, "seats", "holders", pool.id)
    assert len(holders) == pool.held + len([h for h in holders if h.get("state") == "waiting"])
    below = typed(theatre, "seats", "pool", CREW, license, "--", "-1", code=2)
    assert "-1 is not in the range x>=0" in below
    assert {p["license"]: p["bought"] for p in told(theatre, "seats", "list")}[license] == 5


def test_tokens_and_operators(theatre: Theatre) -> None:
    name = f"script {uuid.uuid4().hex[:6]}"
    session_of(theatre.client, theatre.stage.url, "iholm").close()  # with a password by now
    add = ("tokens", "add", name, "--scope", "viewer")
    secret = re.search(r"yg_\S+", typed(theatre, *add, answer=f"{PASSWORD}\n"))
    assert secret is not None
    row = next(t for t in told(theatre, "tokens", "list") if t["name"] == name)
    assert secret.group() not in json.dumps(row), "it is shown once"
    typed(theatre, *add, code=6, answer="a guess of somebody\n")
    typed(theatre, "tokens", "revoke", row["id"], answer=f"{PASSWORD}\n")
    typed(theatre, "tokens", "revoke", row["id"], code=3, answer=f"{PASSWORD}\n")
    assert name not in {t["name"] for t in told(theatre, "tokens", "list")}
    login = f"op{uuid.uuid4().hex[:6]}"
    link = typed(theatre, "operators", "add", login, "--name", "Op", "--role", "viewer")
    assert theatre.stage.url in link
    assert theatre.stage.url in typed(theatre, "operators", "link", login)
    again = ("operators", "add", login, "--name", "Op", "--role", "viewer")
    assert "already" in typed(theatre, *again, code=4)


def test_a_shared_credential_by_commands(theatre: Theatre) -> None:
    key = f"safe-{uuid.uuid4().hex[:6]}"
    login = joined(theatre)
    typed(theatre, "shared", "put", key, "--name", "Key safe", "--place", "Brae Point")
    typed(theatre, "shared", "known", key, "--add", login)
    do(theatre.client, Verb.LEAVER, login)
    due = {s["id"]: s for s in told(theatre, "shared", "list")}
    assert due[key]["left"] == [theatre.client.people.show(login).display_name]
    assert due[key]["due_since"]
    typed(theatre, "shared", "changed", key, "--note", "new code")
    after = {s["id"]: s for s in told(theatre, "shared", "list")}[key]
    assert (after["left"], after["due_since"]) == ([], None)
    typed(theatre, "shared", "drop", key)
    assert key not in {s["id"] for s in told(theatre, "shared", "list")}
    assert typed(theatre, "shared", "changed", key, code=3)


def test_a_record_is_the_same_in_each_form(theatre: Theatre) -> None:
    login = joined(theatre)
    number = do(theatre.client, Verb.LEAVER, login)
    as_json = json.loads(typed(theatre, "dockets", "record", number, "--form", "json"))
    lines = as_json["lines"] if isinstance(as_json, dict) else as_json
    rows = list(
        csv.DictReader(io.StringIO(typed(theatre, "dockets", "record", number, "--form", "csv")))
    )
    assert len(rows) == len(lines) > 5
    page = typed(theatre, "dockets", "record", number, "--form", "html")
    assert page.lstrip().lower().startswith("<!doctype html")
    assert number in page
    assert "<script" not in page
    sheet = typed(theatre, "cut-off-sheet", login)
    assert login in sheet


def test_a_name_like_a_formula_stays_text_in_a_spreadsheet(theatre: Theatre) -> None:
    login = newcomer(theatre)
    theatre.client.people.change(login, {"family_name": "=cmd|' /C calc'!A0"})
    theatre.client.people.change(login, {"display_name": "=1+1"})
    text = typed(theatre, "--output", "csv", "people", "list", "--search", login)
    cells = [cell for row in csv.reader(io.StringIO(text)) for cell in row]
    assert not [c for c in cells if c.startswith(("=", "+", "@"))], cells


def test_credentials_are_listed_handed_over_and_renewed(theatre: Theatre) -> None:
    login = joined(theatre)
    rows = told(theatre, "credentials", "list", login)
    account = next(r for r in rows if r["application_name"] == "Reporting database")["account_id"]
    assert "secret" not in json.dumps(rows)
    needs_check = cli(theatre, "credentials", "hand-over", account)
    assert needs_check.returncode == 2
    link = typed(theatre, "credentials", "hand-over", account, "--check", "badge 17 seen")
    assert theatre.stage.url in link
    number = number_in(typed(theatre, "credentials", "renew", account, "--reason", "lost"))
    wait_for_state(theatre, number, "done")
    audit = told(theatre, "audit", "list")
    assert any("badge 17 seen" in json.dumps(e) for e in audit)


def test_completion_and_help_reach_every_command(theatre: Theatre) -> None:
    for shell in ("bash", "zsh", "fish"):
        assert "yugum" in typed(theatre, "completion", shell).lower()
    seen: list[tuple[str, ...]] = []

    def walk(words: tuple[str, ...]) -> None:
        page = typed(theatre, *words, "--help")
        seen.append(words)
        assert page.startswith("Usage: "), words
        first = page.split("\n\n")[1].strip()
        assert len(first) > 10, (words, "says what it does")
        if "\nCommands:\n" in page:
            for line in page.split("\nCommands:\n")[1].splitlines():
                if re.match(r"^  \S", line):
                    walk((*words, line.split()[0]))

    walk(("rules",))
    walk(("dockets",))
    walk(("accounts",))
    assert len(seen) > 20


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("apps", "trust", "no-such", "full"), 3, "apps list"),
        (("apps", "read", "no-such"), 3, "apps list"),
        (("apps", "hold", "no-such", "--reason", "x"), 3, ""),
        (("dockets", "cancel", "MS-99999"), 3, "dockets list"),
        (("dockets", "undo", "MS-99999", "--yes"), 3, ""),
        (("dockets", "settle", "no-such", "retry"), 3, "no such step"),
        (("tasks", "done", "no-such"), 3, ""),
        (("tasks", "refuse", "no-such", "why"), 3, ""),
        (("approvals", "give", "no-such"), 3, ""),
        (("people", "end-decision", "no-such"), 3, ""),
        (("people", "merge", "nobody-1", "nobody-2", "--yes"), 3, ""),
        (("accounts", "suspend", "no-such", "--yes"), 3, ""),
        (("accounts", "link", "no-such"), 3, ""),
        (("findings", "keep", "no-such"), 3, ""),
        (("findings", "revert", "no-such", "--yes"), 3, ""),
        (("seats", "holders", "no-such"), 3, ""),
        (("seats", "pool", "no-such", "X", "3"), 3, ""),
        (("rules", "check", "/no/such/file.yaml"), 2, ""),
        (("rules", "show", "--version", "9999"), 3, ""),
        (("audit", "verify", "/no/such/file"), 2, ""),
        (("extend", "nobody at all", "--until", "+30d", "--yes"), 3, ""),
        (("operators", "link", "no-such"), 3, ""),
        (("plans", "fire", "no-such"), 3, ""),
        (("clock", "advance", "yesterday"), 4, ""),
    ],
    ids=lambda v: " ".join(v) if isinstance(v, tuple) else str(v),
)
def test_what_is_not_there_is_said_with_its_exit_code(
    theatre: Theatre, words: tuple[str, ...], code: int, said: str
) -> None:
    before = theatre.client.dockets.page(limit=1).total
    done = cli(theatre, *words)
    assert done.returncode == code, (words, done.stdout, done.stderr)
    assert "Traceback" not in done.stderr
    assert said in done.stderr
    assert theatre.client.dockets.page(limit=1).total == before


def test_a_plan_in_confidence_by_commands(theatre: Theatre) -> None:
    login = joined(theatre)
    typed(theatre, "leaver", login, "--confidential", "--yes")
    prepared = told(theatre, "plans", "list")
    name = theatre.client.people.show(login).display_name
    mine = next(p for p in prepared if name in json.dumps(p))
    assert theatre.client.people.show(login).access_ends is None
    batch = mine.get("batch_id") or mine["id"]
    assert name in typed(theatre, "plans", "show", batch)
    fired = (
        typed(theatre, "plans", "fire", batch, "--yes")
        if "--yes" in typed(theatre, "plans", "fire", "--help")
        else typed(theatre, "plans", "fire", batch, answer="y\n")
    )
    wait_for_state(theatre, number_in(fired), "done")
    assert (theatre.crew.user(login) or {})["active"] is False


def test_a_plan_of_many_is_one_batch_with_one_record(theatre: Theatre, tmp_path: Path) -> None:
    logins = [joined(theatre) for _ in range(3)]
    file = tmp_path / "leavers.txt"
    file.write_text("\n".join([*logins, "nobody-at-all"]) + "\n")
    assert "nobody-at-all" in typed(theatre, "leaver", "--file", str(file), "--yes", code=3)
    assert all((theatre.crew.user(x) or {})["active"] for x in logins), "one bad line stops all"
    file.write_text("\n".join(logins) + "\n")
    first = cli(theatre, "leaver", "--file", str(file), "--yes")
    stuck = [
        (s.application_name, s.action, s.problem)
        for login in logins
        for d in theatre.client.dockets.page(who=login).items[:1]
        for s in theatre.client.dockets.show(d.number).steps
        if s.state != "done"
    ]
    assert first.returncode == 0, (first.stderr, stuck)
    assert not any((theatre.crew.user(x) or {})["active"] for x in logins)
    number = number_in(first.stdout)
    whole = typed(theatre, "dockets", "record", number, "--batch", "--form", "csv")
    assert all(login in whole for login in logins)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.RETURNER, who=logins[:1]))
    assert batch.plans[0].steps


def test_answering_no_to_a_new_joiner_leaves_nobody_behind(theatre: Theatre) -> None:
    words = (
        *("joiner", "nnoone", "--given", "Nan", "--family", "Oone", "--number", "48101"),
        *("--department", "Timetables", "--starts", "+10d"),
    )
    cli_said = cli(theatre, *words, answer="n\n")
    assert cli_said.returncode == 0, cli_said.stderr
    assert "was not taken in" in cli_said.stderr
    assert "Nobody is called" in typed(theatre, "people", "show", "nnoone", code=3)
    (row,) = [r for r in told(theatre, "people", "declined") if r["user_name"] == "nnoone"]
    assert row["reason"] == "no plan for them was confirmed"
    again = typed(theatre, *words, "--yes", "--no-wait", code=4)
    assert "was declined by" in again
    assert "--again" in again
    typed(theatre, *words, "--yes", "--no-wait", "--again")
    twice = ("joiner", "nother", "--given", "Nan", "--family", "Oone", "--yes", "--no-wait")
    assert "same name" in typed(theatre, *twice, code=4)
    number = told(theatre, "people", "show", "nnoone")["dockets"][0]["number"]
    gone = typed(theatre, "people", "decline", "nnoone", "--reason", "not any more", "--yes")
    assert "was declined: not any more" in gone
    assert "cancelled" in typed(theatre, "dockets", "show", number)


def test_a_precaution_by_commands(theatre: Theatre) -> None:
    who = joined(theatre, "Timetables")
    take = ("precautions", "suspend", who, "--ground", "a claim", "--yes")
    assert "is not to come" in typed(theatre, *take, "--review", "2031-01-01", code=4)
    typed(theatre, *take, "--review", "+14d")
    (row,) = [r for r in told(theatre, "precautions", "list") if r["user_name"] == who]
    assert (row["ground"], row["measure"]) == ("a claim", "suspend")
    assert not (theatre.crew.user(who) or {})["active"]
    assert "under this precaution since" in typed(theatre, *take, "--review", "+14d", code=4)
    typed(theatre, "precautions", "lift", who, "--yes")
    assert (theatre.crew.user(who) or {})["active"]
    assert "under no precaution" in typed(theatre, "precautions", "lift", who, "--yes", code=3)
    secure = ("precautions", "secure", who, "--ground", "a lost key", "--review", "+3d", "--yes")
    typed(theatre, *secure)
    (docket,) = [d for d in told(theatre, "dockets", "list", "--who", who) if "anew" in d["title"]]
    assert docket["outcome"] == "done"
    typed(theatre, "precautions", "lift", who)
