"""Calls of all connectors that speak HTTP (docs/decisions/0013)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from email.utils import parsedate_to_datetime
from ipaddress import ip_address

from pyreqwest.client import ClientBuilder
from pyreqwest.exceptions import PyreqwestError, RequestTimeoutError
from pyreqwest.http import HeaderMap
from pyreqwest.request import RequestBuilder

from yugum.errors import ApplicationRejected, ApplicationUnavailable

IDLE_SECONDS = 15
"""How long an unused connection is kept: servers close theirs after a minute or so, and a request
sent just then would be lost."""

SOON = 5.0
LONGEST = 3600.0
"""Seconds; an application that asks for more is asked again after an hour all the same."""


@dataclass(frozen=True, slots=True)
class Answer:
    """``headers`` are found whatever their case."""

    status: int
    headers: HeaderMap
    body: bytes


def loopback(host: str) -> bool:
    """Whether what is sent there stays on this machine, so that it may travel in clear."""
    try:
        return ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def wait_of(headers: Mapping[str, str]) -> float:
    """Seconds that a Retry-After asks for, as a number or a date (RFC 9110 10.2.3).

    What cannot be read counts as `SOON`; nobody waits longer than `LONGEST`.
    """
    told = headers.get("Retry-After", "").strip()
    if told.replace(".", "", 1).isdecimal():
        return min(float(told), LONGEST)
    try:
        moment = parsedate_to_datetime(told)
    except ValueError:
        return SOON
    if moment.tzinfo is None:  # its zone is "-0000"
        moment = moment.replace(tzinfo=UTC)
    return min(max((moment - datetime.now(UTC)).total_seconds(), 0.0), LONGEST)


class Web:
    """The calls to one application; ``timeout`` is of a whole call, in seconds.

    It keeps no cookies, follows no redirects (they could lead to a host nobody has allowed) and
    uses no proxy of the environment.
    """

    def __init__(
        self,
        name: str,
        timeout: float,
        *,
        connections: int = 16,
        headers: Mapping[str, str] | None = None,
    ) -> None:
        self._name = name
        self._timeout = timeout
        self._client = (
            ClientBuilder()
            .default_headers(dict(headers or {}))
            .max_connections(connections)
            .timeout(timedelta(seconds=timeout))
            .pool_idle_timeout(timedelta(seconds=IDLE_SECONDS))
            .follow_redirects(False)
            .no_proxy()
            .build()
        )

    async def close(self) -> None:
        await self._client.close()

    def request(
        self, method: str, url: str, headers: Mapping[str, str] | None = None
    ) -> RequestBuilder:
        """A request to be filled in and sent; ``url`` is quoted where it is made.

        Raises:
            ApplicationRejected: the address or what goes into a header cannot be sent.
        """
        try:
            return self._client.request(method, url).headers(dict(headers or {}))
        except ValueError:  # what it says would show the credentials
            raise ApplicationRejected(
                f"{self._name} cannot be called: its address or its credentials hold what cannot "
                "be sent.",
                remedy="Correct them: yugum apps connect.",
            ) from None

    async def send(self, request: RequestBuilder, longest: int | None = None) -> Answer:
        """The whole answer, or with ``longest`` at most so many bytes of it.

        Raises:
            ApplicationUnavailable: nobody answers, or not in time.
        """
        try:
            if longest is not None:
                return await self._beginning(request, longest)
            response = await request.build().send()
            body = (await response.bytes()).to_bytes()
            return Answer(response.status, response.headers, body)
        except RequestTimeoutError as error:
            raise ApplicationUnavailable.unanswered(self._name, self._timeout) from error
        except PyreqwestError as error:
            raise ApplicationUnavailable(
                f"{self._name} does not answer ({type(error).__name__})."
            ) from error

    async def _beginning(self, request: RequestBuilder, longest: int) -> Answer:
        body = bytearray()
        async with request.build_streamed() as response:
            reader = response.body_reader
            while len(body) < longest and (part := await reader.read(longest - len(body))):
                body += part.to_bytes()
            return Answer(response.status, response.headers, bytes(body))
