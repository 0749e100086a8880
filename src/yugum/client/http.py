"""HTTP for the client: tokens, idempotency keys, problems back into errors."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import date
from typing import Any, TypedDict, TypeVar, Unpack

import httpx
from pydantic import BaseModel
from tenacity import RetryCallState, Retrying, retry_if_exception, stop_after_attempt

from yugum import errors
from yugum.wire.common import LENIENT, Page

M = TypeVar("M", bound=BaseModel)

TRIES = 4
LONGEST = 5.0
"""Seconds that are waited at most for a service that asks to come again."""


class _Away(Exception):
    """The service has answered that it cannot, for a moment."""

    def __init__(self, response: httpx.Response) -> None:
        super().__init__()
        self.response = response


def _is_lost(error: BaseException) -> bool:
    """Whether a request was lost on its way, or came at a bad moment; one that takes long has arrived."""
    if isinstance(error, _Away):
        return True
    return isinstance(error, httpx.TransportError) and not isinstance(error, httpx.ReadTimeout)


def _pause(state: RetryCallState) -> float:
    """How long the service asks to wait; a lost request goes again at once."""
    error = state.outcome.exception() if state.outcome else None
    asked = error.response.headers.get("Retry-After", "") if isinstance(error, _Away) else ""
    return min(float(asked), LONGEST) if asked.isdecimal() else 0.2 * state.attempt_number


AGAIN = Retrying(
    retry=retry_if_exception(_is_lost),
    stop=stop_after_attempt(TRIES),
    wait=_pause,
    reraise=True,
)
"""Tries a request again: each carries a key, so that the service carries it out once."""


class Sending(TypedDict, total=False):
    """What a request is sent with."""

    params: Mapping[str, object] | None
    body: BaseModel | Mapping[str, object] | None
    headers: Mapping[str, str] | None
    content: bytes | None


class Http:
    """Requests to one service. A POST carries a key, so that trying again is safe."""

    def __init__(self, url: str, token: str, *, timeout: float) -> None:
        self._client = httpx.Client(
            base_url=f"{url.rstrip('/')}/api/v1",
            headers={"Authorization": f"Bearer {token}"} if token else {},
            timeout=timeout,
        )
        self._url = url

    @property
    def url(self) -> str:
        return self._url

    def sign_in(self, path: str, body: BaseModel) -> None:
        """Begin a session; every later request belongs to it."""
        reply = self.send("POST", path, body=body).json()
        self._client.headers["X-Yugum-CSRF"] = reply["csrf"]

    def close(self) -> None:
        self._client.close()

    def send(self, method: str, path: str, /, **sending: Unpack[Sending]) -> httpx.Response:
        """One request; errors of the service come back as the errors they were."""
        sent = dict(sending.get("headers") or {})
        body, content = sending.get("body"), sending.get("content")
        if method == "POST":
            sent.setdefault("Idempotency-Key", str(uuid.uuid4()))
        document = body.model_dump(mode="json") if isinstance(body, BaseModel) else body
        chosen: Any = {
            k: v for k, v in (sending.get("params") or {}).items() if v is not None and v != ""
        }
        given: dict[str, Any] = {"content": content} if content is not None else {"json": document}

        def once() -> httpx.Response:
            reply = self._client.request(method, path, params=chosen, headers=sent, **given)
            if reply.status_code == httpx.codes.SERVICE_UNAVAILABLE:
                raise _Away(reply)
            return reply

        try:
            response: httpx.Response = AGAIN(once)
        except _Away as away:
            response = away.response
        except httpx.TransportError as error:
            raise errors.ServiceUnreachable(
                f"Yugum does not answer at {self._url} ({type(error).__name__}).",
                remedy="Is it running? Try: scripts/demo, or yugum serve.",
            ) from error
        if response.status_code >= 400:
            raise _error(response)
        return response

    def model(self, model: type[M], method: str, path: str, /, **more: Unpack[Sending]) -> M:
        return model.model_validate(self.send(method, path, **more).json(), context=LENIENT)

    def many(self, model: type[M], method: str, path: str, /, **more: Unpack[Sending]) -> list[M]:
        rows = self.send(method, path, **more).json()
        return [model.model_validate(row, context=LENIENT) for row in rows]

    def models(self, model: type[M], path: str, /, **params: object) -> list[M]:
        return self.many(model, "GET", path, params=params)

    def page(self, model: type[M], path: str, /, **params: object) -> Page[M]:
        document = self.send("GET", path, params=params).json()
        return Page[model].model_validate(document, context=LENIENT)  # type: ignore[valid-type]

    def stream_bytes(self, path: str, params: Mapping[str, Any]) -> Iterator[bytes]:
        with self._streamed(path, params) as response:
            yield from response.iter_bytes()

    def stream_lines(self, path: str) -> Iterator[str]:
        with self._streamed(path, {}) as response:
            yield from (f"{line}\n" for line in response.iter_lines() if line)

    @contextmanager
    def _streamed(self, path: str, params: Mapping[str, Any]) -> Iterator[httpx.Response]:
        with self._client.stream("GET", path, params=params) as response:
            if response.status_code >= 400:
                response.read()
                raise _error(response)
            yield response


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


def days_said(begin: date | None, end: date | None) -> dict[str, str]:
    """Days of a period as parameters; those left out are not said."""
    said = {"begin": begin, "end": end}
    return {name: day.isoformat() for name, day in said.items() if day is not None}
