"""The directory in particular: settings, groups, locks, paging, TLS; on a real slapd."""

from __future__ import annotations

import uuid
from collections.abc import AsyncIterator
from pathlib import Path

import bonsai
import pytest

from tests.conftest import Theatre
from yugum.connectors.ldap import LdapConnector, connect
from yugum.connectors.ldap.layout import Layout, parent, rdn_value
from yugum.core.accounts import AccountState
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.errors import ApplicationRejected, ApplicationUnavailable, CannotDo, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec
from yugum_standins.directory import BASE, Directory, group_entry, person_entry
from yugum_standins.morrow import DIRECTORY


@pytest.fixture
async def ldap(theatre: Theatre) -> AsyncIterator[LdapConnector]:
    made = connect(spec(theatre.stage.directories[0]))
    yield made
    await made.close()


def spec(directory: Directory, **more: str) -> ConnectorSpec:
    options = {**directory.options, **more}
    return ConnectorSpec(
        name="Staff directory", url=directory.url, secret=directory.password, options=options
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
    theatre: Theatre, tmp_path: Path
) -> None:
    from yugum_standins.directory import _certificate

    _certificate(tmp_path)
    other = connect(spec(theatre.stage.directories[0], ca_file=str(tmp_path / "cert.pem")))
    with pytest.raises(ApplicationUnavailable):
        await other.discover()
    await other.close()


async def test_wrong_containers_and_options_are_named(theatre: Theatre) -> None:
    directory = theatre.stage.directories[0]
    wrong = connect(spec(directory, people="ou=staff"))
    with pytest.raises(ApplicationRejected) as caught:
        await wrong.discover()
    assert "ou=staff" in caught.value.message
    await wrong.close()
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
