"""What every connector must do, on the real thing: SCIM in three dialects, PostgreSQL and LDAP."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import AsyncIterator
from datetime import UTC, datetime
from typing import Any

import psycopg
import pytest
from psycopg import sql

from tests.conftest import Theatre
from yugum.connectors.ldap import connect as ldap
from yugum.connectors.postgres import PostgresConnector
from yugum.connectors.scim import ScimConnector
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.core.actions.registry import is_fulfilled
from yugum.core.applications import Capability
from yugum.errors import ApplicationRejected, ApplicationUnavailable
from yugum.ports.connectors import AccountRef, Connector, ConnectorSpec
from yugum.storage.database import PostgresDatabase
from yugum_standins.morrow import INCIDENTS, MAINTENANCE

GROUP = {
    "scim": "Night duty",
    "plain": "Everybody",
    "put": "Investigators",
    "cursor": "Work orders",
    "postgres": "archive_readers",
    "ldap": "Harbour radio",
}
PARKING = ("postgres", "ldap", "plain", "put")
FULL_SCIM = ("scim", "cursor")
UNTIL = datetime(2031, 5, 1, 12, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def plain(theatre: Theatre) -> dict[str, Any]:
    """A SCIM application of somebody else's: no extension at all."""
    stage = theatre.stage
    port_notes = stage.folder / "plain.json"
    if not port_notes.exists():
        import secrets

        from yugum.cluster import free_port
        from yugum_standins.stage import wait_for, write_private

        token, port = secrets.token_urlsafe(12), free_port()
        write_private(port_notes, {"token": token, "port": port})
        seed = stage.folder / "plain.seed.json"
        seed.write_text('{"groups": ["Everybody"], "users": []}')
        child = stage.spawn(
            "plain",
            [
                "yugum_standins.main",
                "--name",
                "plain",
                "--port",
                str(port),
                "--plain",
                "--with-parent",
                "--seed",
                str(seed),
                "--token",
                token,
            ],
        )
        wait_for(
            f"http://127.0.0.1:{port}/panel/health", child, {"Authorization": f"Bearer {token}"}
        )
    import json

    notes: dict[str, Any] = json.loads(port_notes.read_text())
    return notes


@pytest.fixture(params=list(GROUP))
async def subject(
    request: pytest.FixtureRequest,
    theatre: Theatre,
    plain: dict[str, Any],
    database: PostgresDatabase,
) -> AsyncIterator[tuple[str, Connector]]:
    kind = request.param
    made: Connector
    if kind == "postgres":
        made = PostgresConnector("Reporting database", theatre.reporting.url)
    elif kind == "ldap":
        directory = theatre.stage.directories[0]
        made = ldap(
            ConnectorSpec(
                name="Staff directory",
                url=directory.url,
                secret=directory.password,
                options=directory.options,
                application_id="directory",
                database=database,
            )
        )
    elif kind in ("put", "cursor"):
        name = {"put": INCIDENTS, "cursor": MAINTENANCE}[kind]
        other = theatre.play.organisation.others[name]
        made = ScimConnector(name, f"{other['url']}/scim/v2", other["token"])
    elif kind == "plain":
        url = f"http://127.0.0.1:{plain['port']}/scim/v2"
        made = ScimConnector("Plain", url, plain["token"])
    else:
        made = ScimConnector(
            "Crew rosters",
            f"{theatre.crew.url}/scim/v2",
            theatre.crew.headers["Authorization"].split()[1],
        )
    yield kind, made
    await made.close()


async def create(connector: Connector) -> AccountRef:
    key, login = str(uuid.uuid4()), f"o'brien-{uuid.uuid4().hex[:8]}\"x"
    arguments = Arguments(login=login, display_name="Test")
    did = await connector.act(Action.CREATE, AccountRef(key, "", login), "", arguments)
    return AccountRef(key, did.external_id, login)


async def seen(connector: Connector, ref: AccountRef, **more: bool) -> Observed:
    found = await connector.observe(ref, **more)
    assert found is not None
    return found


async def test_discovery_tells_the_applications_apart(subject: tuple[str, Connector]) -> None:
    kind, connector = subject
    can = (await connector.discover()).capabilities
    assert (Capability.RESTORE in can) is (kind in FULL_SCIM)
    assert (Capability.SEATS in can) is (kind in FULL_SCIM)
    assert (Capability.ASSETS in can) is (kind in (*FULL_SCIM, "postgres", "ldap"))
    assert Capability.ENTITLEMENTS in can
    assert Capability.SUSPEND in can


async def test_an_account_lives_through_create_grant_cut_off_and_resume(
    subject: tuple[str, Connector],
) -> None:
    kind, connector = subject
    ref = await create(connector)
    assert (await seen(connector, AccountRef(ref.account_id, "", ref.login))).correlation == (
        ref.account_id
    )
    await connector.act(Action.GRANT, ref, GROUP[kind], NO_ARGUMENTS)
    await connector.act(Action.GRANT, ref, GROUP[kind], NO_ARGUMENTS)  # twice is once
    assert (await seen(connector, ref)).entitlements == {GROUP[kind]}
    await connector.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
    cut = await seen(connector, ref)
    assert is_fulfilled(Action.CUT_OFF, "", cut, NO_ARGUMENTS)
    assert cut.state is AccountState.SUSPENDED
    await connector.act(Action.REVOKE, ref, GROUP[kind], NO_ARGUMENTS)
    assert (await seen(connector, ref)).entitlements == frozenset()
    await connector.act(Action.RESUME, ref, "", NO_ARGUMENTS)
    assert (await seen(connector, ref)).state is AccountState.ACTIVE


async def test_a_login_that_is_taken_is_refused_with_a_remedy(
    subject: tuple[str, Connector],
) -> None:
    _, connector = subject
    ref = await create(connector)
    other = AccountRef(str(uuid.uuid4()), "", ref.login)
    with pytest.raises(ApplicationRejected) as caught:
        await connector.act(
            Action.CREATE, other, "", Arguments(login=ref.login, display_name="Somebody else")
        )
    assert "another login" in caught.value.remedy


async def test_going_and_coming_back(subject: tuple[str, Connector]) -> None:
    kind, connector = subject
    ref = await create(connector)
    if kind in PARKING:
        await connector.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
        await connector.act(Action.PARK, ref, "", Arguments(until=UNTIL.isoformat()))
        assert (await seen(connector, ref)).recoverable_until == UNTIL
    else:
        await connector.act(Action.DELETE, ref, "", NO_ARGUMENTS)
    gone = await connector.observe(ref)
    assert is_fulfilled(Action.DELETE, "", gone, NO_ARGUMENTS)
    assert gone is not None
    assert gone.state is AccountState.DELETED
    await connector.act(Action.RESTORE, ref, "", NO_ARGUMENTS)
    assert (await seen(connector, ref)).state is AccountState.SUSPENDED
    if kind in FULL_SCIM:
        await connector.act(Action.DELETE, ref, "", NO_ARGUMENTS)
    await connector.act(Action.PURGE, ref, "", NO_ARGUMENTS)
    assert await connector.observe(ref) is None


async def test_every_account_is_read_once(subject: tuple[str, Connector]) -> None:
    _, connector = subject
    ref = await create(connector)
    ids = [o.external_id async for page in connector.read() for o in page]
    assert ids.count(ref.external_id) == 1
    assert len(ids) == len(set(ids))


async def test_an_unknown_group_is_refused(subject: tuple[str, Connector]) -> None:
    _, connector = subject
    ref = await create(connector)
    with pytest.raises(ApplicationRejected):
        await connector.act(Action.GRANT, ref, "no such group; DROP TABLE x", NO_ARGUMENTS)
    assert (await seen(connector, ref)).entitlements == frozenset()


async def test_an_application_that_does_not_answer_is_unavailable() -> None:
    scim = ScimConnector("Nobody", "http://127.0.0.1:9/scim/v2", "x", timeout=1)
    with pytest.raises(ApplicationUnavailable):
        await scim.observe(AccountRef("a", "b", "c"))
    await scim.close()
    database = PostgresConnector("Nobody", "postgresql://u:p@127.0.0.1:9/x", timeout=1)
    with pytest.raises(ApplicationUnavailable):
        await database.observe(AccountRef("a", "1", "c"))
    await database.close()


async def test_a_role_that_owns_something_is_not_dropped(theatre: Theatre) -> None:
    import psycopg

    connector = PostgresConnector("Reporting database", theatre.reporting.url)
    ref = await create(connector)
    heir = await create(connector)
    with psycopg.connect(theatre.reporting.as_user(None, "finance"), autocommit=True) as c:
        name = psycopg.sql.Identifier(ref.login)
        c.execute(psycopg.sql.SQL("CREATE SCHEMA {0} AUTHORIZATION {0}").format(name))
        c.execute(psycopg.sql.SQL("CREATE TABLE {0}.t (id serial)").format(name))
        c.execute(psycopg.sql.SQL("ALTER TABLE {0}.t OWNER TO {0}").format(name))
        c.execute(psycopg.sql.SQL("GRANT SELECT ON ALL TABLES IN SCHEMA public TO {}").format(name))
        ahead = psycopg.sql.SQL("ALTER DEFAULT PRIVILEGES FOR ROLE {} ").format(name)
        c.execute(
            ahead + psycopg.sql.SQL("IN SCHEMA {} GRANT SELECT ON TABLES TO PUBLIC").format(name)
        )
        c.execute(ahead + psycopg.sql.SQL("REVOKE EXECUTE ON FUNCTIONS FROM PUBLIC"))
    with pytest.raises(ApplicationRejected) as caught:
        await connector.act(Action.PURGE, ref, "", NO_ARGUMENTS)
    assert "Hand them over" in caught.value.remedy
    owned = (await seen(connector, ref, assets=True)).assets or ()
    counted = {"schema": 1, "table": 1, "default privilege": 2}
    assert Counter(a.kind for a in owned) == counted
    for kind, count in counted.items():
        arguments = Arguments(to_external_id=heir.external_id, to_name="heir")
        did = await connector.act(Action.TRANSFER, ref, kind, arguments)
        assert len(did.assets) == count
    assert not (await seen(connector, ref, assets=True)).assets
    theirs = (await seen(connector, heir, assets=True)).assets or ()
    keys = {(a.kind, a.external_id, a.name) for a in owned}
    assert {(a.kind, a.external_id, a.name) for a in theirs} == keys, "nothing is called otherwise"
    with psycopg.connect(theatre.reporting.as_user(None, "finance"), autocommit=True) as c:
        who = psycopg.sql.Identifier(heir.login)
        c.execute(psycopg.sql.SQL("SET ROLE {}").format(who))
        c.execute(psycopg.sql.SQL("CREATE TABLE {}.later (n int)").format(name))
        made = c.execute("SELECT relacl::text FROM pg_class WHERE relname = 'later'").fetchone()
        assert made is not None
        assert "=r/" in made[0], "everybody reads what the heir makes there"
        c.execute(psycopg.sql.SQL("DROP TABLE {}.later").format(name))
    await connector.act(Action.PURGE, ref, "", NO_ARGUMENTS)
    assert theatre.reporting.role(ref.login) is None
    await connector.close()


async def test_what_a_role_gave_others_outlives_it(theatre: Theatre) -> None:
    """Privileges on others' objects are given by the heir from then on: who got them keeps them all along."""
    connector = PostgresConnector("Reporting database", theatre.reporting.url)
    giver, heir, other, last = [await create(connector) for _ in range(4)]
    owner = await create(connector)
    names = dict(zip("goxyh", (giver, owner, other, last, heir), strict=True))
    roles = {key: psycopg.sql.Identifier(ref.login) for key, ref in names.items()}
    roles["s"] = psycopg.sql.Identifier(f"S {owner.login}")

    def run(connection: psycopg.Connection, statements: str) -> None:
        for one in filter(None, map(str.strip, statements.split(";"))):
            connection.execute(psycopg.sql.SQL(one).format(**roles))

    def may() -> list[bool]:
        schema = f"S {owner.login}"
        found = connection.execute(
            "SELECT has_table_privilege(r, c.oid, 'SELECT'), has_column_privilege(r, c.oid, 'n', 'UPDATE'), "
            "has_schema_privilege(r, n.oid, 'USAGE') FROM unnest(%s::text[]) r, pg_class c, pg_namespace n "
            "WHERE n.nspname = %s AND c.relnamespace = n.oid AND c.relname = 'T 1'",
            ([other.login, last.login], schema),
        )
        return [b for row in found.fetchall() for b in row]

    with psycopg.connect(theatre.reporting.as_user(None, "finance"), autocommit=True) as connection:
        run(
            connection,
            """CREATE SCHEMA {s} AUTHORIZATION {o}; CREATE TABLE {s}."T 1" (n int);
            ALTER TABLE {s}."T 1" OWNER TO {o}; SET ROLE {o};
            GRANT SELECT ON {s}."T 1" TO {g} WITH GRANT OPTION;
            GRANT UPDATE (n) ON {s}."T 1" TO {g} WITH GRANT OPTION;
            GRANT USAGE ON SCHEMA {s} TO {g} WITH GRANT OPTION; SET ROLE {g};
            GRANT SELECT ON {s}."T 1" TO {x} WITH GRANT OPTION; GRANT UPDATE (n) ON {s}."T 1" TO {x};
            GRANT USAGE ON SCHEMA {s} TO PUBLIC; SET ROLE {x};
            GRANT SELECT ON {s}."T 1" TO {y}; RESET ROLE""",
        )
        before = may()
        assert before == [True, True, True, True, False, True]
        given = (await seen(connector, giver, assets=True)).assets or ()
        assert Counter(a.kind for a in given) == {"grant": 3}
        with pytest.raises(ApplicationRejected):
            await connector.act(Action.PURGE, giver, "", NO_ARGUMENTS)
        arguments = Arguments(to_external_id=heir.external_id, to_name="heir")
        did = await connector.act(Action.TRANSFER, giver, "grant", arguments)
        assert {a.external_id for a in did.assets} == {a.external_id for a in given}
        assert may() == before
        theirs = (await seen(connector, heir, assets=True)).assets or ()
        assert {a.external_id for a in theirs} == {a.external_id for a in given}
        back = Arguments(
            to_external_id=giver.external_id,
            from_external_id=heir.external_id,
            only=tuple(a.external_id for a in given),
        )
        await connector.act(Action.TRANSFER, giver, "grant", back)
        assert not (await seen(connector, heir, assets=True)).assets
        assert may() == before
        await connector.act(Action.TRANSFER, giver, "grant", arguments)
        await connector.act(Action.PURGE, giver, "", NO_ARGUMENTS)
        assert theatre.reporting.role(giver.login) is None
        assert may() == before, "without the handover all of it would have ended with the role"
        run(connection, "DROP SCHEMA {s} CASCADE")
    await connector.close()


async def test_a_password_never_reaches_the_server_in_clear(theatre: Theatre) -> None:
    connector = PostgresConnector("Reporting database", theatre.reporting.url)
    ref = await create(connector)
    await connector.act(Action.SET_CREDENTIAL, ref, "", NO_ARGUMENTS, "canary-Pa55word-xyz")
    await connector.close()
    log = (theatre.stage.folder / "reporting" / "server.log").read_text(errors="replace")
    assert "ALTER ROLE" in log
    assert "canary-Pa55word-xyz" not in log


async def test_a_trial_that_is_refused_leaves_the_account_closed(theatre: Theatre) -> None:
    """The server lets nobody in by this role: it says so, and the role is as it was."""
    connector = PostgresConnector("Reports", theatre.play.organisation.reporting)
    key, login = str(uuid.uuid4()), f"tried{uuid.uuid4().hex[:6]}"
    said = Arguments(login=login, display_name="Tried", closed=True)
    did = await connector.act(Action.CREATE, AccountRef(key, "", login), "", said)
    ref = AccountRef(key, did.external_id, login)
    with psycopg.connect(theatre.play.organisation.reporting, autocommit=True) as admin:
        admin.execute(sql.SQL("ALTER ROLE {} CONNECTION LIMIT 0").format(sql.Identifier(login)))
        with pytest.raises(ApplicationRejected, match="too many connections"):
            await connector.act(Action.TRY_SIGN_IN, ref, "", Arguments(closed=True), "Canary-7x")
        seen = await connector.observe(ref)
        assert seen is not None
        assert seen.state is AccountState.SUSPENDED
        admin.execute(
            sql.SQL("ALTER ROLE {} CONNECTION LIMIT -1 LOGIN").format(sql.Identifier(login))
        )
        with pytest.raises(ApplicationRejected, match="password authentication failed"):
            await connector._pool.sign_in(login, "Canary-7x")
    await connector.act(Action.PURGE, ref, "", NO_ARGUMENTS)
    await connector.close()
