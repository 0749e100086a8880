"""The directory in particular: settings, groups, locks, paging, TLS; on a real slapd."""

from __future__ import annotations

import asyncio
import secrets
import uuid
from collections.abc import AsyncIterator, Callable
from pathlib import Path

import bonsai
import pytest

from tests.conftest import Theatre
from yugum.connectors.ldap import LdapConnector, connect
from yugum.connectors.ldap.layout import Layout, parent, rdn_value
from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.errors import ApplicationRejected, ApplicationUnavailable, CannotDo, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec
from yugum.storage.database import PostgresDatabase
from yugum_standins.directory import BASE, Directory, group_entry, person_entry
from yugum_standins.morrow import DIRECTORY

Connecting = Callable[..., LdapConnector]


@pytest.fixture
async def connecting(theatre: Theatre, database: PostgresDatabase) -> AsyncIterator[Connecting]:
    """Connectors of the directory with some options otherwise, as if on several machines."""
    made = []

    def to(**more: str) -> LdapConnector:
        made.append(connect(spec(theatre.stage.directories[0], database, **more)))
        return made[-1]

    yield to
    for one in made:
        await one.close()


@pytest.fixture
def ldap(connecting: Connecting) -> LdapConnector:
    return connecting()


def spec(directory: Directory, database: PostgresDatabase, **more: str) -> ConnectorSpec:
    return ConnectorSpec(
        name="Staff directory",
        application_id="directory",
        url=directory.url,
        secret=directory.password,
        options={**directory.options, **more},
        database=database,
    )


async def make(ldap: LdapConnector, login: str = "") -> AccountRef:
    key, login = str(uuid.uuid4()), login or f"l{uuid.uuid4().hex[:8]}"
    arguments = Arguments(login=login, display_name="Lea Test", family_name="Test")
    did = await ldap.act(Action.CREATE, AccountRef(key, "", login), "", arguments)
    return AccountRef(key, did.external_id, login)


async def put(ldap: LdapConnector, ref: AccountRef, name: str, value: str) -> str:
    await ldap.act(Action.SET, ref, name, Arguments(value=value))
    seen = await ldap.observe(ref)
    assert seen is not None
    return seen.settings[name]


async def test_settings_are_set_and_read_back(ldap: LdapConnector, theatre: Theatre) -> None:
    ref = await make(ldap)
    boss = theatre.play.organisation.people[0].user_name
    assert await put(ldap, ref, "container", "leavers") == "leavers"
    assert await put(ldap, ref, "hidden", "yes") == "yes"
    assert await put(ldap, ref, "manager", boss) == boss
    assert await put(ldap, ref, "manager", "") == ""
    assert (
        await put(ldap, ref, "mark", "left; (so) *it* is \\ said") == "left; (so) *it* is \\ said"
    )
    assert await put(ldap, ref, "alias", "b a") == "a b"
    assert theatre.play.directory.container(ref.login) == "leavers"
    with pytest.raises(CannotDo):
        await put(ldap, ref, "shoe", "44")
    with pytest.raises(ApplicationRejected):
        await put(ldap, ref, "manager", "nobody-of-that-name")


async def test_a_renamed_entry_stays_the_same_account_in_its_groups(ldap: LdapConnector) -> None:
    ref = await make(ldap)
    await ldap.act(Action.GRANT, ref, "Harbour radio", NO_ARGUMENTS)
    new = f'n, {uuid.uuid4().hex[:6]} + "x"'
    assert await put(ldap, ref, "login", new) == new
    seen = await ldap.observe(ref)
    assert seen is not None
    assert (seen.external_id, seen.entitlements) == (ref.external_id, frozenset({"Harbour radio"}))
    taken = await make(ldap)
    with pytest.raises(ApplicationRejected) as caught:
        await ldap.act(Action.SET, ref, "login", Arguments(value=taken.login))
    assert "another login" in caught.value.remedy


async def test_the_last_member_of_a_group_can_leave_it(
    ldap: LdapConnector, theatre: Theatre
) -> None:
    ref, name = await make(ldap), f"Group {uuid.uuid4().hex[:6]}"
    with theatre.play.directory.directory.client().connect() as connection:
        connection.add(group_entry(name, [ref.login]))
    seen = await ldap.observe(ref)
    assert seen is not None
    assert seen.entitlements == {name}
    await ldap.act(Action.REVOKE, ref, name, NO_ARGUMENTS)
    seen = await ldap.observe(ref)
    assert seen is not None
    assert seen.entitlements == frozenset()


async def test_whoever_is_cut_off_cannot_sign_in_until_resumed(
    ldap: LdapConnector, theatre: Theatre
) -> None:
    ref, sign_in = await make(ldap), theatre.play.directory.sign_in
    await ldap.act(Action.SET_CREDENTIAL, ref, "", NO_ARGUMENTS, "Correct-horse-7")
    assert sign_in(ref.login, "Correct-horse-7")
    await ldap.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
    await ldap.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
    assert not sign_in(ref.login, "Correct-horse-7")
    await ldap.act(Action.RESUME, ref, "", NO_ARGUMENTS)
    assert not sign_in(ref.login, "Correct-horse-7")  # the old password is gone for good
    await ldap.act(Action.SET_CREDENTIAL, ref, "", NO_ARGUMENTS, "Another-horse-8")
    assert sign_in(ref.login, "Another-horse-8")


async def test_more_entries_than_a_page_are_read_once(
    ldap: LdapConnector, theatre: Theatre
) -> None:
    prefix = uuid.uuid4().hex[:6]
    with theatre.play.directory.directory.client().connect() as connection:
        for number in range(560):
            connection.add(person_entry(f"{prefix}-{number}", "P", f"{number}", ""))
    pages = [page async for page in ldap.read()]
    logins = [o.login for page in pages for o in page if o.login.startswith(prefix)]
    assert len(pages) > 1
    assert len(logins) == len(set(logins)) == 560
    with theatre.play.directory.directory.client().connect() as connection:
        for login in logins:
            connection.delete(f"uid={login},ou=people,{BASE}")


async def test_a_server_with_another_certificate_is_not_spoken_to(
    connecting: Connecting, tmp_path: Path
) -> None:
    from yugum_standins.directory import _certificate

    _certificate(tmp_path)
    other = connecting(ca_file=str(tmp_path / "cert.pem"))
    with pytest.raises(ApplicationUnavailable):
        await other.discover()


async def test_wrong_containers_and_options_are_named(connecting: Connecting) -> None:
    wrong = connecting(people="ou=staff")
    with pytest.raises(ApplicationRejected) as caught:
        await wrong.discover()
    assert "ou=staff" in caught.value.message
    with pytest.raises(InvalidInput):
        Layout.of({"base": "dc=x"})


async def test_a_parked_entry_is_deleted_until_its_moment(ldap: LdapConnector) -> None:
    ref = await make(ldap)
    until = "2031-05-01T12:00:00+00:00"
    await ldap.act(Action.PARK, ref, "", Arguments(until=until))
    parked = await ldap.observe(ref)
    assert parked is not None
    assert parked.state is AccountState.DELETED
    await ldap.act(Action.RESTORE, ref, "", NO_ARGUMENTS)
    back = await ldap.observe(ref)
    assert back is not None
    assert (back.state, back.settings["mark"]) == (AccountState.SUSPENDED, "")


async def test_words_of_others_are_no_mark_of_ours(ldap: LdapConnector, theatre: Theatre) -> None:
    ref, name = await make(ldap), f"Group {uuid.uuid4().hex[:6]}"
    with theatre.play.directory.directory.client().connect() as connection:
        group = group_entry(name, [ref.login])
        group["businessCategory"] = ["parked until further notice"]
        connection.add(group)
    seen = {o.login: o async for page in ldap.read() for o in page if isinstance(o, Observed)}
    assert seen[name].state is AccountState.ACTIVE
    assert seen[ref.login].entitlements == {name}


def test_distinguished_names_are_taken_apart() -> None:
    assert rdn_value("uid=a\\,b\\+c,ou=people,dc=x") == "a,b+c"
    assert parent("uid=a\\,b,ou=people,dc=x") == "ou=people,dc=x"
    layout = Layout(base="dc=x", bind="cn=y")
    assert layout.container_name("ou=people,DC=x") == "people"
    assert layout.named("uid", "a)(b*") == "(uid=a\\29\\28b\\2A)"
    assert bonsai.escape_attribute_value("a,b") == "a\\,b"


async def test_a_credential_that_must_be_changed_opens_nothing_else(
    ldap: LdapConnector, theatre: Theatre
) -> None:
    ref = await make(ldap)
    directory = theatre.stage.directories[0]
    await ldap.act(Action.SET_CREDENTIAL, ref, "", Arguments(must_change=True), "First-harbour-1")
    dn = f"uid={ref.login},ou=people,{BASE}"

    def read_as_owner(password: str) -> int:
        with directory.client(dn, password).connect(timeout=5) as connection:
            return len(connection.search(BASE, 2, f"(uid={ref.login})", ["cn"]))

    with pytest.raises(bonsai.LDAPError):
        read_as_owner("First-harbour-1")
    with directory.client(dn, "First-harbour-1").connect(timeout=5) as connection:
        connection.modify_password(dn, "Second-harbour-2", "First-harbour-1")
    assert read_as_owner("Second-harbour-2") == 1
    chosen = Arguments(must_change=False)  # by its owner, through a link
    await ldap.act(Action.SET_CREDENTIAL, ref, "", chosen, "Third-harbour-3")
    assert read_as_owner("Third-harbour-3") == 1


async def test_groups_inside_groups_are_told(ldap: LdapConnector, theatre: Theatre) -> None:
    nested = await ldap.nesting()
    assert nested["Harbour radio"] == ["All of Morrow Sound"]
    assert "All of Morrow Sound" not in nested  # it is inside of nothing
    ref = await make(ldap)
    await ldap.act(Action.GRANT, ref, "Harbour radio", NO_ARGUMENTS)
    seen = await ldap.observe(ref)
    assert seen is not None
    assert seen.entitlements == {"Harbour radio"}  # the direct one only
    boss = theatre.play.organisation.people[0].user_name
    accounts = theatre.client.people.show(boss).accounts
    account = next(a for a in accounts if a.application_id == DIRECTORY)
    through = {h.item: h.because for h in account.holdings if h.nested}
    assert "Staff → All of Morrow Sound" in through["All of Morrow Sound"]
    assert "when Harbour radio and Staff are taken away" in through["All of Morrow Sound"]


async def number_of(theatre: Theatre, login: str) -> int:
    with theatre.stage.directories[0].client().connect(timeout=5) as connection:
        (entry,) = connection.search(BASE, 2, f"(uid={login})", ["uidNumber"])
    return int(entry["uidNumber"][0])


async def test_numbers_are_unique_over_machines_and_never_given_again(
    connecting: Connecting, theatre: Theatre
) -> None:
    low = 2_000_000 + secrets.randbelow(1_000_000_000)
    reach = f"{low}-{low + 500}"
    machines = [connecting(numbers=reach) for _ in range(3)]
    refs = await asyncio.gather(*(make(machines[n % 3]) for n in range(30)))
    numbers = [await number_of(theatre, r.login) for r in refs]
    assert sorted(numbers) == list(range(low, low + 30)), "each once, none left out"
    last = max(zip(numbers, refs, strict=True), key=lambda pair: pair[0])[1]
    await machines[0].act(Action.PURGE, last, "", NO_ARGUMENTS)
    after = await make(machines[1])
    assert await number_of(theatre, after.login) == low + 30, "a purged account's stays its own"


async def test_a_second_try_after_a_crash_has_the_same_number(
    connecting: Connecting, database: PostgresDatabase
) -> None:
    async with database.unit() as unit:
        first = await unit.numbers.take("directory", "a1", 70, 71, 0)
        assert (first, await unit.numbers.take("directory", "a1", 70, 71, 0)) == (70, 70)
        assert await unit.numbers.take("other", "a1", 70, 71, 0) == 70, "an application of its own"
        assert await unit.numbers.take("directory", "a2", 70, 71, 0) == 71
        assert await unit.numbers.take("directory", "a3", 70, 71, 0) is None
        assert await unit.numbers.take("directory", "a3", 70, 72, 0) == 72, "a wider range"
        await unit.numbers.seen("directory", [73, 74, 90])
        await unit.numbers.seen("directory", [70, 90])
        assert await unit.numbers.take("directory", "a4", 70, 90, 0) == 75, (
            "the top one blocks none"
        )
        assert await unit.numbers.take("directory", "a1", 70, 90, 0) == 70
        assert await unit.numbers.take("directory", "a1", 70, 90, 70) == 76


async def test_numbers_the_directory_has_itself_are_passed_over(
    connecting: Connecting, theatre: Theatre, database: PostgresDatabase
) -> None:
    low = 2_000_000 + secrets.randbelow(1_000_000_000)
    ldap = connecting(numbers=f"{low}-{low + 9}")
    others = [f"o{uuid.uuid4().hex[:8]}" for _ in range(3)]
    with theatre.stage.directories[0].client().connect(timeout=5) as connection:
        for n, login in zip((0, 1, 5), others, strict=True):
            entry = person_entry(login, "Ola", "Other", "")
            entry["uidNumber"] = [low + n]
            connection.add(entry)
    assert await number_of(theatre, (await make(ldap)).login) == low + 2
    async for _ in ldap.read():
        pass
    await ldap.act(Action.PURGE, AccountRef("", "", others[2]), "", NO_ARGUMENTS)
    made = [await number_of(theatre, (await make(ldap)).login) for _ in range(3)]
    assert made == [low + 3, low + 4, low + 6], "the one between was seen there once"
    for _ in range(3):
        await make(ldap)
    with pytest.raises(ApplicationRejected, match="no number left") as full:
        await make(ldap)
    assert "numbers" in full.value.remedy


@pytest.mark.parametrize("numbers", ["", "5", "9-5", "0-5", "a-b", "1-2147483648", "1-2-3", "-1-5"])
def test_a_range_that_is_none_is_refused(numbers: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        Layout.of({"base": "dc=x", "bind": "cn=x", "numbers": numbers})
    assert refused.value.place == "options.numbers"
