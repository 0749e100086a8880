"""Places of a SCIM application that hold text somebody typed, by our extension's resource Setting."""

from __future__ import annotations

from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from typing import Any

from yugum.connectors.scim.http import ScimHttp, at, quoted
from yugum.connectors.scim.words import PATCH, replacing
from yugum.core.actions import Arguments, Done
from yugum.core.mentions import Mention, swapped
from yugum.errors import ApplicationRejected, ApplicationUnavailable

SAID = ("id", "kind", "place", "text", "effect", "contact")
MOST_NAMES = 50
"""How many names a filter holds, which travels in the address; for more of them every place is read."""
TRIES = 5
"""How often a place that others change as well is read again before a step has to wait."""


class ScimSettings:
    def __init__(self, name: str, http: ScimHttp) -> None:
        self._name = name
        self._http = http

    async def listed(self, names: Collection[str]) -> AsyncIterator[Sequence[Mention]]:
        """All places, or those with one of the names in their text."""
        some = names if len(names) <= MOST_NAMES else ()
        condition = " or ".join(f"text co {quoted(name)}" for name in sorted(some))
        async for page in self._http.listed("/Settings", condition):
            yield [_mention(body) for body in page if body.get("id")]

    async def one(self, key: str) -> tuple[Mention, str] | None:
        """A place and its version (RFC 7644 3.14); None where it is not there."""
        reply = await self._http.send("GET", at("Settings", key), allow=(404,))
        return None if reply.status == 404 else (_mention(reply.body), reply.etag)

    async def mention(self, key: str) -> Mention | None:
        """One place as it is now."""
        found = await self.one(key)
        return None if found is None else found[0]

    async def redirect(self, arguments: Arguments) -> Done:
        """Write what was planned where the text is as it was; else put the names in what is there now."""
        key = arguments.place
        for _ in range(TRIES):
            found = await self.one(key)
            if found is None:
                return Done(note="the place is gone")
            mention, etag = found
            text = arguments.value
            if mention.text != arguments.was:
                text = swapped(mention.text, arguments.swaps)
            if text == mention.text:
                if not arguments.swaps:
                    raise ApplicationRejected(
                        f"{mention.place} in {self._name} was changed since.",
                        remedy="Leave the step out; it stays as it is.",
                    )
                return Done(values={key: text})
            body = {"schemas": [PATCH], "Operations": [replacing("text", text)]}
            reply = await self._http.send(
                "PATCH", at("Settings", key), body, etag=etag, allow=(412,)
            )
            if reply.status != 412:
                return Done(values={key: text})
        raise ApplicationUnavailable(f"{self._name} changes {key} faster than it can be written.")

    async def replace_key(self, arguments: Arguments, secret: str) -> Done:
        """Give a program a key of another account; the one it has had works on until then.

        A second attempt gives it another one of that account, and the old one stays as it was. Where somebody else has
        given it one in between it keeps that.
        """
        key = arguments.place
        before = {arguments.was, *([arguments.value] if arguments.again else [])}
        for _ in range(TRIES):
            found = await self.one(key)
            if found is None:
                return Done(note="the place is gone")
            mention, etag = found
            if mention.text not in before or not mention.replaceable:
                return Done(note=f"it runs with the key of {mention.text} by now")
            values = {"text": arguments.value, "secret": secret, "oldUntil": arguments.until}
            said = [replacing(name, value) for name, value in values.items()]
            body = {"schemas": [PATCH], "Operations": said}
            path = at("Settings", key)
            reply = await self._http.send("PATCH", path, body, etag=etag, allow=(412,))
            if reply.status != 412:
                after = await self.mention(key)
                if after is None or after.text != arguments.value:
                    raise ApplicationUnavailable(
                        f"{self._name} does not show the new key of {key}."
                    )
                return Done(values={key: after.text}, until=arguments.until)
        raise ApplicationUnavailable(f"{self._name} changes {key} faster than it can be written.")


def _mention(body: Mapping[str, Any]) -> Mention:
    said = {name: str(body.get(name) or "").replace("\0", "") for name in SAID}
    return Mention(
        application_id="",
        key=said["id"],
        kind=said["kind"] or "setting",
        place=said["place"] or said["id"],
        text=said["text"],
        effect=said["effect"],
        contact=said["contact"],
        fixable=bool(body.get("writable")),
        replaceable=bool(body.get("replaceable")),
    )
