"""SCIM requests, with every failure translated to our errors."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote

import orjson

from yugum.connectors.web import Web, wait_of
from yugum.errors import (
    ApplicationRejected,
    ApplicationUnavailable,
    CannotDo,
    RateLimited,
)

MEDIA = "application/scim+json"
PAGE = 1000


@dataclass(frozen=True, slots=True)
class Reply:
    status: int
    body: Any
    etag: str


@dataclass(frozen=True, slots=True)
class ClientCredentials:
    """Where a bearer token is fetched (RFC 6749 4.4); the secret is the client's password."""

    token_url: str
    client_id: str
    scope: str = ""


class ScimHttp:
    """One application's SCIM root.

    ``token`` goes out as a bearer token (RFC 6750); with ``credentials`` it is the client secret
    for which such a token is fetched, and fetched again before it ends.
    """

    def __init__(
        self,
        name: str,
        url: str,
        token: str,
        *,
        timeout: float,
        connections: int,
        credentials: ClientCredentials | None = None,
    ) -> None:
        self.name = name
        self._url = url.rstrip("/")
        self.by_cursor = False
        self._secret = token
        self._credentials = credentials
        self._fetching = asyncio.Lock()
        self._good_until = 0.0 if credentials else float("inf")
        self._bearer = token
        self._web = Web(name, timeout, connections=connections, headers={"Accept": MEDIA})

    async def close(self) -> None:
        await self._web.close()

    async def send(
        self,
        method: str,
        path: str,
        body: Mapping[str, Any] | None = None,
        *,
        etag: str = "",
        allow: tuple[int, ...] = (),
    ) -> Reply:
        """One request. Statuses of 400 and above raise, unless listed in ``allow``."""
        if time.monotonic() > self._good_until:
            await self._fetch_token()
        headers = {"Authorization": f"Bearer {self._bearer}"}
        if etag:
            headers["If-Match"] = etag
        if body is not None:
            headers["Content-Type"] = MEDIA
        request = self._web.request(method, self._url + path, headers)
        if body is not None:
            request.body_bytes(orjson.dumps(body))
        answer = await self._web.send(request)
        status, found = answer.status, answer.headers
        if status >= 400 and status not in allow:
            raise self._problem(status, answer.body, found)
        return Reply(status, _parsed(self.name, answer.body), found.get("ETag", ""))

    async def _fetch_token(self) -> None:
        """One token for all calls; whoever comes first fetches it."""
        credentials = self._credentials
        assert credentials is not None
        async with self._fetching:
            if time.monotonic() <= self._good_until:
                return
            form = {"grant_type": "client_credentials"}
            if credentials.scope:
                form["scope"] = credentials.scope
            request = self._web.request("POST", credentials.token_url).form(form)
            request.basic_auth(credentials.client_id, self._secret)
            try:
                answer = await self._web.send(request)
                status, body = answer.status, orjson.loads(answer.body)
            except (ApplicationUnavailable, orjson.JSONDecodeError) as error:
                raise ApplicationUnavailable(f"{self.name} gives out no token.") from error
            if status >= 500:
                raise ApplicationUnavailable(f"{self.name} gives out no token ({status}).")
            if status >= 400 or "access_token" not in body:
                raise ApplicationRejected(
                    f"{self.name} does not accept Yugum's client credentials ({status}).",
                    remedy="Renew them: yugum apps connect.",
                )
            self._bearer = str(body["access_token"])
            self._good_until = time.monotonic() + max(float(body.get("expires_in", 300)) - 30, 5)

    def _problem(self, status: int, raw: bytes, headers: Mapping[str, str]) -> Exception:
        detail = _detail(raw)
        if status == 429:
            seconds = wait_of(headers)
            return RateLimited(f"{self.name} asks to slow down.", retry_after=seconds)
        if status == 501:
            return CannotDo(f"{self.name} does not offer this. {detail}".strip())
        if status >= 500:
            return ApplicationUnavailable(f"{self.name} answers {status}. {detail}".strip())
        # RFC 7644 3.14: somebody else was faster; what is there is looked at again.
        if status == 412:
            return ApplicationUnavailable(f"{self.name} has changed it meanwhile. {detail}".strip())
        if status in (401, 403):
            return ApplicationRejected(
                f"{self.name} does not accept Yugum's credentials ({status}). {detail}".strip(),
                remedy="Renew them: yugum apps connect.",
            )
        return ApplicationRejected(f"{self.name} refused ({status}). {detail}".strip())

    async def first(self, path: str, count: int) -> list[dict[str, Any]]:
        """The first few of a resource type; none where the application does not list them."""
        reply = await self.send("GET", f"{path}?startIndex=1&count={count}", allow=(403, 404, 501))
        return list(reply.body.get("Resources") or ()) if reply.status < 400 else []

    async def listed(self, path: str, filter_text: str = "") -> AsyncIterator[list[dict[str, Any]]]:
        """Pages of a resource type, by index (RFC 7644 3.4.2.4) or by cursor (RFC 9865)."""
        joiner = "&" if "?" in path else "?"
        condition = f"&filter={quote(filter_text)}" if filter_text else ""
        if self.by_cursor:
            cursor: str | None = ""
            while cursor is not None:
                reply = await self.send(
                    "GET", f"{path}{joiner}cursor={quote(cursor)}&count={PAGE}{condition}"
                )
                if reply.body.get("Resources"):
                    yield reply.body["Resources"]
                cursor = reply.body.get("nextCursor")
            return
        start = 1
        while True:
            reply = await self.send(
                "GET", f"{path}{joiner}startIndex={start}&count={PAGE}{condition}"
            )
            resources = reply.body.get("Resources") or []
            if resources:
                yield resources
            start += len(resources)
            if not resources or start > int(reply.body.get("totalResults", 0)):
                return


def at(resources: str, key: str) -> str:
    """The path of one resource; its id is the application's and may hold anything.

    Raises:
        ApplicationRejected: the id would lead to another resource (RFC 3986 5.2.4).
    """
    if key in (".", ".."):
        raise ApplicationRejected(
            f"An account or group with the id {key} cannot be addressed.",
            remedy="Give it another id in the application.",
        )
    return f"/{resources}/{quote(key, safe='')}"


def quoted(value: str) -> str:
    """A string as a filter's comparison value (JSON syntax)."""
    return orjson.dumps(value).decode()


def _parsed(name: str, raw: bytes) -> Any:  # noqa: ANN401 - JSON of any shape
    if not raw:
        return {}
    try:
        return orjson.loads(raw)
    except orjson.JSONDecodeError as error:
        raise ApplicationUnavailable(f"{name} answered something that is not JSON.") from error


def _detail(raw: bytes) -> str:
    try:
        body = orjson.loads(raw)
    except orjson.JSONDecodeError:
        return ""
    return str(body.get("detail", ""))[:300] if isinstance(body, dict) else ""
