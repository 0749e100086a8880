"""What a web hook and a script have in common: questions, answers, and what they show of a person.

Both are asked ``look`` (which of your steps have been run for this person, and for which run),
``run`` and ``back``. What a look shows is believed, not what a run says of itself.
"""

from __future__ import annotations

import json
from abc import ABC, abstractmethod
from collections.abc import AsyncIterator, Mapping, Sequence
from datetime import datetime
from typing import Any

from yugum.core.accounts import AccountState, Observed, Unreadable
from yugum.core.actions import Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, Discovery

LONGEST_REPLY = 64_000


class Runner(ABC):
    """An application that runs steps; a subclass says how a question reaches it."""

    def __init__(self, name: str, timeout: float) -> None:
        self.call_timeout = timeout
        self._name = name

    @abstractmethod
    async def ask(self, what: str, key: str, data: Mapping[str, Any]) -> Mapping[str, Any]:
        """Put one question; ``key`` is the same for the same run, however often it is asked."""

    async def close(self) -> None:
        return None

    async def discover(self) -> Discovery:
        return Discovery(frozenset({Capability.RUN}))

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002 - nobody has an account here
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        pages: tuple[list[Observed], ...] = ()
        for page in pages:
            yield page

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:  # noqa: ARG002
        if not ref.account_id:
            return None
        reply = await self.ask("look", ref.account_id, {"key": ref.account_id, "login": ref.login})
        runs = reply.get("runs")
        if not isinstance(runs, dict) or not all(isinstance(v, str) for v in runs.values()):
            raise self.rejected("does not say which steps were run", reply)
        if not runs and not ref.external_id:
            return None
        return Observed(
            external_id=ref.account_id,
            login=ref.login,
            state=AccountState.SUSPENDED,  # nobody gets in anywhere by it
            correlation=ref.account_id,
            assets=(),
            settings=dict(runs),
        )

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",  # noqa: ARG002 - no secret is ever handed to a step
    ) -> Done:
        if action is not Action.RUN:
            raise CannotDo(f"{self._name} runs steps and has no accounts.")
        login = arguments.login or ref.login
        data = {
            "key": ref.account_id,
            "login": login,
            "step": item,
            "run": arguments.run,
            "verb": arguments.verb,
            "person": dict(arguments.person),
        }
        what = "back" if arguments.back else "run"
        reply = await self.ask(what, f"{ref.account_id}.{item}.{data['run']}.{what}", data)
        if reply.get("state") != "done":
            raise self.rejected(f"did not do {item}", reply)
        return Done(external_id=ref.account_id, login=login, note=str(reply.get("note", ""))[:500])

    def parsed(self, text: str) -> Mapping[str, Any]:
        """A reply as JSON, or an error that shows its beginning."""
        if len(text) > LONGEST_REPLY:
            raise ApplicationRejected(f"{self._name} answered more than 64,000 characters.")
        try:
            reply = json.loads(text)
        except (ValueError, RecursionError) as error:
            raise self.rejected("did not answer with JSON", text) from error
        if not isinstance(reply, dict):
            raise self.rejected("did not answer with a JSON object", text)
        return reply

    def rejected(self, what: str, reply: object) -> ApplicationRejected:
        shown = str(reply if isinstance(reply, str) else dict(reply))[:200]  # type: ignore[call-overload]
        return ApplicationRejected(
            f"{self._name} {what}: {shown}",
            remedy="Mend it, then retry the step; or leave it out with a reason.",
        )
