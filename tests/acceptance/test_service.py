"""The service over HTTP: clear refusals, security, idempotency, undo; on the demo's stage."""

from __future__ import annotations

import json
import subprocess
import sys
import time
import uuid
from datetime import timedelta
from typing import Any

import httpx
import pytest

from tests.commands import cli
from tests.conftest import Theatre
from tests.waiting import until
from yugum import errors
from yugum.core.actions import Action
from yugum.core.dockets import Settlement
from yugum.core.lines import Side
from yugum.core.verbs import Quick, Verb
from yugum.wire import decisions as wde
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import seats as wse
from yugum_standins.load import do
from yugum_standins.morrow import CREW, PLANNER, REPORTING


def newcomer(theatre: Theatre, department: str = "Safety", **more: Any) -> str:
    """A new person with a login of their own, not yet in any application."""
    login = f"t{uuid.uuid4().hex[:10]}"
    theatre.client.people.create(
        [
            wp.NewPerson(
                user_name=login,
                given_name="Test",
                family_name=login.upper(),
                department=department,
                **more,
            )
        ]
    )
    return login


def joined(theatre: Theatre, department: str = "Safety") -> str:
    login = newcomer(theatre, department)
    assert theatre.client.dockets.show(do(theatre.client, Verb.JOINER, login)).state == "done"
    return login


def raw(theatre: Theatre, method: str, path: str, **more: Any) -> httpx.Response:
    headers = {"Authorization": f"Bearer {theatre.token}", **more.pop("headers", {})}
    return httpx.request(
        method, f"{theatre.stage.url}/api/v1{path}", headers=headers, timeout=60, **more
    )


def test_what_waits_for_an_application_is_not_done_once_its_cause_is_undone(
    theatre: Theatre,
) -> None:
    """The way in was to end with an exception; the move is undone, and a role gives it again."""
    client, crew = theatre.client, theatre.play.crew
    login, now = joined(theatre, "Deck"), theatre.client.clock.show().now
    payload = wde.DecisionPayload(application=CREW, kind="entitlement", item="Night duty")
    ends = (now + timedelta(days=2)).isoformat()
    client.decisions.make(
        wde.NewDecision(who=login, kind="grant", payload=payload, reason="a fair", ends=ends)
    )
    move = do(client, Verb.MOVER, login, changes={"department": "Chandlery"}, right=["department"])
    assert (crew.user(login) or {})["active"], "the exception keeps it"
    crew.fault(down=1)
    try:
        for _ in client.clock.advance((now + timedelta(days=2, hours=1)).isoformat()):
            pass
        until(lambda: "no-answer" in str(client.people.show(login).standing))
        client.plans.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=move)))
        # That the exception has ended is so all the same: it is the move's that go.
        until(
            lambda: (
                {r.item for r in client.people.show(login).standing if r.side == Side.TOO_MUCH}
                <= {"Night duty"}
            )
        )
    finally:
        crew.fault(down=0)
    for docket in client.people.show(login).dockets:
        list(client.dockets.follow(docket.number))
    until(lambda: "Deck crew" in crew.groups(login))
    assert (crew.user(login) or {})["active"]


def test_an_undo_opens_nothing_that_a_precaution_or_a_decision_keeps_closed(
    theatre: Theatre,
) -> None:
    client, login = theatre.client, joined(theatre)
    absence = do(client, Verb.ABSENCE, login, until="+20d")
    do(client, Verb.ACCOUNT, login, measure="suspend", ground="a claim", review="+30d")
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=absence))
    (plan,) = batch.plans
    assert not [s for s in plan.steps if s.action in (Action.RESUME, Action.SET_CREDENTIAL)]
    lost = [f for f in plan.fidelity if f.what.endswith(": access")]
    assert lost
    assert {(f.comes_back, f.why) for f in lost} == {(False, "stays closed (precaution)")}
    client.plans.confirm(batch)
    shown = client.people.show(login)
    assert {a.state.value for a in shown.accounts} == {"suspended"}


def test_an_undo_closes_no_account_that_was_closed_and_brought_back_since(
    theatre: Theatre,
) -> None:
    client, login = theatre.client, newcomer(theatre, "Deck")
    joined_by = do(client, Verb.JOINER, login)
    account = next(a for a in client.people.show(login).accounts if a.application_id == CREW)
    for action in (Quick.DELETE, Quick.RESTORE):
        new = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account.id], action=action)
        made = client.plans.confirm(client.plans.make(new), typed=login)
        list(client.dockets.follow(made[0].number))
    (plan,) = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=joined_by)).plans
    closing = {s.application_id for s in plan.steps if s.action in (Action.DELETE, Action.PARK)}
    assert closing
    assert CREW not in closing
    assert any("brought back by others since" in f.why for f in plan.fidelity)


def test_undo_puts_a_leaver_back_as_before(theatre: Theatre) -> None:
    login = joined(theatre, "Timetables")
    manager = theatre.play.organisation.of("Timetables").user_name
    theatre.crew.add_roster(login, f"roster of {login}")
    before = (
        theatre.crew.groups(login),
        theatre.reporting.groups(login),
        theatre.crew.rosters(login),
    )
    number = do(theatre.client, Verb.LEAVER, login, successor=manager)
    assert theatre.crew.groups(login) == set()
    assert theatre.reporting.role(login) is False
    homes = list(theatre.client.handovers(docket=number))
    assert [(h.name, h.to_login) for h in homes] == [(f"roster of {login}", manager)]
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    assert any("password" in f.what for f in batch.plans[0].fidelity if not f.comes_back)
    docket = theatre.client.plans.confirm(batch)[0]
    view = list(theatre.client.dockets.follow(docket.number))[-1]
    assert view.state == "done"
    after = (
        theatre.crew.groups(login),
        theatre.reporting.groups(login),
        theatre.crew.rosters(login),
    )
    assert after == before
    assert theatre.reporting.role(login) is True
    shown = theatre.client.people.show(login)
    assert shown.state == "active"
    assert shown.access_ends is None
    again = theatre.client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login]))
    assert again.plans[0].steps == []


def test_undo_of_a_joiner_leaves_no_open_account(theatre: Theatre) -> None:
    login = newcomer(theatre)
    number = do(theatre.client, Verb.JOINER, login)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    docket = theatre.client.plans.confirm(batch)[0]
    assert list(theatre.client.dockets.follow(docket.number))[-1].state == "done"
    assert theatre.crew.user(login) is None
    assert theatre.crew.deleted(login) is not None
    assert theatre.reporting.role(login) is False


def test_a_scheduled_leaver_is_cancelled_with_its_date(theatre: Theatre) -> None:
    login = joined(theatre)
    number = do(theatre.client, Verb.LEAVER, login, at="+30d")
    assert theatre.client.people.show(login).access_ends is not None
    assert theatre.client.dockets.cancel(number, "a mistake").state == "cancelled"
    assert theatre.client.people.show(login).access_ends is None
    with pytest.raises(errors.Conflict):
        theatre.client.dockets.cancel(number)


def test_an_application_that_is_down_does_not_hold_up_the_other(theatre: Theatre) -> None:
    login = joined(theatre)
    theatre.crew.fault(down=1)
    try:
        batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
        assert any(c.code == "not-seen" for c in batch.plans[0].cautions)
        number = theatre.client.plans.confirm(batch)[0].number
        deadline = time.monotonic() + 20
        while theatre.reporting.role(login) is not False and time.monotonic() < deadline:
            time.sleep(0.05)
        assert theatre.reporting.role(login) is False
        view = list(theatre.client.dockets.follow(number))[-1]
        assert view.state == "running"
        stuck = [s for s in view.steps if s.problem]
        assert stuck[0].application_name == "Crew rosters"
        assert "Jun Aster" in stuck[0].contact
        late = {(o.display_name, o.application_name) for o in theatre.client.day().open_late}
        assert (theatre.client.people.show(login).display_name, "Crew rosters") in late
    finally:
        theatre.crew.fault(down=0)
    deadline = time.monotonic() + 30
    while theatre.client.dockets.show(number).state != "done" and time.monotonic() < deadline:
        time.sleep(0.2)
    assert theatre.client.dockets.show(number).state == "done"
    assert (theatre.crew.user(login) or {})["active"] is False
    cuts = [
        e
        for e in theatre.crew.log()
        if e["effect"] == "user.suspended" and e["user"] == (theatre.crew.user(login) or {})["id"]
    ]
    assert len(cuts) == 1


def test_a_full_pool_makes_the_newcomer_wait_until_a_seat_returns(theatre: Theatre) -> None:
    client = theatre.client
    pool = next(p for p in client.seats.all() if p.license == PLANNER)
    holder = joined(theatre, "Timetables")
    full = wse.PutPool(application_id=CREW, license=PLANNER, bought=pool.held + 1)
    try:
        client.seats.put(full)
        login = newcomer(theatre, "Timetables")
        batch = client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login]))
        assert any(c.code == "no-seat" for c in batch.plans[0].cautions)
        number = client.plans.confirm(batch)[0].number
        view = list(client.dockets.follow(number))[-1]
        assert [s.problem.code for s in view.steps if s.problem] == ["no-seat"]
        assert theatre.crew.groups(login)  # everything else was given
        do(client, Verb.LEAVER, holder)
        deadline = time.monotonic() + 20
        while client.dockets.show(number).state != "done" and time.monotonic() < deadline:
            time.sleep(0.1)
        assert theatre.crew.seats(login) == [PLANNER]
    finally:
        client.seats.put(wse.PutPool(application_id=CREW, license=PLANNER, bought=pool.bought))


def test_a_stuck_step_is_left_out_with_a_reason(theatre: Theatre) -> None:
    login = joined(theatre)
    theatre.client.decisions.make(
        wde.NewDecision(
            who=login,
            kind="grant",
            reason="trial",
            payload={"application": CREW, "kind": "entitlement", "item": "No such"},
            new=True,
        )
    )
    number = do(theatre.client, Verb.JOINER, login)
    step = next(s for s in theatre.client.dockets.show(number).steps if s.problem)
    assert step.state == "attention"
    assert "no group" in (step.problem.text if step.problem else "")
    with pytest.raises(errors.InvalidInput):
        theatre.client.dockets.settle(step.id, Settlement.LEFT_OUT, "")
    theatre.client.dockets.settle(step.id, Settlement.LEFT_OUT, "not needed after all")
    assert list(theatre.client.dockets.follow(number))[-1].state == "done"


def test_a_plan_made_from_old_facts_is_refused(theatre: Theatre) -> None:
    login = joined(theatre)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
    theatre.client.people.change(login, {"title": "Drill lead"})
    with pytest.raises(errors.PlanStale):
        theatre.client.plans.confirm(batch)
    assert (theatre.crew.user(login) or {})["active"] is True


BAD = [
    ({"verb": "leaver", "who": ["nobody at all"]}, 404, "not-found"),
    ({"verb": "leaver", "who": ["Quill"]}, 409, "ambiguous"),
    ({"verb": "leaver", "who": ["LOGIN"], "at": "03/04/2031"}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN"], "at": "2031-02-29"}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN"], "at": "2001-01-01"}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN"], "successor": "GONE"}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN"], "successor": "LOGIN"}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN", "LOGIN"]}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["GONE"]}, 409, "conflict"),
    ({"verb": "mover", "who": ["LOGIN"]}, 422, "invalid-input"),
    ({"verb": "mover", "who": ["LOGIN"], "changes": {"salary": "1"}}, 422, "invalid-input"),
    ({"verb": "returner", "who": ["LOGIN"]}, 409, "conflict"),
    ({"verb": "leaver", "who": []}, 422, "invalid-input"),
    ({"verb": "fire", "who": ["LOGIN"]}, 422, "invalid-input"),
    ({"verb": "leaver", "who": ["LOGIN"], "wen": "now"}, 422, "invalid-input"),
    ({"verb": "undo", "docket": "MS-999999"}, 404, "not-found"),
    ({"verb": "account", "accounts": ["no-such"], "action": "restore"}, 404, "not-found"),
]


@pytest.fixture(scope="module")
def cast(theatre: Theatre) -> dict[str, str]:
    gone = joined(theatre)
    do(theatre.client, Verb.LEAVER, gone)
    return {"LOGIN": joined(theatre), "GONE": gone}


@pytest.mark.parametrize(("body", "status", "code"), BAD)
def test_bad_input_is_a_clear_problem_and_changes_nothing(
    theatre: Theatre, cast: dict[str, str], body: dict[str, Any], status: int, code: str
) -> None:
    text = json.dumps(body)
    for name, login in cast.items():
        text = text.replace(f'"{name}"', f'"{login}"')
    before = theatre.client.dockets.page(limit=1).total, len(theatre.crew.log())
    reply = raw(
        theatre, "POST", "/plans", content=text, headers={"Content-Type": "application/json"}
    )
    assert reply.status_code == status, reply.text
    assert reply.headers["Content-Type"] == "application/problem+json"
    problem = reply.json()
    assert problem["code"] == code
    assert problem["detail"]
    assert (theatre.client.dockets.page(limit=1).total, len(theatre.crew.log())) == before


def test_a_window_that_is_over_is_refused_with_the_way_out(theatre: Theatre) -> None:
    login = joined(theatre)
    account = next(
        a for a in theatre.client.people.show(login).accounts if a.application_id == REPORTING
    )
    do(theatre.client, Verb.LEAVER, login)
    import psycopg

    with psycopg.connect(theatre.reporting.url, autocommit=True) as connection:
        connection.execute(f'DROP OWNED BY "{login}"'.encode())
        for database in ("timetables", "finance"):
            with psycopg.connect(
                theatre.reporting.as_user(None, database), autocommit=True
            ) as other:
                other.execute(f'DROP OWNED BY "{login}"'.encode())
        connection.execute(f'DROP ROLE "{login}"'.encode())
    with pytest.raises(errors.WindowOver) as caught:
        theatre.client.plans.make(
            wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account.id], action="restore")
        )
    assert "returner" in caught.value.remedy


def test_bad_filters_cursors_and_bodies(theatre: Theatre) -> None:
    for path, place in (
        ("/people?filter=department%20eq", "filter"),
        ("/people?cursor=zzz", "cursor"),
        ("/people?limit=0", "limit"),
    ):
        reply = raw(theatre, "GET", path)
        assert reply.status_code == 422, path
        assert reply.json()["place"] == place
    reply = raw(
        theatre, "POST", "/plans", content=b"{", headers={"Content-Type": "application/json"}
    )
    assert reply.status_code == 400
    assert raw(theatre, "GET", "/nothing").status_code == 404


def test_a_repeated_request_is_answered_as_the_first(theatre: Theatre) -> None:
    login = f"t{uuid.uuid4().hex[:10]}"
    body = {"people": [{"user_name": login, "given_name": "Once"}]}
    key = {"Idempotency-Key": str(uuid.uuid4())}
    first = raw(theatre, "POST", "/people", json=body, headers=key)
    again = raw(theatre, "POST", "/people", json=body, headers=key)
    assert (first.status_code, again.status_code) == (201, 201)
    assert first.json() == again.json()
    other = {"people": [{"user_name": f"{login}x"}]}
    assert raw(theatre, "POST", "/people", json=other, headers=key).status_code == 409
    secret = raw(theatre, "POST", "/operators/iholm/link", headers={"Idempotency-Key": "k1"})
    assert "/welcome#" in secret.json()["link"]
    hidden = raw(theatre, "POST", "/operators/iholm/link", headers={"Idempotency-Key": "k1"})
    assert hidden.status_code == 409
    assert "/welcome#" not in hidden.text


def test_confirming_twice_makes_one_docket(theatre: Theatre) -> None:
    login = joined(theatre)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], at="+40d"))
    first = theatre.client.plans.confirm(batch)
    again = theatre.client.plans.confirm(batch)
    assert [d.id for d in first] == [d.id for d in again]
    theatre.client.dockets.cancel(first[0].number)


def test_a_change_meets_somebody_elses(theatre: Theatre) -> None:
    login = newcomer(theatre)
    rev = theatre.client.people.show(login).rev
    theatre.client.people.change(login, {"title": "First"}, rev=rev)
    with pytest.raises(errors.PlanStale):
        theatre.client.people.change(login, {"title": "Second"}, rev=rev)
    assert theatre.client.people.show(login).title == "First"


def test_lists_are_paged_without_gaps(theatre: Theatre) -> None:
    ids = [p.id for p in theatre.client.people.all(filter='department eq "Deck"')]
    cursor, seen = None, []
    while True:
        page = theatre.client.people.page(filter='department eq "Deck"', limit=7, cursor=cursor)
        seen += [p.id for p in page.items]
        cursor = page.next
        if cursor is None:
            break
    assert seen == ids
    assert len(set(ids)) == len(ids) >= 70


def test_rights_tokens_and_signing_in(theatre: Theatre) -> None:
    url = f"{theatre.stage.url}/api/v1"
    assert httpx.get(f"{url}/people").status_code == 401
    made = theatre.client.operators.add(wop.NewOperator(login="vera", name="Vera", role="viewer"))
    with httpx.Client(base_url=url) as browser:
        link = made.link.rsplit("#", 1)[1]
        session = browser.post("/session/link", json={"token": link}).json()
        assert browser.post("/session/link", json={"token": link}).status_code == 401
        cookie = next(c for c in browser.cookies.jar if c.name == "yugum_session")
        assert cookie.has_nonstandard_attr("HttpOnly")
        assert browser.get("/people").status_code == 200
        csrf = {"X-Yugum-CSRF": session["csrf"]}
        plan = {"verb": "leaver", "who": ["x"]}
        assert browser.post("/plans", json=plan).json()["detail"].startswith("The request does not")
        assert browser.post("/plans", json=plan, headers=csrf).json()["code"] == "forbidden"
        short = browser.put("/session/password", json={"password": "short"}, headers=csrf)
        assert short.status_code == 422
        good = {"password": "four words make it long"}
        assert browser.put("/session/password", json=good, headers=csrf).status_code == 204
    for _ in range(5):
        wrong = httpx.post(f"{url}/session", json={"login": "vera", "password": "guess"})
        assert wrong.status_code == 401
    blocked = httpx.post(f"{url}/session", json={"login": "vera", **good})
    assert blocked.status_code == 429
    assert int(blocked.headers["Retry-After"]) > 0


def test_the_last_administrator_stays(theatre: Theatre) -> None:
    me = theatre.client.session().operator
    with pytest.raises(errors.InvalidInput, match="last administrator"):
        theatre.client.operators.change(me.id, wop.OperatorChange(role="viewer"))


def test_headers_keep_the_console_to_itself(theatre: Theatre) -> None:
    reply = httpx.get(theatre.stage.url)
    policy = reply.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert reply.headers["X-Content-Type-Options"] == "nosniff"
    assert httpx.get(f"{theatre.stage.url}/metrics").status_code == 401
    held = {"Authorization": f"Bearer {theatre.token}"}
    metrics = httpx.get(f"{theatre.stage.url}/metrics", headers=held)
    assert metrics.text.count("yugum_people") > 1


def test_secrets_are_not_at_rest_in_clear(theatre: Theatre) -> None:
    """Connector secrets, tokens and initial credentials: not in the database, not in the logs."""
    login = joined(theatre)
    secret = theatre.play.secret(login, REPORTING)
    import psycopg

    dump = ""
    with psycopg.connect(theatre.stage.env["YUGUM_DATABASE_URL"]) as connection:
        tables = connection.execute(
            "SELECT tablename FROM pg_tables WHERE schemaname = 'public'"
        ).fetchall()
        for (table,) in tables:
            rows = connection.execute(f'SELECT t::text FROM "{table}" t'.encode()).fetchall()
            dump += "\n".join(r[0] for r in rows)
    logs = "".join(p.read_text(errors="replace") for p in theatre.stage.folder.rglob("*.log"))
    connector = theatre.crew.headers["Authorization"].split()[1]
    for hidden in (secret, theatre.token, connector):
        assert hidden not in dump
        assert hidden not in logs
    assert login in dump


def test_the_command_line_tells_the_remedy_and_the_exit_code(theatre: Theatre) -> None:
    login = joined(theatre)
    for words, code, said in (
        (("people", "show", "nobody at all"), 3, "people list --search"),
        (("people", "show", "Quill"), 3, "by number or login"),
        (("people", "list", "--filter", "dept eq"), 4, "filter"),
        (("leaver", login, "--at", "03/04/2031"), 4, "two ways"),
        (("leaver", login, "--successor", login), 4, "themselves"),
        (("dockets", "show", "MS-99999"), 3, "dockets list"),
    ):
        done = cli(theatre, *words)
        assert done.returncode == code, (words, done.stderr)
        assert said in done.stderr
    wrong = subprocess.run(
        [
            sys.executable,
            "-m",
            "yugum.cli.main",
            "--url",
            "http://127.0.0.1:9",
            "--token",
            "x",
            "status",
        ],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert wrong.returncode == 5


def test_the_command_line_shows_asks_and_does(theatre: Theatre) -> None:
    login = joined(theatre)
    asked = cli(theatre, "leaver", login, answer="n\n")
    assert "because has left" in asked.stdout
    assert "Nothing was changed" in asked.stderr
    assert theatre.reporting.role(login) is True
    done = cli(theatre, "leaver", login, "--yes", "--reference", "HR-1")
    assert done.returncode == 0, done.stderr
    assert theatre.reporting.role(login) is False
    listed = json.loads(cli(theatre, "--output", "json", "dockets", "list", "--who", login).stdout)
    assert listed[0]["reference"] == "HR-1"
    table = cli(theatre, "--output", "csv", "accounts", "list", "--who", login).stdout
    assert table.splitlines()[0].startswith("application_name,login")
    names = {line.split(",")[0] for line in table.splitlines()[1:]}
    assert {"Crew rosters", "Reporting database", "Staff directory"} <= names


def test_status_names_every_address_and_what_does_not_answer(theatre: Theatre) -> None:
    good = cli(theatre, "--output", "json", "status")
    assert good.returncode == 0, good.stderr
    shown = json.loads(good.stdout)
    assert shown["url"] == theatre.stage.url
    assert {a["problem"] for a in shown["applications"]} == {""}
    assert all("@" not in a["address"] for a in shown["applications"])
    reached = [a for a in shown["applications"] if a["kind"] not in ("manual", "sign-on")]
    assert all(a["address"] for a in reached)
    theatre.crew.fault(down=1)
    try:
        down = cli(theatre, "--output", "json", "status")
    finally:
        theatre.crew.fault(down=0)
    assert down.returncode == 7
    problems = {a["id"]: a["problem"] for a in json.loads(down.stdout)["applications"]}
    assert "does not answer" in problems[CREW]
    assert problems[REPORTING] == ""


def test_the_exported_log_verifies_on_the_command_line(theatre: Theatre, tmp_path: Any) -> None:
    time.sleep(1.5)
    file = tmp_path / "log.jsonl"
    assert cli(theatre, "audit", "export", str(file)).returncode == 0
    good = cli(theatre, "audit", "verify", str(file))
    assert "nothing changed" in good.stdout, good.stderr
    file.write_text(file.read_text().replace("iholm", "eholm", 1))
    bad = cli(theatre, "audit", "verify", str(file))
    assert bad.returncode == 4
