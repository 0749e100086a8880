"""Calendars attached to accounts: a CalDAV server knows none of its own (docs/decisions/0039).

Who signs in, and what somebody is called, is told by the application whose accounts they are; what is
added here is what these own in their calendars: ``calendar``, each that is theirs, and ``meeting``, each that they
have called with others and that has still to begin.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Collection, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Protocol
from urllib.parse import urlsplit

from yugum.connectors.caldav.handing import Change, Homes
from yugum.connectors.caldav.meetings import Who
from yugum.connectors.caldav.notices import Notices
from yugum.connectors.caldav.server import Server
from yugum.connectors.clock import moment
from yugum.connectors.web import loopback
from yugum.core.accounts import Asset, Observed, Unreadable
from yugum.core.actions import Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.handover import MEETING
from yugum.errors import (
    ApplicationError,
    ApplicationRejected,
    ApplicationUnavailable,
    InvalidInput,
)
from yugum.ports.connectors import AccountRef, Connector, ConnectorSpec, Discovery

KINDS = ("calendar", MEETING)
AT_A_TIME = 8
"""Homes that are looked at at once."""


@dataclass(frozen=True, slots=True)
class Box:
    """An account that may have calendars: it invites by ``addresses`` (in small letters), of late by the first."""

    external_id: str
    login: str
    name: str
    addresses: tuple[str, ...]

    @property
    def who(self) -> Who:
        return Who(self.addresses[0], self.name)


class Addressed(Connector, Protocol):
    """What the application must tell beside `Connector`."""

    async def boxes(
        self, external_ids: Collection[str] = (), addresses: Collection[str] = ()
    ) -> Sequence[Box]:
        """The accounts with these ids, and those that are written to by one of these addresses."""
        ...


@dataclass(frozen=True, slots=True)
class Options:
    """Where the calendars are: from the options ``calendars`` (its address), ``calendars_user`` and ``smtp``."""

    url: str
    user: str
    smtp: str

    @classmethod
    def of(cls, spec: ConnectorSpec) -> Options | None:
        """None where there are none.

        Raises:
            InvalidInput: one of them is missing.
        """
        said = {n: spec.options.get(n, "") for n in ("calendars", "calendars_user", "smtp")}
        if not any(said.values()):
            return None
        for name, value in said.items():
            if not value:
                raise InvalidInput(
                    f"{spec.name} lacks the option {name}.",
                    place=f"options.{name}",
                    remedy="For calendars give calendars (address), calendars_user and smtp (host:port).",
                )
        address = urlsplit(said["calendars"])
        if address.scheme != "https" and not loopback(address.hostname or ""):
            raise InvalidInput(
                f"The calendars of {spec.name} would be asked in clear over the network.",
                place="options.calendars",
                remedy="Give an address that begins with https://.",
            )
        return cls(said["calendars"], said["calendars_user"], said["smtp"])


class Attached:
    """An application with the calendars of its accounts."""

    def __init__(
        self, inner: Addressed, spec: ConnectorSpec, options: Options, password: str
    ) -> None:
        self.call_timeout = spec.timeout
        self._inner = inner
        self._name = spec.name
        self._database = spec.database
        self._server = Server(spec.name, options.url, options.user, password, spec.timeout)
        notices = Notices.of(spec.name, options.smtp, spec.timeout)
        self._homes = Homes(self._server, notices)

    async def close(self) -> None:
        await self._inner.close()
        await self._server.close()

    async def discover(self) -> Discovery:
        found = await self._inner.discover()
        await self._server.look()
        more = {Capability.ASSETS, Capability.CALL_OFF}
        return replace(found, capabilities=found.capabilities | more)

    async def _now(self) -> datetime:
        """The moment it is by Yugum's clock."""
        if self._database is None:
            return datetime.now(UTC)
        async with self._database.unit() as unit:
            return await moment(unit)

    # --- observe -----------------------------------------------------------------------------

    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        """Every account; where the calendars do not answer, without what is owned, and said at the end."""
        now, failed = await self._now(), list[ApplicationError]()
        async for page in self._inner.read(since):
            yield await self._with_calendars(page, now, failed)
        if failed:
            raise failed[0]

    async def _with_calendars(
        self, page: Sequence[Observed | Unreadable], now: datetime, failed: list[ApplicationError]
    ) -> Sequence[Observed | Unreadable]:
        accounts = [s for s in page if isinstance(s, Observed)]
        boxes = {
            b.external_id: b for b in await self._inner.boxes([a.external_id for a in accounts])
        }
        limit = asyncio.Semaphore(AT_A_TIME)

        async def one(seen: Observed | Unreadable) -> Observed | Unreadable:
            if not isinstance(seen, Observed) or seen.external_id not in boxes:
                return seen
            async with limit:
                if any(isinstance(error, ApplicationUnavailable) for error in failed):
                    return replace(seen, assets=None)  # nobody answers: the others need not wait
                try:
                    return await self._owning(seen, boxes[seen.external_id], now)
                except (ApplicationUnavailable, ApplicationRejected) as error:
                    failed.append(error)
                    return replace(seen, assets=None)

        return await asyncio.gather(*(one(s) for s in page))

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        seen = await self._inner.observe(ref, assets=assets)
        if seen is None or not assets:
            return seen if seen is None else replace(seen, assets=None)
        box = await self._box(seen.external_id)
        return seen if box is None else await self._owning(seen, box, await self._now())

    async def _owning(self, seen: Observed, box: Box, now: datetime) -> Observed:
        who = frozenset(box.addresses)
        calendars = [
            Asset("calendar", c.key, c.name)
            for c in await self._server.calendars(box.login)
            if not c.handed
        ]
        meetings = [m.asset for m in await self._homes.meetings(box.login, who, now)]
        return replace(seen, assets=(*(seen.assets or ()), *calendars, *meetings))

    async def _box(self, external_id: str) -> Box | None:
        return next(iter(await self._inner.boxes([external_id])), None)

    # --- act ---------------------------------------------------------------------------------

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        if action is Action.TRANSFER and item in KINDS:
            return await self._transfer(ref, item, arguments)
        if action is Action.COPY and item in KINDS:
            return await self._copy(ref, item, arguments)
        if action is Action.CALL_OFF:
            return await self._call_off(ref, item, arguments)
        if action is Action.PURGE:
            box = await self._theirs(ref)
            if box is not None:
                await self._homes.remove(box.login)
        if action is Action.RENAME:
            await self._follow(ref, item)
        return await self._inner.act(action, ref, item, arguments, secret)

    async def _follow(self, ref: AccountRef, login: str) -> None:
        """Move the home first: once the account is called so, nobody would come back for it.

        Where somebody else is called so already it stays, and the application says so.
        """
        box = await self._theirs(ref)
        taken = await self._inner.observe(AccountRef("", "", login))
        if box is not None and (taken is None or taken.external_id == box.external_id):
            await self._homes.follow(box.login, login)

    async def _theirs(self, ref: AccountRef) -> Box | None:
        seen = await self._inner.observe(ref)
        return None if seen is None else await self._box(seen.external_id)

    async def _transfer(self, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        source, to = await asyncio.gather(
            self._box(arguments.from_external_id or ref.external_id),
            self._box(arguments.to_external_id or ref.external_id),
        )
        if source is None or to is None:
            raise ApplicationRejected(
                f"{arguments.to_name} has no account in {self._name} any more.",
                remedy="Name another successor.",
            )
        now = await self._now()
        if item == MEETING:
            change = await self._change(source, now, arguments)
            moved = await self._homes.hand_meetings(change, to.login, to.who)
            return Done(assets=tuple(moved), to=arguments.to_name, note=_untold(change))
        moved = await self._homes.hand_calendars(
            (source.login, to.login), frozenset(source.addresses), now, arguments.only
        )
        return Done(assets=tuple(moved), to=arguments.to_name)

    async def _copy(self, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        source, to = await asyncio.gather(self._theirs(ref), self._box(arguments.to_external_id))
        if source is None or to is None or item == MEETING:
            raise ApplicationRejected(
                f"{self._name} cannot copy this {item} for {arguments.to_name}.",
                remedy="Choose otherwise what becomes of it.",
            )
        found = await self._homes.copy_calendars(source.login, to.login, arguments.only)
        return Done(
            assets=tuple(copy for _, copy in found),
            copied=tuple(of for of, _ in found),
            to=arguments.to_name,
        )

    async def _change(self, source: Box, now: datetime, arguments: Arguments) -> Change:
        """What is to be done to somebody's meetings, with who of those invited is here."""
        mine = frozenset(source.addresses)
        found = await self._homes.meetings(source.login, mine, now, arguments.only)
        addresses = {a for m in found for a in m.invited}
        boxes = await self._inner.boxes(addresses=addresses) if addresses else ()
        return Change(
            login=source.login,
            who=source.who,
            addresses=mine,
            met={a: b.login for b in boxes for a in b.addresses},
            now=now,
            meetings=found,
        )

    async def _call_off(self, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        source = await self._theirs(ref)
        if source is None or item != MEETING:
            raise ApplicationRejected(f"{self._name} has nothing to call off: {item}.")
        change = await self._change(source, await self._now(), arguments)
        await self._homes.call_off(change)
        return Done(assets=tuple(m.asset for m in change.meetings), note=_untold(change))


def _untold(change: Change) -> str:
    """Whom the mail server refused for good, for the record."""
    some = sorted(change.untold)
    return f"not told, for no mail reaches them: {', '.join(some)}" if some else ""
