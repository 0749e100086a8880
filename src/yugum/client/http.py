"""HTTP for the client: tokens, idempotency keys, problems back into errors."""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable, Iterator, Mapping
from typing import Any, TypeVar

import httpx
from pydantic import BaseModel

from yugum import errors
from yugum.wire.common import LENIENT, Page

M = TypeVar("M", bound=BaseModel)

TRIES = 3


class Http:
    """Requests to one service. A POST carries a key, so that trying again is safe."""

    def __init__(self, url: str, token: str, *, timeout: float) -> None:
        self._client = httpx.Client(
            base_url=f"{url.rstrip('/')}/api/v1",
            headers={"Authorization": f"Bearer {token}"} if token else {},
            timeout=timeout,
        )
        self._url = url

    def close(self) -> None:
        self._client.close()

    def send(
        self,
        method: str,
        path: str,
        *,
        params: Mapping[str, Any] | None = None,
        body: BaseModel | Mapping[str, Any] | None = None,
        headers: Mapping[str, str] | None = None,
        content: bytes | None = None,
    ) -> httpx.Response:
        """One request; errors of the service come back as the errors they were."""
        sent = dict(headers or {})
        if method == "POST":
            sent.setdefault("Idempotency-Key", str(uuid.uuid4()))
        document = body.model_dump(mode="json") if isinstance(body, BaseModel) else body
        chosen = {k: v for k, v in (params or {}).items() if v not in (None, "", False)}
        for attempt in range(1, TRIES + 1):
            try:
                response = self._client.request(
                    method,
                    path,
                    params=chosen,
                    headers=sent,
                    **({"content": content} if content is not None else {"json": document}),
                )
            except httpx.TransportError as error:
                if attempt < TRIES and not isinstance(error, httpx.ReadTimeout):
                    time.sleep(0.2 * attempt)
                    continue
                raise errors.ServiceUnreachable(
                    f"Yugum does not answer at {self._url} ({type(error).__name__}).",
                    remedy="Is it running? Try: scripts/demo, or yugum serve.",
                ) from error
            if response.status_code >= 400:
                raise _error(response)
            return response
        raise AssertionError("not reached")

    def model(self, model: type[M], method: str, path: str, /, **more: Any) -> M:
        return model.model_validate(self.send(method, path, **more).json(), context=LENIENT)

    def many(self, model: type[M], method: str, path: str, /, **more: Any) -> list[M]:
        rows = self.send(method, path, **more).json()
        return [model.model_validate(row, context=LENIENT) for row in rows]

    def models(self, model: type[M], path: str, /, **params: Any) -> list[M]:
        return self.many(model, "GET", path, params=params)

    def page(self, model: type[M], path: str, /, **params: Any) -> Page[M]:
        document = self.send("GET", path, params=params).json()
        return Page[model].model_validate(document, context=LENIENT)  # type: ignore[valid-type]

    def stream_lines(self, path: str) -> Iterator[str]:
        with self._client.stream("GET", path) as response:
            if response.status_code >= 400:
                response.read()
                raise _error(response)
            yield from (f"{line}\n" for line in response.iter_lines() if line)


def every(fetch: Callable[[str | None], Page[M]]) -> Iterator[M]:
    """All rows of a paged list, fetched as they are needed."""
    cursor: str | None = None
    while True:
        page = fetch(cursor)
        yield from page.items
        if page.next is None:
            return
        cursor = page.next


def _error(response: httpx.Response) -> errors.YugumError:
    try:
        problem = response.json()
        code, detail = problem["code"], problem["detail"]
    except (ValueError, KeyError, TypeError):
        return errors.ServiceUnreachable(f"The service answered {response.status_code}.")
    wait = response.headers.get("Retry-After", "")
    return errors.told(
        code,
        detail,
        retryable=problem.get("retryable", False),
        remedy=problem.get("remedy", ""),
        place=problem.get("place", ""),
        retry_after=float(wait) if wait.isdecimal() else None,
    )


class Noun:
    """One noun of the service."""

    def __init__(self, http: Http) -> None:
        self._http = http
