"""How much a request may carry, checked before anybody is looked up and before it is read."""

from __future__ import annotations

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from yugum.api import problems

MOST = 2 * 1024 * 1024
OF_ANYBODY = 64 * 1024
"""Of requests that need nobody signed in."""
FILES = 32 * 1024 * 1024

CLOSE = {"Connection": "close"}
"""What else comes of it is not read."""
OPEN = ("/api/v1/session", "/api/v1/credentials", "/api/v1/approval-links")
"""Where anybody may send something."""


class BodyLimit:
    """Refuses a body that is longer than its address may take, announced or as it comes."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        most, come = limit_of(scope["path"]), 0
        text = f"A request to this address carries at most {most // 1024} KiB."
        announced = dict[bytes, bytes](scope["headers"]).get(b"content-length", b"0")
        if not announced.isdigit() or int(announced) > most:
            reply = problems.reply(problems.plain(413, "too-large", text, ""), CLOSE)
            await reply(scope, receive, send)
            return

        async def counted() -> Message:
            nonlocal come
            message = await receive()
            come += len(message.get("body", b""))
            if come > most:
                raise HTTPException(413, text, CLOSE)
            return message

        await self._app(scope, counted, send)


def limit_of(path: str) -> int:
    """Bytes that a request to a path may carry."""
    if path.endswith(("/accounts-file", "/people-files")):
        return FILES
    return OF_ANYBODY if path.startswith(OPEN) else MOST
