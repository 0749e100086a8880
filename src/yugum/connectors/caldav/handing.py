"""What becomes of somebody's calendars and meetings: with others, called off, renamed, gone."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import TypeVar
from urllib.parse import quote

from icalendar import Calendar as Object

from yugum.connectors.caldav import meetings as m
from yugum.connectors.caldav.meetings import Who
from yugum.connectors.caldav.notices import Notices
from yugum.connectors.caldav.server import BEGAN, HANDED, Calendar, Item, Server
from yugum.core.accounts import Asset
from yugum.core.handover import MEETING
from yugum.ports.telling import tell

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Meeting:
    """One that somebody has called with others and that has still to begin, where it is stored."""

    calendar: Calendar
    item: Item
    object: Object

    @property
    def asset(self) -> Asset:
        return Asset(MEETING, m.key_of(self.object), m.title(self.object), self.calendar.name)

    @property
    def invited(self) -> list[str]:
        return m.attendees(self.object)


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """What is done to somebody's meetings: ``login`` is theirs, ``who`` they were, ``addresses`` all of theirs.

    ``met`` are the logins of those here who are invited, by their addresses; ``untold`` becomes whom no mail reaches.
    """

    login: str
    who: Who
    addresses: frozenset[str]
    met: Mapping[str, str]
    now: datetime
    meetings: Sequence[Meeting]
    untold: set[str] = field(default_factory=set)


class Homes:
    """The homes of one server."""

    def __init__(self, server: Server, notices: Notices) -> None:
        self._server = server
        self._notices = notices

    async def meetings(
        self,
        login: str,
        addresses: frozenset[str],
        now: datetime,
        only: Collection[str] | None = None,
    ) -> list[Meeting]:
        """What they have called with others and has still to begin, in any of their calendars."""
        found: list[Meeting] = []
        for calendar in await self._server.calendars(login):
            items: dict[str, Item] = {}
            for address in sorted(addresses):
                mine = await self._server.items(
                    calendar.path, organizer=f"mailto:{address}", after=now
                )
                items |= {i.path: i for i in mine}
            for item in items.values():
                read = m.read(item.text)
                if read is None or m.organizer(read) not in addresses or not m.attendees(read):
                    continue
                if (only is None or m.key_of(read) in only) and m.is_ahead(read, now):
                    found.append(Meeting(calendar, item, read))
        return found

    # --- calendars ----------------------------------------------------------------------------

    async def hand_calendars(
        self,
        logins: tuple[str, str],
        addresses: frozenset[str],
        now: datetime,
        only: Collection[str] | None,
    ) -> list[Asset]:
        """Move calendars into another home; what was called with others waits there for who is to call it from now on."""
        source, to = logins
        own = [
            c
            for c in await self._server.calendars(source)
            if not c.handed and (only is None or c.key in only)
        ]
        stays = {one.item.path for one in await self.meetings(source, addresses, now)}
        moved: list[Asset] = []
        for left, calendar in counted(own):
            await self._hand(calendar, source, to, stays)
            moved.append(Asset("calendar", calendar.key, calendar.name))
            tell(left)
        return moved

    async def _hand(self, calendar: Calendar, source: str, to: str, stays: set[str]) -> None:
        there = {c.path: c for c in await self._server.calendars(to)}
        target = _within(to, _last(calendar.path))
        if target in there and there[target].key != calendar.key:
            target = _within(to, f"{quote(source, safe='')}-{_last(calendar.path)}")
        await self._server.make(target, calendar.name, calendar.key)
        rest = False
        for item in await self._server.items(calendar.path):
            if item.path in stays:
                rest = True
            else:
                await self._server.move(item.path, f"{target}{item.path.rsplit('/', 1)[-1]}")
        if rest:
            await self._server.note(calendar.path, {HANDED: to, BEGAN: calendar.key})
        else:
            await self._server.delete(calendar.path)

    async def copy_calendars(
        self, source: str, to: str, only: Collection[str] | None
    ) -> list[tuple[str, Asset]]:
        """Copies of calendars in another home, of whoever calls what: the keys of these, and the copies."""
        made: list[tuple[str, Asset]] = []
        for calendar in await self._server.calendars(source):
            if calendar.handed or (only is not None and calendar.key not in only):
                continue
            path = _within(to, f"copy-{quote(source, safe='')}-{_last(calendar.path)}")
            await self._server.make(path, calendar.name, path.strip("/"))
            for item in await self._server.items(calendar.path):
                read = m.read(item.text)
                text = item.text if read is None else m.without_others(read)
                await self._server.put(f"{path}{item.path.rsplit('/', 1)[-1]}", text)
            made.append((calendar.key, Asset("calendar", path.strip("/"), calendar.name)))
        return made

    async def follow(self, login: str, to: str) -> None:
        """A home is called as its owner is called now."""
        if login == to:
            return
        for calendar in await self._server.calendars(login):
            await self._hand(calendar, login, to, set())
        await self._server.delete(_home(login))

    async def remove(self, login: str) -> None:
        await self._server.delete(_home(login))

    # --- meetings -----------------------------------------------------------------------------

    async def hand_meetings(self, change: Change, to_login: str, to: Who) -> list[Asset]:
        """Let somebody else call what has still to begin; everybody who is invited is told (RFC 5546 3.2.2.4)."""
        moved: list[Asset] = []
        for left, one in counted(change.meetings):
            past, ahead = m.divided(one.object, change.now, f"-{to_login}")
            assert ahead is not None
            new = m.given(ahead, change.addresses, to, change.now)
            others = [a for a in m.attendees(new) if a != to.address.lower()]
            await self._tell_past(one, past, change, f"{to.name} calls what follows.")
            text = f"{to.name} calls this now, instead of {change.who.name}."
            change.untold.update(await self._notices.send(new, "REQUEST", to, others, text))
            for login in self._invited(one, change, to_login):
                await self._copies(one, change, login, (to, f"-{to_login}"))
            await self._put(one, new, to_login, change)
            await self._past(one, past, change)
            moved.append(one.asset)
            tell(left)
        return moved

    async def call_off(self, change: Change) -> None:
        """Call off what has still to begin, with notice to everybody who is invited."""
        for left, one in counted(change.meetings):
            past, _ = m.divided(one.object, change.now, "")
            text = f"This does not take place any more: {change.who.name} has called it off."
            if past is None:
                off = m.cancelled(one.object, change.now)
                told = await self._notices.send(off, "CANCEL", change.who, one.invited, text)
                change.untold.update(told)
            else:
                await self._tell_past(one, past, change, text)
            for login in self._invited(one, change):
                await self._copies(one, change, login, None)
            await self._past(one, past, change)
            tell(left)

    def _invited(self, one: Meeting, change: Change, but: str = "") -> list[str]:
        """The logins of those here who are invited."""
        found = {change.met[a]: None for a in one.invited if a in change.met}
        return [login for login in found if login not in (but, change.login)]

    async def _tell_past(self, one: Meeting, past: Object | None, change: Change, why: str) -> None:
        """What a series that was divided ends with is news to everybody who is invited."""
        if past is not None:
            text = f"This series ends: {why}"
            ended = m.revised(past, change.now)
            told = await self._notices.send(ended, "REQUEST", change.who, one.invited, text)
            change.untold.update(told)

    async def _copies(
        self, one: Meeting, change: Change, login: str, to: tuple[Who, str] | None
    ) -> None:
        """What somebody who is invited has of it in their own calendars: with its new caller, or without what was called off."""
        uid = m.uid_of(one.object)
        for calendar in await self._server.calendars(login):
            for item in await self._server.items(calendar.path, uid=uid):
                read = m.read(item.text)
                if read is None or m.uid_of(read) != uid:
                    continue
                past, ahead = m.divided(read, change.now, to[1] if to else "")
                if ahead is None:
                    continue
                if past is not None:
                    await self._server.put(item.path, m.written(past))
                if to is not None:
                    new = m.given(ahead, change.addresses, to[0], change.now)
                    path = item.path if past is None else _path(calendar, new)
                    await self._server.put(path, m.written(new))
                elif past is None:
                    await self._server.delete(item.path)

    async def _put(self, one: Meeting, new: Object, to_login: str, change: Change) -> None:
        """Into the calendar that was handed over with it, else the first one, else a new one; not beside a copy that is there."""
        uid, calendars = m.uid_of(one.object), await self._server.calendars(to_login)
        for calendar in calendars:
            for item in await self._server.items(calendar.path, uid=uid):
                read = m.read(item.text)
                if read is None or m.uid_of(read) != uid or item.path == one.item.path:
                    continue
                past, _ = m.divided(read, change.now, "")
                if past is None:
                    await self._server.put(item.path, m.written(new))
                    return
                await self._server.put(item.path, m.written(past))
        with_it = next((c for c in calendars if c.key == one.calendar.key and not c.handed), None)
        place = with_it or next((c for c in calendars if not c.handed), None)
        if place is None:
            place = Calendar(
                path := _within(to_login, "calendar/"), path.strip("/"), "Calendar", ""
            )
            await self._server.make(place.path, place.name, place.key)
        await self._server.put(_path(place, new), m.written(new))

    async def _past(self, one: Meeting, past: Object | None, change: Change) -> None:
        """What has been stays where its calendar is by now; nothing stays in one that was waited for only."""
        calendar = one.calendar
        if past is not None and not calendar.handed:
            await self._server.put(one.item.path, m.written(m.revised(past, change.now)))
            return
        if past is not None:
            with_them = await self._server.calendars(calendar.handed)
            there = next((c for c in with_them if c.key == calendar.key), None)
            if there is not None:
                ended = m.written(m.revised(past, change.now))
                await self._server.put(_path(there, past), ended)
        await self._server.delete(one.item.path)
        if calendar.handed and not await self._server.items(calendar.path):
            await self._server.delete(calendar.path)


def counted(things: Sequence[T]) -> Iterator[tuple[int, T]]:
    """Each with how many are left after it."""
    return zip(range(len(things) - 1, -1, -1), things, strict=True)


def _home(login: str) -> str:
    return f"/{quote(login, safe='')}/"


def _within(login: str, name: str) -> str:
    return f"{_home(login)}{name}"


def _last(path: str) -> str:
    """The last part of a collection's path, with its slash."""
    return f"{path.rstrip('/').rsplit('/', 1)[-1]}/"


def _path(calendar: Calendar, new: Object) -> str:
    return f"{calendar.path}{quote(m.uid_of(new), safe='')}.ics"
