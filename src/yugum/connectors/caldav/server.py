"""The calls to one CalDAV server (RFC 4791, RFC 4918): collections and what lies in them."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from urllib.parse import quote, unquote, urlsplit
from xml.etree.ElementTree import Element, ParseError, SubElement, tostring

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from yugum.connectors.web import Answer, Web
from yugum.errors import ApplicationRejected, ApplicationUnavailable

DAV = "{DAV:}"
CAL = "{urn:ietf:params:xml:ns:caldav}"
BEGAN = "{urn:yugum:calendars}began"
HANDED = "{urn:yugum:calendars}handed"
"""What is noted at a collection: under which path it was seen first, and into whose home it was handed."""


@dataclass(frozen=True, slots=True)
class Calendar:
    """A collection of events; ``key`` is the path under which it was seen first, wherever it is now.

    One that was ``handed`` into somebody's home has only what waits there for its new caller.
    """

    path: str
    key: str
    name: str
    handed: str


@dataclass(frozen=True, slots=True)
class Item:
    """One object of a collection: everything with the same UID (RFC 4791 4.1)."""

    path: str
    text: str


class Server:
    """One server, spoken to as somebody who may read and write every calendar."""

    def __init__(self, name: str, url: str, user: str, password: str, timeout: float) -> None:
        self._name = f"{name}: calendars"
        self._url = url.rstrip("/")
        self._base = urlsplit(self._url).path
        signed = b64encode(f"{user}:{password}".encode()).decode()
        self._web = Web(self._name, timeout, headers={"Authorization": f"Basic {signed}"})

    async def close(self) -> None:
        await self._web.close()

    # --- looking ------------------------------------------------------------------------------

    async def look(self) -> None:
        """Whether it answers and lets us in.

        Raises:
            ApplicationUnavailable: nobody answers.
            ApplicationRejected: it does not take the password, or does not know calendars.
        """
        answer = await self._send("OPTIONS", "/")
        if "calendar-access" not in answer.headers.get("DAV", ""):
            raise ApplicationRejected(
                f"{self._name}: the server does not speak CalDAV.",
                remedy="Give the address of its root as option calendars.",
            )

    async def calendars(self, login: str) -> list[Calendar]:
        """The calendars in somebody's home; none where they have no home."""
        wanted = ("resourcetype", "displayname")
        body = Element(f"{DAV}propfind")
        props = SubElement(body, f"{DAV}prop")
        for name in (*(f"{DAV}{w}" for w in wanted), BEGAN, HANDED):
            SubElement(props, name)
        found = await self._multi("PROPFIND", f"/{quote(login, safe='')}/", body, depth="1")
        return [
            Calendar(
                path,
                props.get(BEGAN) or path.strip("/"),
                props.get(f"{DAV}displayname") or path.strip("/").rsplit("/", 1)[-1],
                props.get(HANDED, ""),
            )
            for path, props in found
            if f"{CAL}calendar" in props[f"{DAV}resourcetype"].split()
        ]

    async def items(
        self, calendar: str, uid: str = "", organizer: str = "", after: datetime | None = None
    ) -> list[Item]:
        """What lies in a calendar: all of it, what has a UID, or what somebody has called and is not over ``after``."""
        body = Element(f"{CAL}calendar-query")
        SubElement(SubElement(body, f"{DAV}prop"), f"{CAL}calendar-data")
        outer = SubElement(SubElement(body, f"{CAL}filter"), f"{CAL}comp-filter", name="VCALENDAR")
        if uid or organizer:
            inner = SubElement(outer, f"{CAL}comp-filter", name="VEVENT")
            if after is not None:
                start = f"{after.astimezone(UTC):%Y%m%dT%H%M%SZ}"
                SubElement(inner, f"{CAL}time-range", start=start)
            named = SubElement(inner, f"{CAL}prop-filter", name="UID" if uid else "ORGANIZER")
            match = SubElement(named, f"{CAL}text-match", collation="i;ascii-casemap")
            match.text = uid or organizer
        found = await self._multi("REPORT", calendar, body, depth="1")
        data = f"{CAL}calendar-data"
        return [Item(path, props[data]) for path, props in found if props.get(data)]

    # --- changing -----------------------------------------------------------------------------

    async def make(self, path: str, name: str, key: str) -> None:
        """Make a calendar, or name one that is there."""
        there = (405, 409)
        await self._send("MKCOL", f"{path.rstrip('/').rsplit('/', 1)[0]}/", allow=there)
        await self._send("MKCALENDAR", path, allow=there)
        await self.note(path, {f"{DAV}displayname": name, BEGAN: key, HANDED: ""})

    async def note(self, path: str, values: Mapping[str, str]) -> None:
        """Set properties of a collection; an empty value takes one away."""
        body = Element(f"{DAV}propertyupdate")
        for name, value in values.items():
            change = SubElement(body, f"{DAV}{'set' if value else 'remove'}")
            SubElement(SubElement(change, f"{DAV}prop"), name).text = value or None
        await self._send("PROPPATCH", path, body)

    async def put(self, path: str, text: str) -> None:
        await self._send("PUT", path, text, headers={"Content-Type": "text/calendar"})

    async def move(self, path: str, to: str) -> None:
        """Move an object to another collection; what is there under its path already gives way."""
        there = f"{self._url}{to}"
        headers = {"Destination": there, "Overwrite": "T"}
        await self._send("MOVE", path, headers=headers, allow=(404,))

    async def delete(self, path: str) -> None:
        await self._send("DELETE", path, allow=(404,))

    # --- travelling ---------------------------------------------------------------------------

    async def _multi(
        self, method: str, path: str, body: Element, *, depth: str
    ) -> list[tuple[str, dict[str, str]]]:
        """Paths of a multi-status with their properties as text; of a resource type the names of its kinds."""
        # A login of signs that no path may have (400) has no home either.
        nothing = (400, 404) if method == "PROPFIND" else (404,)
        answer = await self._send(method, path, body, headers={"Depth": depth}, allow=nothing)
        if answer.status in nothing:
            return []
        try:
            root = ElementTree.fromstring(answer.body)
        except (ParseError, DefusedXmlException, ValueError) as error:
            raise ApplicationUnavailable(
                f"{self._name} answers {answer.status} and nothing that can be read."
            ) from error
        found = []
        for response in root.iter(f"{DAV}response"):
            props = {f"{DAV}resourcetype": ""}
            for prop in response.iterfind(f"{DAV}propstat/{DAV}prop/*"):
                kinds = " ".join(child.tag for child in prop)
                props[prop.tag] = kinds if len(prop) else prop.text or ""
            href = urlsplit(response.findtext(f"{DAV}href") or "").path
            found.append((href.removeprefix(self._base), props))
        return found

    async def _send(
        self,
        method: str,
        path: str,
        body: Element | str | None = None,
        *,
        headers: Mapping[str, str] | None = None,
        allow: Sequence[int] = (),
    ) -> Answer:
        """One call.

        Raises:
            ApplicationUnavailable: nobody answers, or the server is in trouble.
            ApplicationRejected: it does not let us, or not this.
        """
        text = tostring(body, "unicode") if isinstance(body, Element) else body
        kind = {"Content-Type": "application/xml; charset=utf-8"} if text else {}
        request = self._web.request(method, f"{self._url}{path}", {**kind, **(headers or {})})
        answer = await self._web.send(request.body_bytes(text.encode()) if text else request)
        if answer.status < 300 or answer.status in allow:
            return answer
        if answer.status in (401, 403):
            raise ApplicationRejected(
                f"{self._name}: {method} {unquote(path)} is refused ({answer.status}).",
                remedy="Give the password of a user who may read and write every calendar.",
            )
        if answer.status >= 500 or answer.status == 429:
            raise ApplicationUnavailable(f"{self._name} answers {answer.status}.")
        raise ApplicationRejected(f"{self._name} answers {answer.status} to {method}.")
