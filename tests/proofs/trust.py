"""The proof ``guard``: attacked from outside and mistyped at, asked of the service and the applications."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import httpx

from tests.proofs.leaver import refused
from tests.proofs.play import Play
from tests.signing import PASSWORD, session_of, token_of
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW, TICKETS

OTHERS = ("bkrog", "keeper", "looker")


def guard(play: Play) -> None:
    for login, role in zip(OTHERS, ("administrator", "operator", "viewer"), strict=True):
        play.client.operators.add(wop.NewOperator(login=login, name=login.title(), role=role))
    _tokens(play)
    _integrations(play)
    _signing_in(play)
    _one_of_many(play)
    _oneself(play)
    _mistyped(play)
    _not_kept(play)
    _disconnected(play)
    _database(play)


def _call(play: Play, method: str, path: str, **more: Any) -> httpx.Response:
    token = json.loads((play.stage.folder / "client.json").read_text())["token"]
    headers = {"Authorization": f"Bearer {token}"}
    url = f"{play.stage.url}/api/v1{path}"
    return httpx.request(method, url, headers=headers, timeout=60, **more)


def _tokens(play: Play) -> None:
    report, url = play.report, play.stage.url
    report.section("A viewer's token does not become its operator")
    token = token_of(play.client, url, "looker", "viewer")
    with Client(url, token) as held:
        new = wop.NewToken(name="more", scope="viewer", password=PASSWORD)
        for what, call in (
            ("a token", lambda: held.tokens.add(new)),
            ("a password", lambda: held.sessions.set_password("four other words here", PASSWORD)),
            ("the end of sessions", lambda: held.sessions.end_others(PASSWORD)),
        ):
            said = refused(call)
            report.check(f"{what} needs a session", "needs a session" in said, said)
        report.section("Disabled is for good")
        with session_of(play.client, url, "looker") as session:
            row = next(o for o in play.client.operators.all() if o.login == "looker")
            with _watching(play, token) as ended:
                play.client.operators.change(row.id, wop.OperatorChange(active=False))
                seconds = ended()
            report.check("the stream that was open ends within seconds", seconds < 5, seconds)
            play.client.operators.change(row.id, wop.OperatorChange(active=True))
            for what, one in (("session", session), ("token", held)):
                said = refused(one.session)
                report.check(f"enabled again, the {what} is still gone", "Sign in" in said, said)
    report.equal(
        "the new password is nobody's", _signs_in(play, "looker", "four other words here"), 401
    )


@contextmanager
def _watching(play: Play, token: str) -> Iterator[Callable[[], float]]:
    """A docket that does not end, watched with a token; how long until the stream has ended."""
    who = play.organisation.of("Timetables", skip=9).user_name
    batch = play.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who], at="+20d"))
    number = play.client.plans.confirm(batch)[0].number
    url = f"{play.stage.url}/api/v1/dockets/{number}/events"
    bearer = {"Authorization": f"Bearer {token}"}
    with httpx.stream("GET", url, headers=bearer, timeout=60) as reply:
        lines = reply.iter_lines()
        next(lines)

        def ended() -> float:
            began = time.monotonic()
            for _ in lines:
                if time.monotonic() - began > 30:
                    break
            return time.monotonic() - began

        yield ended


def _signs_in(play: Play, login: str, password: str, **headers: str) -> int:
    body = {"login": login, "password": password}
    url = f"{play.stage.url}/api/v1/session"
    return httpx.post(url, json=body, headers=headers, timeout=60).status_code


def _integrations(play: Play) -> None:
    report, client, url = play.report, play.client, play.stage.url
    report.section("An integration outlives who answers for it")
    with session_of(client, url, "keeper") as keeper:
        keeper.integrations.add(wop.NewIntegration(login="feed", name="Feed", role="operator"))
        new = wop.NewToken(name="f", scope="operator", password=PASSWORD, integration="feed")
        token = keeper.tokens.add(new).token
    row = next(o for o in client.operators.all() if o.login == "keeper")
    client.operators.change(row.id, wop.OperatorChange(active=False))
    with Client(url, token) as feed:
        report.equal("it goes on", feed.session().operator.login, "feed")
        (found,) = client.integrations.all()
        report.check("an administrator answers for it", found.owner != "keeper", found.owner)
        said = refused(lambda: feed.operators.link("iholm"))
        report.check("it decides about no operator", bool(said), said)
    told = client.audit.page(action="integration.passed-on").items
    report.equal("that is on record", len(told), 1)


def _signing_in(play: Play) -> None:
    report, client, url = play.report, play.client, play.stage.url
    report.section("Guessing locks nobody else out, and cannot be raced")
    session_of(client, url, "bkrog").close()
    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda _: _signs_in(play, "bkrog", "a guess"), range(12)))
    report.equal("of twelve at once five are tried", answers.count(401), 5)
    report.equal("the others are told to wait", answers.count(429), 7)
    report.equal(
        "a header nobody vouches for changes nothing",
        _signs_in(play, "bkrog", PASSWORD, **{"X-Forwarded-For": "10.9.8.7"}),
        429,
    )
    report.equal("another login signs in from there", _signs_in(play, "looker", PASSWORD), 200)


def _one_of_many(play: Play) -> None:
    report, client = play.report, play.client
    report.section("One name or address stops nobody's mail")
    for field, value in (
        ("given_name", "A\u2028nna"),
        ("family_name", "B\u0085erg"),
        ("mail", "a@morrow.example, b@morrow.example"),
        ("outside_mail", "a@morrow.example\r\nBcc: all@morrow.example"),
    ):
        body = {"people": [{"user_name": "nobad", "given_name": "No", field: value}]}
        reply = _call(play, "POST", "/people", json=body)
        report.equal(f"{field} {value!r} is refused", reply.status_code, 422)
        report.equal("and the place named", reply.json()["place"], f"people.0.{field}")
    report.section("40 views of a docket at once")
    number = client.dockets.page(limit=1).items[0].number
    with ThreadPoolExecutor(40) as pool:
        got = list(
            pool.map(lambda _: _call(play, "GET", f"/dockets/{number}").status_code, range(200))
        )
    report.equal("200 of 200 answered", got.count(200), 200)


def _oneself(play: Play) -> None:
    report, client, url = play.report, play.client, play.stage.url
    report.section("Nobody decides about themselves")
    who = play.organisation.of("Deck", skip=4).user_name
    client.operators.add(wop.NewOperator(login="own", name="Own", role="operator", person=who))
    before = play.crew.groups(who)
    grant = wde.NewDecision(
        who=who,
        kind="grant",
        payload=wde.DecisionPayload(application=CREW, kind="entitlement", item="Night duty"),
        reason="for me",
    )
    with Client(url, token_of(client, url, "own", "operator")) as own:
        for what, call in (
            ("an exception", lambda: own.decisions.make(grant)),
            (
                "a move",
                lambda: own.plans.make(
                    wl.NewPlan(verb="mover", who=[who], changes={"department": "Engine Room"})
                ),
            ),
            ("a correction", lambda: own.people.change(who, {"department": "Engine Room"})),
        ):
            said = refused(call)
            report.check(f"{what}: somebody else does", "Ask another operator" in said, said)
    report.equal("Crew rosters: the groups are as they were", play.crew.groups(who), before)
    said = refused(
        lambda: client.operators.add(wop.NewOperator(login="\u0456holm", name="I", role="viewer"))
    )
    report.check("a login that looks like iholm is refused", "looks like" in said, said)


def _mistyped(play: Play) -> None:
    report = play.report
    report.section("What nobody knows is refused, not passed over")
    for path, status in (
        ("/people?departmnt=Deck", 422),
        ("/accounts?filter=x", 422),
        ("/dockets?filter=x", 422),
        ("/audit?filter=x", 422),
        ("/people?filter=shoe%20eq%20%2244%22", 422),
        ("/accounts?application=crw", 404),
        ("/standing?application=crw", 404),
        ("/people?limit=1&limit=2", 422),
    ):
        report.equal(f"GET {path}", _call(play, "GET", path).status_code, status)
    report.equal("PUT /people is 405", _call(play, "PUT", "/people").status_code, 405)
    reply = _call(play, "GET", "/plans/x/confirm")
    report.equal(
        "GET on a call that is a POST is 405",
        (reply.status_code, reply.headers["Allow"]),
        (405, "POST"),
    )
    long = httpx.post(
        f"{play.stage.url}/api/v1/session", json={"login": "x" * 99_999, "password": ""}
    )
    report.equal("100 KB to sign in with: 413", long.status_code, 413)
    report.equal("metrics need a token", httpx.get(f"{play.stage.url}/metrics").status_code, 401)


def _not_kept(play: Play) -> None:
    report, client = play.report, play.client
    report.section("What is refused is not kept")
    before = {a.id for a in client.applications.all()}
    body = {
        "id": "bad",
        "name": "Bad",
        "kind": "scim",
        "trust": "full",
        "url": "http://127.0.0.1:1/x",
        "secret": "canary-17",
    }
    reply = _call(play, "POST", "/applications", json=body)
    report.check(
        "an application that does not answer is refused", reply.status_code >= 400, reply.text
    )
    report.check("without its secret in what is said", "canary-17" not in reply.text, reply.text)
    report.equal("and is not listed", {a.id for a in client.applications.all()}, before)
    report.check("the status call answers", client.status(check=True) is not None)


def _disconnected(play: Play) -> None:
    report, client = play.report, play.client
    report.section("An application is disconnected, and comes back")
    who = play.organisation.of("Deck", "Deckhand", skip=14)
    before = {a.login: a.id for a in client.accounts.all(application=TICKETS)}
    asked = client.decisions.make
    payload = wde.DecisionPayload(application=CREW, kind="entitlement", item="Night dutty")
    new = wde.NewDecision(who=who.user_name, kind="grant", payload=payload, reason="nights")
    said = refused(lambda: asked(new))
    report.check("a group nobody knows is refused, with the one meant", "Night duty" in said, said)
    plan = client.applications.plan_disconnection(TICKETS)
    for line in plan.follows:
        report.note(line)
    wrong = plan.model_copy(update={"digest": "0" * 64})
    said = refused(lambda: client.applications.disconnect(wrong, "sold"))
    report.check("not as something else was shown", "has changed" in said, said)
    client.applications.disconnect(plan, "sold")
    gone = {a.id: a.archived for a in client.applications.gone()}
    report.equal("it is gone, its accounts are kept", gone.get(TICKETS), len(before))
    said = refused(lambda: client.applications.read(TICKETS))
    report.check("it is read no more", "There is no application" in said, said)
    left = [f for f in client.findings.all() if f.application_name == "Ticket sales"]
    report.equal("no finding speaks of it", left, [])
    seller = next(iter(before))
    reach = play.organisation.others[TICKETS]
    look = CrewLook(reach["url"], reach["headers"])
    report.check("Ticket sales itself: as it was", look.user(seller) is not None)
    client.applications.connect(
        wap.ConnectApplication(
            id=TICKETS,
            name="Ticket sales",
            kind="scim",
            url=f"{reach['url']}/scim/v2",
            secret=reach["token"],
            trust=Trust.FULL,
        )
    )
    client.applications.read(TICKETS)
    after = {a.login: a.id for a in client.accounts.all(application=TICKETS)}
    report.equal("connected again, every account is the one it was", after, before)


def _database(play: Play) -> None:
    report, client = play.report, play.client
    report.section("The database dies while somebody is being cut off")
    who = play.organisation.of("Timetables", skip=12)
    own = play.stage.clusters["postgres"]
    assert own.process is not None
    client.people.create(
        [
            wp.NewPerson(
                user_name="nlate", given_name="Nia", family_name="Late", department="Timetables"
            )
        ]
    )
    before = own.process.pid
    own.process.kill()
    away = _call(play, "GET", "/people/nlate")
    for _ in range(50):
        if away.status_code == 503:
            break
        away = _call(play, "GET", "/people/nlate")
    report.check(
        "calls are 503 or wait until it is back", away.status_code in (200, 503), away.text
    )
    report.check(
        "503 says when to come again", away.status_code == 200 or "Retry-After" in away.headers
    )
    play.until(lambda: _call(play, "GET", "/people/nlate").status_code == 200, 60)
    number = do(client, Verb.LEAVER, who.user_name)
    report.check("it was started again by itself", own.process.pid != before, own.process.pid)
    report.equal("the leaver is done", client.dockets.show(number).state, "done")
    user = play.crew.user(who.user_name)
    report.equal("Crew rosters: cut off", bool(user and user["active"]), False)
    report.equal("nothing is lost", client.people.show("nlate").display_name, "Nia Late")
