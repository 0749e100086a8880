"""A web hook: signed questions by POST (Standard Webhooks 1.0), answered in JSON."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlsplit

from standardwebhooks import Webhook

from yugum.connectors.own.runs import LONGEST_REPLY, Runner
from yugum.connectors.web import Web, wait_of
from yugum.errors import ApplicationUnavailable, InvalidInput, RateLimited
from yugum.ports.connectors import ConnectorSpec


def connect_hook(spec: ConnectorSpec) -> HookRunner:
    """The entry point. ``spec.secret`` signs (``whsec_…``, base64).

    The option ``hosts`` is the allow-list of hosts it may be sent to, ``timeout`` its seconds.
    """
    unknown = set(spec.options) - {"hosts", "timeout"}
    if unknown:
        raise InvalidInput(
            f"A web hook has no option {min(unknown)}.", place="options", remedy="Use: hosts."
        )
    host = urlsplit(spec.url).hostname or ""
    allowed = spec.options.get("hosts", "").split()
    if host not in allowed:
        raise InvalidInput(
            f"{host or 'This address'} is not among the hosts this web hook may be sent to.",
            place="options.hosts",
            remedy=f"Add it if it is right: --option hosts='{' '.join([*allowed, host])}'.",
        )
    try:
        signer = Webhook(spec.secret)
    except Exception as error:
        raise InvalidInput(
            "The signing secret is not base64.", place="secret", remedy="Write whsec_ and base64."
        ) from error
    timeout = float(spec.options.get("timeout", spec.timeout))
    return HookRunner(spec.name, spec.url, signer, timeout)


class HookRunner(Runner):
    """Speaks to one web hook; redirects are not followed, they could lead past the allow-list."""

    def __init__(self, name: str, url: str, signer: Webhook, timeout: float) -> None:
        super().__init__(name, timeout)
        self._url = url
        self._signer = signer
        self._web = Web(name, timeout)

    async def close(self) -> None:
        await self._web.close()

    async def ask(self, what: str, key: str, data: Mapping[str, Any]) -> Mapping[str, Any]:
        now = datetime.now(UTC)
        body = json.dumps({"type": f"step.{what}", "timestamp": now.isoformat(), "data": data})
        headers = {
            "Content-Type": "application/json",
            "webhook-id": key,
            "webhook-timestamp": str(int(now.timestamp())),
            "webhook-signature": self._signer.sign(key, now, body),
        }
        request = self._web.request("POST", self._url, headers).body_text(body)
        answer = await self._web.send(request, longest=LONGEST_REPLY + 1)
        status, text = answer.status, answer.body.decode(errors="replace")
        if status == 429:
            seconds = wait_of(answer.headers)
            raise RateLimited(f"{self._name} asks to slow down.", retry_after=seconds)
        if status >= 500:
            raise ApplicationUnavailable(f"{self._name} answered {status}: {text[:200]}")
        if status >= 300:
            raise self.rejected(f"answered {status}", text)
        return self.parsed(text)
