"""Idempotency-Key on POST: the first reply is kept and given again; nothing is done twice."""

from __future__ import annotations

import asyncio
import hashlib
import json
from contextlib import suppress

from fastapi import Request, Response
from fastapi.responses import JSONResponse

from yugum.api.auth import authenticate, services_of
from yugum.api.strict import Handler, StrictRoute
from yugum.errors import Collided, Conflict, InvalidInput
from yugum.ports.idempotency import KeptReply

HEADER = "Idempotency-Key"
SECRET = "secret-reply"
"""A tag for routes whose replies hold a secret: these are not kept, only that they were given."""

NO_EFFECT = "no-effect"
"""A tag for routes that only answer a question: asked again they are answered anew."""

COLLISIONS = 2


class IdempotentRoute(StrictRoute):
    """A route whose POSTs may be repeated safely with the same key."""

    def get_route_handler(self) -> Handler:
        handler = super().get_route_handler()

        async def handle(request: Request) -> Response:
            key = request.headers.get(HEADER)
            if request.method != "POST" or not key or NO_EFFECT in (self.tags or ()):
                return await _run(handler, request)
            if len(key) > 200:
                raise InvalidInput(f"{HEADER} is longer than 200 characters.", place=HEADER)
            return await self._once(handler, request, key)

        return handle

    async def _once(self, handler: Handler, request: Request, key: str) -> Response:
        operator = await authenticate(request)
        body = await request.body()
        text = f"{request.method} {request.url.path}\n".encode() + body
        fingerprint = hashlib.sha256(text).hexdigest()
        replies = services_of(request).replies
        before = await replies.begin(operator.id, key, fingerprint)
        if before is not None:
            return _again(before, fingerprint)
        holding = asyncio.create_task(replies.hold(operator.id, key))
        try:
            response = await _run(handler, request)
        except BaseException:
            await replies.drop(operator.id, key)
            raise
        finally:
            holding.cancel()
        kept = None if SECRET in (self.tags or ()) else json.loads(bytes(response.body) or b"null")
        await replies.end(operator.id, key, response.status_code, kept)
        return response


async def _run(handler: Handler, request: Request) -> Response:
    """Run a handler, again where a transaction collided with another: that one was rolled back.

    What it has committed in earlier ones stays, and is what the second run finds.
    """
    for _ in range(COLLISIONS):
        with suppress(Collided):
            return await handler(request)
    return await handler(request)


def _again(before: KeptReply, fingerprint: str) -> Response:
    if before.fingerprint != fingerprint:
        raise Conflict(
            f"This {HEADER} was used for another request.", remedy="Use a new key.", place=HEADER
        )
    if before.status is None:
        raise Conflict(
            "The first request with this key is still running.", remedy="Ask again in a moment."
        )
    if before.reply is None:
        raise Conflict(
            "This was done, and its secret is shown only once.", remedy="Make a new one."
        )
    return JSONResponse(before.reply, status_code=before.status)
