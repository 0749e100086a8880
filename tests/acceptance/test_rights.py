"""Who may do what: every call of the description, tried by nobody, a viewer and an operator."""

from __future__ import annotations

import re
from typing import Any

import httpx
import pytest

from tests.acceptance.test_service import joined, newcomer, raw
from tests.acceptance.test_standing import until
from tests.conftest import Theatre
from tests.signing import PASSWORD, session_of, token_of
from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.errors import Conflict, Forbidden, InvalidInput, Unauthenticated, YugumError
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import operators as wop
from yugum.wire import plans as wl
from yugum_standins.morrow import CREW

Call = tuple[str, str]

OPEN = {
    ("POST", "/session"),
    ("POST", "/session/link"),
    ("POST", "/approval-links/open"),
    ("POST", "/approval-links/answer"),
    ("POST", "/seat-links/open"),
    ("POST", "/seat-links/answer"),
    ("POST", "/takeover-links/open"),
    ("POST", "/takeover-links/answer"),
    ("POST", "/credentials/open"),
    ("POST", "/credentials/choose"),
    ("POST", "/credentials/rules"),
}
"""What needs nobody signed in: signing in itself, and what a one-time link opens."""
OF_EVERYBODY = {
    ("POST", "/views"),
    ("PUT", "/views/{view_id}"),
    ("DELETE", "/views/{view_id}"),
    ("PUT", "/views/{view_id}/start"),
    ("DELETE", "/views/start"),
    ("DELETE", "/session"),
    ("PUT", "/session/password"),
    ("POST", "/session/others/end"),
    ("POST", "/tokens"),
    ("DELETE", "/tokens/{token_id}"),
    ("POST", "/names/suggest"),
    ("POST", "/people/would-get"),
    ("POST", "/rules/check"),
    ("POST", "/rules/try"),
    ("POST", "/approvals/{approval_id}/answer"),
}
"""What changes nothing but one's own: whoever may read may ask, and whoever is asked may answer."""
OF_ADMINISTRATORS = {
    ("POST", "/applications"),
    ("PATCH", "/applications/{application_id}/profile"),
    ("PATCH", "/applications/{application_id}/trust"),
    ("POST", "/operators"),
    ("POST", "/operators/{login}/link"),
    ("PATCH", "/operators/{operator_id}"),
    ("POST", "/applications/{application_id}/hold"),
    ("POST", "/applications/{application_id}/disconnection"),
    ("POST", "/seats"),
    ("POST", "/orders/{order_id}/decision"),
    ("POST", "/orders/{order_id}/expected"),
    ("POST", "/orders/{order_id}/arrived"),
    ("DELETE", "/seats/{pool_id}"),
    ("POST", "/seats/{pool_id}/purchases"),
    ("PUT", "/seats/{pool_id}/purchases/{purchase_id}"),
    ("DELETE", "/seats/{pool_id}/purchases/{purchase_id}"),
    ("DELETE", "/status/stop"),
    ("POST", "/rules"),
}


@pytest.fixture(scope="module")
def calls(theatre: Theatre) -> list[Call]:
    document = httpx.get(
        f"{theatre.stage.url}/api/v1/openapi.json",
        headers={"Authorization": f"Bearer {theatre.token}"},
    ).json()
    return [
        (method.upper(), path.removeprefix("/api/v1"))
        for path, methods in document["paths"].items()
        for method in methods
    ]


@pytest.fixture(scope="module")
def tokens(theatre: Theatre) -> dict[str, str]:
    """A token of each lower scope, both of an administrator: the scope is what counts."""
    url = theatre.stage.url
    return {s: token_of(theatre.client, url, "iholm", s) for s in ("viewer", "operator")}


def attempt(theatre: Theatre, call: Call, token: str = "") -> httpx.Response:
    method, path = call
    filled = re.sub(r"\{[^}]+\}", "no-such", path)
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    body: Any = {"no": "such"} if method in ("POST", "PUT", "PATCH") else None
    url = f"{theatre.stage.url}/api/v1{filled}"
    return httpx.request(method, url, headers=headers, json=body, timeout=60)


def test_nothing_is_told_to_who_is_not_signed_in(theatre: Theatre, calls: list[Call]) -> None:
    assert set(calls) >= OPEN, "the list above follows the description"
    for call in calls:
        if call in OPEN:
            continue
        reply = attempt(theatre, call)
        assert reply.status_code == 401, (call, reply.status_code, reply.text)
        assert reply.headers["Content-Type"] == "application/problem+json", call
        wrong = attempt(theatre, call, "yg_" + "x" * 40)
        assert wrong.status_code == 401, (call, "with a token that is none")


def test_a_viewer_changes_nothing(
    theatre: Theatre, calls: list[Call], tokens: dict[str, str]
) -> None:
    changing = [c for c in calls if c[0] != "GET" and c not in OPEN | OF_EVERYBODY]
    assert len(changing) > 30
    for call in changing:
        reply = attempt(theatre, call, tokens["viewer"])
        assert reply.status_code == 403, (call, reply.status_code, reply.text)
        assert reply.json()["code"] == "forbidden", call
        assert "viewer" in reply.json()["detail"], call


def test_an_operator_does_the_daily_work_and_not_the_administrators(
    theatre: Theatre, calls: list[Call], tokens: dict[str, str]
) -> None:
    changing = {c for c in calls if c[0] != "GET" and c not in OPEN | OF_EVERYBODY}
    refused = {c for c in changing if attempt(theatre, c, tokens["operator"]).status_code == 403}
    assert (
        refused
        == OF_ADMINISTRATORS
        | {
            ("POST", "/applications/{application_id}/accounts-file"),
            ("DELETE", "/status/stop"),
        }
        & refused
        | OF_ADMINISTRATORS
    )


@pytest.mark.parametrize("scope", ["viewer", "operator", "administrator"])
def test_no_token_becomes_its_operator(theatre: Theatre, scope: str) -> None:
    """Neither a password nor a token nor the end of a session comes of a token, whatever it may do."""
    url = theatre.stage.url
    with Client(url, token_of(theatre.client, url, "iholm", scope)) as held:
        more = wop.NewToken(name="more", scope="viewer", password=PASSWORD)
        others = held.tokens.all()[0].id
        for call in (
            lambda: held.tokens.add(more),
            lambda: held.sessions.set_password("another four words here", PASSWORD),
            lambda: held.sessions.end_others(PASSWORD),
            lambda: held.tokens.revoke(others),
        ):
            with pytest.raises(Forbidden, match="needs a session"):
                call()
        own = next(t.id for t in held.tokens.all() if t.name == f"test {scope}")
    with Client.signed_in(url, "iholm", PASSWORD) as session:
        with pytest.raises(Forbidden, match="present password"):
            session.tokens.add(more.model_copy(update={"password": "a guess of somebody"}))
        session.tokens.revoke(own)


def test_what_lets_somebody_in_is_proven_told_and_ends_other_sessions(theatre: Theatre) -> None:
    client, url = theatre.client, theatre.stage.url
    someone = newcomer(theatre, mail="careful@morrowsound.example")
    client.operators.add(
        wop.NewOperator(login="careful", name="Careful", role="viewer", person=someone)
    )
    first = session_of(client, url, "careful")
    with Client.signed_in(url, "careful", PASSWORD) as other, first:
        with pytest.raises(Forbidden, match="present password"):
            other.sessions.set_password("something else entirely", "not it at all")
        fresh = "another four words here"
        other.sessions.set_password(fresh, PASSWORD)
        with pytest.raises(Unauthenticated):
            first.session()
        with Client.signed_in(url, "careful", fresh) as third:
            other.sessions.end_others(fresh)
            with pytest.raises(Unauthenticated):
                third.session()
        made = other.tokens.add(wop.NewToken(name="own", scope="viewer", password=fresh))
    with Client(url, made.token) as held:
        assert held.session().operator.login == "careful"
    told = [m.subject for m in client.mails.all(who=someone)]
    assert any("password was set" in s for s in told)
    assert any("API token own" in s for s in told)
    events = ("password.set", "token.added", "sessions.ended")
    until(lambda: all(e in "".join(client.audit.export()) for e in events))  # once sealed


def test_an_integration_outlives_who_answers_for_it(theatre: Theatre) -> None:
    client, url = theatre.client, theatre.stage.url
    client.operators.add(wop.NewOperator(login="keeper", name="Keeper", role="operator"))
    with session_of(client, url, "keeper") as keeper:
        with pytest.raises(InvalidInput, match="more rights"):
            keeper.integrations.add(
                wop.NewIntegration(login="feed", name="Feed", role="administrator")
            )
        keeper.integrations.add(wop.NewIntegration(login="feed", name="Feed", role="operator"))
        new = wop.NewToken(name="feed", scope="operator", password=PASSWORD, integration="feed")
        text = keeper.tokens.add(new).token
    with Client(url, text) as feed:
        assert feed.session().operator.login == "feed"
        with pytest.raises(Forbidden):
            feed.operators.link("keeper")
        with pytest.raises(Forbidden, match="not for an integration"):
            feed.integrations.add(wop.NewIntegration(login="more", name="More", role="viewer"))
        row = next(o for o in client.operators.all() if o.login == "keeper")
        client.operators.change(row.id, wop.OperatorChange(active=False))
        assert feed.session().operator.login == "feed", "it goes on"
        (found,) = [i for i in client.integrations.all() if i.login == "feed"]
        assert found.owner != "keeper"
        client.operators.change(row.id, wop.OperatorChange(active=True))
        with pytest.raises(Conflict, match="an integration"):
            client.operators.link("feed")
        client.integrations.end("feed")
        with pytest.raises(Unauthenticated):
            feed.session()


def test_the_plan_of_a_leaver_says_what_goes_on_without_them(theatre: Theatre) -> None:
    client, url = theatre.client, theatre.stage.url
    who, heir = joined(theatre), joined(theatre)
    for login, person in (("goer", who), ("stayer", heir)):
        new = wop.NewOperator(login=login, name=login, role="operator", person=person)
        client.operators.add(new)
    with session_of(client, url, "goer") as goer:
        goer.integrations.add(wop.NewIntegration(login="tide-feed", name="T", role="operator"))
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who], successor=heir))
    told = [c.text for c in batch.plans[0].cautions if c.code == "works-here"]
    assert len(told) == 1
    assert "1 integration they answer for (tide-feed) goes on under the successor" in told[0]
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    row = next(i for i in client.integrations.all() if i.login == "tide-feed")
    assert (row.active, row.owner) == (True, "stayer")
    client.integrations.end("tide-feed")
    stayer = next(o for o in client.operators.all() if o.login == "stayer")
    client.operators.change(stayer.id, wop.OperatorChange(active=False))


def test_who_is_no_operator_any_more_is_out_at_once(theatre: Theatre) -> None:
    theatre.client.operators.add(
        wop.NewOperator(login="temporary", name="Temporary", role="operator")
    )
    url, client = theatre.stage.url, theatre.client
    with session_of(client, url, "temporary") as session:
        new = wop.NewToken(name="own", scope="operator", password=PASSWORD)
        with Client(url, session.tokens.add(new).token) as held:
            assert held.session().operator.login == "temporary"
            link = client.operators.link("temporary").link.rsplit("#", 1)[1]
            operator = next(o for o in client.operators.all() if o.login == "temporary")
            client.operators.change(operator.id, wop.OperatorChange(active=False))
            with pytest.raises(Conflict, match="disabled"):
                client.operators.link("temporary")
            client.operators.change(operator.id, wop.OperatorChange(active=True))
            for one in (session, held):  # what was lost stays lost
                with pytest.raises(Unauthenticated):
                    one.session()
        with pytest.raises(Unauthenticated):
            Client.by_link(url, link)


def test_a_lower_role_counts_for_sessions_that_are_open(theatre: Theatre) -> None:
    made = theatre.client.operators.add(
        wop.NewOperator(login="lowered", name="Lowered", role="operator")
    )
    with httpx.Client(base_url=f"{theatre.stage.url}/api/v1") as browser:
        link = made.link.rsplit("#", 1)[1]
        csrf = browser.post("/session/link", json={"token": link}).json()["csrf"]
        plan = {"verb": "leaver", "who": ["nobody at all"]}
        headers = {"X-Yugum-CSRF": csrf}
        assert browser.post("/plans", json=plan, headers=headers).status_code == 404
        operator = next(o for o in theatre.client.operators.all() if o.login == "lowered")
        theatre.client.operators.change(operator.id, wop.OperatorChange(role="viewer"))
        assert browser.post("/plans", json=plan, headers=headers).status_code == 403
        assert browser.get("/people").status_code == 200


def test_a_sign_in_link_is_good_once_and_the_newest_only(theatre: Theatre) -> None:
    made = theatre.client.operators.add(
        wop.NewOperator(login="forgetful", name="Forgetful", role="viewer")
    )
    newer = theatre.client.operators.link("forgetful")
    url = f"{theatre.stage.url}/api/v1/session/link"
    secret = newer.link.rsplit("#", 1)[1]
    assert httpx.post(url, json={"token": secret}).status_code in (200, 201)
    for used in (secret, made.link.rsplit("#", 1)[1], secret[:-1], ""):
        assert httpx.post(url, json={"token": used}).status_code in (401, 422)


def test_nobody_decides_about_themselves_while_somebody_else_could(theatre: Theatre) -> None:
    client, url = theatre.client, theatre.stage.url
    who = joined(theatre, "Deck")
    client.operators.add(wop.NewOperator(login="selfmade", name="S", role="operator", person=who))
    grant = wde.NewDecision(
        who=who,
        kind="grant",
        payload=wde.DecisionPayload(application=CREW, kind="entitlement", item="Night duty"),
        reason="for me",
    )
    with Client(url, token_of(client, url, "selfmade", "operator")) as own:
        for call in (
            lambda: own.decisions.make(grant),
            lambda: own.plans.make(
                wl.NewPlan(verb="mover", who=[who], changes={"department": "Engine Room"})
            ),
            lambda: own.people.change(who, {"department": "Engine Room"}),
        ):
            with pytest.raises(Forbidden, match="about themselves"):
                call()
        own.plans.make(wl.NewPlan(verb="recheck", who=[who]))
        move = wl.NewPlan(verb="mover", who=[who], changes={"department": "Safety"}, at="+9d")
        with pytest.raises(Forbidden, match="about themselves"):
            own.plans.confirm(client.plans.make(move))  # though somebody else has planned it
        number = client.plans.confirm(client.plans.make(move))[0].number
        with pytest.raises(Forbidden, match="about themselves"):
            own.dockets.cancel(number)
        assert client.dockets.show(number).state == "scheduled"
        client.dockets.cancel(number)
    assert client.people.show(who).department == "Deck"
    client.decisions.make(grant)


def test_a_login_that_looks_like_another_is_refused(theatre: Theatre) -> None:
    for login in ("IHOLM", "\u0456holm", "\uff49holm"):
        with pytest.raises(Conflict, match="looks like"):
            theatre.client.operators.add(wop.NewOperator(login=login, name="I", role="viewer"))
    for login in ("i holm", "i\u0307\u0307 x"):
        with pytest.raises(InvalidInput):
            theatre.client.operators.add(wop.NewOperator(login=login, name="I", role="viewer"))


def test_an_application_that_is_refused_is_not_kept(theatre: Theatre) -> None:
    client = theatre.client
    known = {a.id: a for a in client.applications.all()}
    for kind, url in (
        ("scim", "http://["),
        ("scim", "http://127.0.0.1:1/scim/v2"),
        ("postgres", ""),
        ("ldap", "ldap://["),
        ("no-such", ""),
    ):
        new = {"id": "refused", "name": "Refused", "kind": kind, "trust": "full"}
        new |= {"url": url, "secret": "canary-93"}
        reply = raw(theatre, "POST", "/applications", json=new)
        assert reply.status_code in (409, 422, 502), reply.text
        assert "canary-93" not in reply.text
    assert {a.id for a in client.applications.all()} == set(known)
    client.status(check=True)
    with pytest.raises(YugumError):
        client.applications.connect(
            wap.ConnectApplication(
                id=CREW,
                name=known[CREW].name,
                kind="scim",
                trust="full",
                url="http://127.0.0.1:1/scim/v2",
                secret="wrong",
            )
        )
    client.applications.read(CREW)  # it is reached as before
