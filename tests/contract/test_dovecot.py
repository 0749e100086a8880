"""The mail store in particular: sign-in, sessions, mail that goes on, mailboxes; on a real Dovecot."""

from __future__ import annotations

import asyncio
import smtplib
import uuid
from collections.abc import AsyncIterator
from dataclasses import replace
from imaplib import IMAP4

import psycopg
import pytest

from tests.conftest import Theatre
from tests.proofs.mail import APP_PASSWORD, PASSWORD, give_passwords, signs_in, takes
from yugum.connectors.dovecot import connect
from yugum.connectors.dovecot.connector import DovecotConnector
from yugum.connectors.dovecot.layout import Sieve, read
from yugum.contract import Sample, check
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.errors import ApplicationRejected, ApplicationUnavailable, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec
from yugum_standins.mail_store import MailStore

SENDER = "x@outside.example"


@pytest.fixture
def store(theatre: Theatre) -> MailStore:
    return theatre.stage.mail_stores[0]


def spec(store: MailStore) -> ConnectorSpec:
    return ConnectorSpec(
        name="Ship mail", url=store.doveadm, secret=store.secret, options=store.options
    )


@pytest.fixture
async def mail(store: MailStore) -> AsyncIterator[DovecotConnector]:
    made = connect(spec(store))
    assert isinstance(made, DovecotConnector)
    yield made
    await made.close()


async def make(mail: DovecotConnector) -> AccountRef:
    key, login = str(uuid.uuid4()), f"d{uuid.uuid4().hex[:8]}"
    did = await mail.act(
        Action.CREATE,
        AccountRef(key, "", login),
        "",
        Arguments(login=login, display_name="Dag Test"),
    )
    return AccountRef(key, did.external_id, login)


async def settings(mail: DovecotConnector, ref: AccountRef) -> dict[str, str]:
    seen = await mail.observe(ref)
    assert seen is not None
    return dict(seen.settings)


async def test_it_keeps_the_contract(mail: DovecotConnector) -> None:
    outcomes = await check(mail, Sample(attributes=("realname", "mail")))
    assert [(o.name, o.problem) for o in outcomes if o.problem] == []
    assert {o.left_out for o in outcomes if o.left_out} == {
        "entitlements",
        "seats",
        "duty_password",
    }


async def test_a_cut_off_ends_password_app_password_and_session(
    mail: DovecotConnector, store: MailStore
) -> None:
    ref = await make(mail)
    give_passwords(store, ref.login)
    session = await asyncio.to_thread(store.imap, ref.login, PASSWORD)
    seen = await mail.observe(ref)
    assert seen is not None
    assert (seen.sessions, seen.keys) == (1, 1)
    did = await mail.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
    assert did.ended["sessions"] == 1
    with pytest.raises((IMAP4.error, OSError)):
        session.noop()
    session.shutdown()
    assert not await asyncio.to_thread(signs_in, store, ref.login, PASSWORD)
    assert not await asyncio.to_thread(signs_in, store, ref.login, APP_PASSWORD)
    assert await asyncio.to_thread(takes, store, ref.login), "mail goes on arriving"
    await mail.act(Action.ARCHIVE, ref, "", NO_ARGUMENTS)
    with pytest.raises(smtplib.SMTPException):
        await asyncio.to_thread(store.send, ref.login, SENDER, "too late")


async def test_a_credential_opens_the_mailbox_and_is_stored_as_a_hash(
    mail: DovecotConnector, store: MailStore
) -> None:
    ref = await make(mail)
    await mail.act(Action.SET_CREDENTIAL, ref, "", NO_ARGUMENTS, "Canary-mail-77")
    assert await asyncio.to_thread(signs_in, store, ref.login, "Canary-mail-77")
    assert not await asyncio.to_thread(signs_in, store, ref.login, "Canary-mail-78")
    with psycopg.connect(store.url) as connection:
        query = "SELECT password FROM mailboxes WHERE login = %s"
        row = connection.execute(query, (ref.login,)).fetchone()
    assert row is not None
    assert row[0].startswith("{ARGON2ID}$argon2id$")
    assert "Canary" not in row[0]


async def test_forward_and_reply_are_one_script_that_keeps_the_owners_own(
    mail: DovecotConnector, store: MailStore, theatre: Theatre
) -> None:
    ref, heir = await make(mail), await make(mail)
    scripts = mail._scripts
    with scripts._signed_in(ref.login) as client:
        client.putscript("mine", 'require ["fileinto", "mailbox"];\nfileinto :create "Filed";\n')
        client.setactive("mine")
    address = f"{heir.login}@{store.domain}"
    words = 'Gone; "ask" Kaj \\ or {me}'
    await mail.act(Action.SET, ref, "forward", Arguments(value=address, ground="agreement 12"))
    await mail.act(Action.SET, ref, "reply", Arguments(value=words))
    shown = await settings(mail, ref)
    assert (shown["forward"], shown["reply"]) == (address, words)
    sender = f"{uuid.uuid4().hex[:8]}@outside.example"
    await asyncio.to_thread(store.send, ref.login, sender, "Anchors")
    for _ in range(100):
        if await asyncio.to_thread(store.subjects, heir.login):
            break
        await asyncio.sleep(0.05)
    assert await asyncio.to_thread(store.subjects, heir.login) == ["Anchors"]
    assert await asyncio.to_thread(store.subjects, ref.login, "Filed") == ["Anchors"]
    told = await asyncio.to_thread(theatre.play.post.wait, sender)
    assert told["text"].strip() == words
    await mail.act(Action.SET, ref, "forward", Arguments(value=""))
    assert "forward" not in await settings(mail, ref)
    await mail.act(Action.SET, ref, "reply", Arguments(value=""))
    with scripts._signed_in(ref.login) as client:
        assert client.listscripts() == ("mine", [])


async def test_a_script_changed_by_hand_is_not_shown_as_ours(mail: DovecotConnector) -> None:
    ref = await make(mail)
    await mail.act(Action.SET, ref, "forward", Arguments(value="kaj@morrowsound.example"))
    with mail._scripts._signed_in(ref.login) as client:
        changed = client.getscript("yugum").replace('copy "kaj@', 'copy "thief@')
        client.putscript("yugum", changed)
    assert "forward" not in await settings(mail, ref)


async def test_a_mailbox_is_handed_over_once_and_given_back(
    mail: DovecotConnector, store: MailStore
) -> None:
    ref, heir = await make(mail), await make(mail)
    for number in range(3):
        await asyncio.to_thread(store.send, ref.login, SENDER, f"Letter {number}")
    give = Arguments(to_external_id=heir.external_id, to_name="Heir")
    folder = f"Handed over/{ref.login}/INBOX"
    did = await mail.act(Action.TRANSFER, ref, "mailbox", give)
    again = await mail.act(Action.TRANSFER, ref, "mailbox", give)
    assert [a.name for a in did.assets] == [ref.login]
    assert again.assets == ()
    assert len(await asyncio.to_thread(store.subjects, heir.login, folder)) == 3
    back = Arguments(
        from_external_id=heir.external_id,
        to_external_id=ref.external_id,
        to_name="Dag",
        only=(ref.external_id,),
    )
    await mail.act(Action.TRANSFER, ref, "mailbox", back)
    assert await asyncio.to_thread(store.subjects, heir.login, folder) == []
    seen = await mail.observe(ref)
    assert seen is not None
    assert [a.external_id for a in seen.assets or ()] == [ref.external_id]
    assert len(await asyncio.to_thread(store.subjects, ref.login)) == 3


async def test_a_parked_mailbox_is_purged_with_its_mail(
    mail: DovecotConnector, store: MailStore
) -> None:
    ref = await make(mail)
    await asyncio.to_thread(store.send, ref.login, SENDER, "Letter")
    await mail.act(Action.CUT_OFF, ref, "", NO_ARGUMENTS)
    await mail.act(Action.PARK, ref, "", Arguments(until="2031-05-01T12:00:00+00:00"))
    assert not await asyncio.to_thread(takes, store, ref.login)
    await mail.act(Action.PURGE, ref, "", NO_ARGUMENTS)
    assert await mail.observe(ref) is None
    kept = [p for p in (store.folder / "mail" / ref.external_id).rglob("*,S=*") if p.is_file()]
    assert kept == []


@pytest.mark.parametrize("login", ["a*", "a b", "50%", "a/b", "what?"])
async def test_logins_that_would_be_patterns_are_refused(
    mail: DovecotConnector, login: str
) -> None:
    with pytest.raises(ApplicationRejected):
        await mail.act(
            Action.CREATE, AccountRef("k", "", login), "", Arguments(login=login, display_name="x")
        )


@pytest.mark.parametrize(("name", "value"), [("quota", "plenty"), ("colour", "red")])
async def test_a_bad_setting_is_refused(mail: DovecotConnector, name: str, value: str) -> None:
    ref = await make(mail)
    with pytest.raises(ApplicationRejected):
        await mail.act(Action.SET, ref, name, Arguments(value=value))


async def test_what_cannot_work_is_said_at_once(store: MailStore) -> None:
    good = spec(store)
    for bad in (
        replace(good, secret="{}"),
        replace(good, options={}),
        replace(good, options={**good.options, "sieve": "mail.outside.example:4190"}),
        replace(good, options={**good.options, "sieve": "here"}),
    ):
        with pytest.raises((ApplicationRejected, InvalidInput)) as caught:
            connect(bad)
        assert caught.value.remedy
    away = connect(replace(good, url="http://127.0.0.1:9/doveadm/v1"))
    with pytest.raises(ApplicationUnavailable):
        await away.discover()
    await away.close()
    wrong = connect(replace(good, secret=good.secret.replace('doveadm": "', 'doveadm": "x')))
    with pytest.raises(ApplicationRejected):
        await wrong.discover()
    await wrong.close()


def test_a_script_is_read_as_it_was_written() -> None:
    script = Sieve(
        forward="a@b.example",
        reply='He said "no"\\',
        ground="why",
        earlier="mine",
        addresses=("x@b.example",),
    )
    assert read(script.text()) == script
    assert read("keep;") is None
    assert read("# Yugum keeps this script: not json") is None
    assert read('# Yugum keeps this script: {"forward": "a@b.example", "more": 1}') is None
