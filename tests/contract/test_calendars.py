"""Calendars of a mail store in particular, on a real CalDAV server: read back from its files."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import AsyncIterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session
from icalendar import Calendar

from tests.conftest import Theatre
from tests.proofs.mail import PASSWORD, give_passwords
from yugum.cluster import free_port
from yugum.connectors.caldav import Attached
from yugum.connectors.caldav.meetings import Who, read
from yugum.connectors.caldav.notices import Notices
from yugum.connectors.dovecot import connect
from yugum.core.accounts import Asset, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.core.applications import Capability
from yugum.errors import ApplicationRejected, ApplicationUnavailable, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec
from yugum_standins.calendar_store import CalendarStore, event

NOW = datetime.now(UTC).replace(microsecond=0)
OUTSIDE = "yard@outside.example"


@pytest.fixture
def store(theatre: Theatre) -> CalendarStore:
    return theatre.stage.calendar_stores[0]


def spec(store: CalendarStore, **more: Any) -> ConnectorSpec:
    """Without Yugum's database, so that it is as late as it really is."""
    options = {**store.mail.options, **store.options, **more}
    options = {k: v for k, v in options.items() if v}
    return ConnectorSpec(
        name="Ship mail", url=store.mail.doveadm, secret=store.secret, options=options
    )


@pytest.fixture
async def mail(store: CalendarStore) -> AsyncIterator[Attached]:
    made = connect(spec(store))
    assert isinstance(made, Attached)
    yield made
    await made.close()


@dataclass
class Somebody:
    ref: AccountRef
    store: CalendarStore

    @property
    def login(self) -> str:
        return self.ref.login

    @property
    def mail(self) -> str:
        return f"{self.login}@{self.store.mail.domain}"

    def texts(self) -> dict[str, str]:
        """What is in their home: each event by its path within."""
        mine = f"{self.login}/"
        return {
            p.removeprefix(mine): t for p, t in self.store.texts().items() if p.startswith(mine)
        }

    def organizers(self) -> dict[str, str]:
        """Who calls each meeting in their calendars, by its name and how often it takes place."""
        return {
            _line(text, "UID") + ("~" if "UNTIL" in text else ""): _line(text, "ORGANIZER")
            for text in self.texts().values()
            if "ORGANIZER" in text
        }


def _line(text: str, name: str) -> str:
    value = str(Calendar.from_ical(text).walk("VEVENT")[0].get(name, ""))
    return value.removeprefix("mailto:")


async def somebody(mail: Attached, store: CalendarStore) -> Somebody:
    key, login = str(uuid.uuid4()), f"c{uuid.uuid4().hex[:8]}"
    made = Arguments(login=login, display_name=f"Cato {login}")
    did = await mail.act(Action.CREATE, AccountRef(key, "", login), "", made)
    store.make(login, "calendar", "Calendar")
    return Somebody(AccountRef(key, did.external_id, login), store)


async def three(mail: Attached, store: CalendarStore) -> tuple[Somebody, Somebody, Somebody]:
    """Who goes, who comes after, and who is invited by the first: to a series, a visit and what is over."""
    one, heir, guest = [await somebody(mail, store) for _ in range(3)]
    store.make(one.login, "shared-watch", "Watch")
    invited = [guest.mail, OUTSIDE]
    texts = {
        "shared-watch": [
            event("round", "Round", NOW - timedelta(days=15), one.mail, invited, "FREQ=WEEKLY")
        ],
        "calendar": [
            event("visit", "Visit", NOW + timedelta(days=5), one.mail, [*invited, one.mail]),
            event("drill", "Drill", NOW - timedelta(days=5), one.mail, invited),
            event("rest", "Rest", NOW + timedelta(days=2)),
            event("theirs", "Theirs", NOW + timedelta(days=2), OUTSIDE, [one.mail]),
        ],
    }
    for calendar, some in texts.items():
        for text in some:
            store.put(one.login, calendar, text)
            if guest.mail in text.replace("\r\n ", ""):
                store.put(guest.login, "calendar", text)
    return one, heir, guest


async def owned(mail: Attached, who: Somebody, kind: str) -> dict[str, str]:
    seen = await mail.observe(who.ref, assets=True)
    assert seen is not None
    return {a.external_id: a.name for a in seen.assets or () if a.kind == kind}


def to(heir: Somebody, **more: Any) -> Arguments:
    return Arguments(to_name="Heir", to_external_id=heir.ref.external_id, **more)


def letters(theatre: Theatre, to: Somebody) -> list[dict[str, str]]:
    return theatre.play.post.mails(to.mail)


async def test_what_they_own_is_their_calendars_and_what_they_have_called(
    mail: Attached, store: CalendarStore
) -> None:
    one, heir, guest = await three(mail, store)
    odd = await mail.act(
        Action.CREATE, AccountRef("k", "", ""), "", Arguments(login=f"o'x\"{one.login}")
    )
    assert Capability.CALL_OFF in (await mail.discover()).capabilities
    assert set((await owned(mail, one, "calendar")).values()) == {"Calendar", "Watch"}
    assert await owned(mail, one, "meeting") == {"round": "Round", "visit": "Visit"}
    assert await owned(mail, guest, "meeting") == {}
    assert await owned(mail, heir, "calendar") == {f"{heir.login}/calendar": "Calendar"}
    found = [s async for page in mail.read() for s in page if isinstance(s, Observed)]
    seen = {s.external_id: s.assets for s in found}
    assert seen[odd.external_id] == (Asset("mailbox", odd.external_id, odd.login, odd.login),)
    read = seen[one.ref.external_id] or ()
    assert {a.external_id for a in read if a.kind == "meeting"} == {"round", "visit"}


async def test_a_calendar_and_its_meetings_go_each_their_way_and_come_back(
    mail: Attached, store: CalendarStore
) -> None:
    one, heir, guest = await three(mail, store)
    before = await owned(mail, one, "calendar")
    did = await mail.act(Action.TRANSFER, one.ref, "calendar", to(heir))
    assert {a.name for a in did.assets} == {"Calendar", "Watch"}
    assert await owned(mail, one, "calendar") == {}
    assert await owned(mail, one, "meeting") == {"round": "Round", "visit": "Visit"}, "these wait"
    assert {p.rsplit("/", 1)[1] for p in heir.texts()} == {"drill.ics", "rest.ics", "theirs.ics"}
    did = await mail.act(Action.TRANSFER, one.ref, "meeting", to(heir))
    assert {a.external_id for a in did.assets} == {"visit", "round"}, "it is known as before"
    assert set(await owned(mail, heir, "meeting")) == {"visit", "round"}
    assert await owned(mail, one, "meeting") == {}
    assert one.texts() == {}, "nothing stays in the home of who went"
    assert heir.organizers() == {
        "visit": heir.mail,
        f"round-{heir.login}": heir.mail,
        "round~": one.mail,
        "drill": one.mail,
        "theirs": OUTSIDE,
    }
    assert guest.organizers() == {
        "visit": heir.mail,
        f"round-{heir.login}": heir.mail,
        "round~": one.mail,
        "drill": one.mail,
    }
    assert await mail.act(Action.TRANSFER, one.ref, "meeting", to(heir)), "once more moves nothing"

    back = to(
        one, from_external_id=heir.ref.external_id, only=tuple(a.external_id for a in did.assets)
    )
    await mail.act(Action.TRANSFER, one.ref, "meeting", back)
    back = to(one, from_external_id=heir.ref.external_id, only=tuple(before))
    await mail.act(Action.TRANSFER, one.ref, "calendar", back)
    assert await owned(mail, one, "calendar") == before
    assert await owned(mail, one, "meeting") == {"round": "Round", "visit": "Visit"}
    assert await owned(mail, heir, "calendar") == {f"{heir.login}/calendar": "Calendar"}
    assert heir.organizers() == {}
    assert guest.organizers()["visit"] == one.mail


async def test_everybody_who_is_invited_is_told_who_calls_it_now(
    mail: Attached, store: CalendarStore, theatre: Theatre
) -> None:
    one, heir, guest = await three(mail, store)
    await mail.act(Action.TRANSFER, one.ref, "meeting", to(heir, only=("visit",)))
    told = letters(theatre, guest)
    assert [m["subject"] for m in told] == ["Updated: Visit"]
    assert heir.mail in told[0]["from"]
    assert "METHOD:REQUEST" in told[0]["calendar"]
    assert _line(told[0]["calendar"], "ORGANIZER") == heir.mail


async def test_what_nobody_takes_is_called_off_and_everybody_is_told(
    mail: Attached, store: CalendarStore, theatre: Theatre
) -> None:
    one, _, guest = await three(mail, store)
    did = await mail.act(Action.CALL_OFF, one.ref, "meeting", NO_ARGUMENTS)
    assert {a.external_id for a in did.assets} == {"round", "visit"}
    assert await owned(mail, one, "meeting") == {}
    assert one.organizers() == {"round~": one.mail, "drill": one.mail, "theirs": OUTSIDE}
    assert guest.organizers() == {"round~": one.mail, "drill": one.mail}
    assert {m["subject"] for m in letters(theatre, guest)} == {
        "Cancelled: Visit",
        "Updated: Round",
    }


async def test_calendars_open_and_close_with_the_mailbox(
    mail: Attached, store: CalendarStore
) -> None:
    one, heir, _ = await three(mail, store)
    give_passwords(store.mail, one.login)

    def reads(path: str) -> int:
        return store.call("GET", path, login=one.login, password=PASSWORD)[0]

    assert await asyncio.to_thread(reads, f"/{one.login}/calendar/rest.ics") == 200
    assert await asyncio.to_thread(reads, f"/{heir.login}/calendar/") in (403, 404)
    await mail.act(Action.CUT_OFF, one.ref, "", NO_ARGUMENTS)
    assert await asyncio.to_thread(reads, f"/{one.login}/calendar/rest.ics") == 401
    with pytest.raises(ApplicationRejected, match="already"):
        await mail.act(Action.RENAME, one.ref, heir.login, NO_ARGUMENTS)
    assert one.texts(), "nothing goes into the home of somebody who is called so"
    name = f"n{one.login}"
    await mail.act(Action.RENAME, one.ref, name, NO_ARGUMENTS)
    assert not one.texts()
    assert f"{name}/calendar/rest.ics" in store.texts()
    await mail.act(Action.RENAME, one.ref, name, NO_ARGUMENTS)
    renamed = AccountRef("", one.ref.external_id, name)
    await mail.act(Action.PARK, renamed, "", Arguments(until=NOW.isoformat()))
    await mail.act(Action.PURGE, renamed, "", NO_ARGUMENTS)
    assert not [p for p in store.texts() if p.startswith(f"{name}/")]


async def test_while_the_calendars_do_not_answer_the_mailboxes_go_on(
    mail: Attached, store: CalendarStore
) -> None:
    one = await somebody(mail, store)
    broken = connect(spec(store, calendars="http://127.0.0.1:9"))
    try:
        await broken.act(Action.CUT_OFF, one.ref, "", NO_ARGUMENTS)
        seen = await broken.observe(one.ref)
        assert seen is not None
        assert (seen.state, seen.assets) == ("suspended", None)
        with pytest.raises(ApplicationUnavailable):
            await broken.observe(one.ref, assets=True)
        found: list[Observed] = []

        async def read() -> None:
            async for page in broken.read():
                found.extend(s for s in page if isinstance(s, Observed))

        with pytest.raises(ApplicationUnavailable):
            await read()
        assert one.ref.external_id in {s.external_id for s in found}
        assert {s.assets for s in found} == {None}
        for action, item in ((Action.PURGE, ""), (Action.RENAME, f"n{one.login}")):
            with pytest.raises(ApplicationUnavailable):
                await broken.act(action, one.ref, item, NO_ARGUMENTS)
        seen = await mail.observe(one.ref)
        assert seen is not None, "not gone before its calendars"
        assert seen.login == one.login, "not called otherwise before its home is"
    finally:
        await broken.close()


async def test_what_is_missing_is_named(mail: Attached, store: CalendarStore) -> None:
    with pytest.raises(InvalidInput, match="calendars_user"):
        connect(spec(store, calendars_user=""))
    with pytest.raises(InvalidInput, match="smtp"):
        connect(spec(store, smtp="nowhere"))
    with pytest.raises(InvalidInput, match="no option calender"):
        connect(spec(store, calender="http://127.0.0.1:1"))
    with pytest.raises(InvalidInput, match="in clear"):
        connect(spec(store, calendars="http://calendars.example"))
    with pytest.raises(InvalidInput, match="lacks the password"):
        connect(replace(spec(store), secret=store.mail.secret))
    other = connect(spec(store, calendars_user="nobody"))
    try:
        with pytest.raises(ApplicationRejected, match="calendars"):
            await other.discover()
    finally:
        await other.close()


class Particular:
    """A mail server that refuses some."""

    def __init__(self) -> None:
        self.taken: list[list[str]] = []

    async def handle_MAIL(  # noqa: N802 - aiosmtpd's name
        self,
        _server: SMTP,
        _session: Session,
        envelope: Envelope,
        address: str,
        _options: list[str],
    ) -> str:
        envelope.mail_from = address
        return "550 not from here" if address.startswith("stranger") else "250 fine"

    async def handle_RCPT(  # noqa: N802
        self,
        _server: SMTP,
        _session: Session,
        envelope: Envelope,
        address: str,
        _options: list[str],
    ) -> str:
        code = {"gone": "550", "later": "451"}.get(address.partition("@")[0], "")
        if code:
            return f"{code} no"
        envelope.rcpt_tos.append(address)
        return "250 fine"

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:  # noqa: N802
        self.taken.append(envelope.rcpt_tos)
        return "250 taken"


async def test_who_is_refused_is_named_and_holds_up_nobody() -> None:
    found = read(event("v", "Visit", NOW, "a@x.example", ["b@x.example"]))
    assert found is not None
    desk, port = Particular(), free_port()
    controller = Controller(desk, hostname="127.0.0.1", port=port)
    controller.start()
    try:
        notices = Notices.of("Ship mail", f"127.0.0.1:{port}", 5)

        async def send(sender: str, *to: str) -> list[str]:
            who = Who(f"{sender}@x.example", "Ann")
            addresses = [f"{name}@x.example" for name in to]
            return await notices.send(found, "REQUEST", who, addresses, "Changed.")

        assert await send("a", "gone", "b") == ["gone@x.example"]
        assert await send("a", "gone") == ["gone@x.example"]
        assert await send("a") == []
        with pytest.raises(ApplicationUnavailable):
            await send("a", "later")
        with pytest.raises(ApplicationRejected, match="550"):
            await send("stranger", "b")
    finally:
        controller.stop()
    assert desk.taken == [["b@x.example"]]
    with pytest.raises(ApplicationUnavailable):
        await send("a", "b")
