"""Replies kept by Idempotency-Key."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from yugum.core.documents import Json


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReply:
    """What the first request with a key was and got; ``status`` is None while it runs.

    ``reply`` is the body as JSON, None where it is not kept because it holds a secret.
    """

    fingerprint: str
    status: int | None
    reply: Json


class IdempotencyStore(Protocol):
    async def begin(
        self, operator_id: str, key: str, fingerprint: str, seconds: float
    ) -> KeptReply | None:
        """None when this request is the first with its key, else what the first got.

        A request holds its key for so many ``seconds``; one whose process died gives it up then, and the
        same request may be made again.
        """
        ...

    async def hold(self, operator_id: str, key: str, seconds: float) -> None:
        """A request that is still running holds its key for longer."""
        ...

    async def forget_old(self, hours: float) -> None:
        """Forget replies kept for longer."""
        ...

    async def end(self, operator_id: str, key: str, status: int, reply: Json) -> None:
        """Keep what a request got."""
        ...

    async def drop(self, operator_id: str, key: str) -> None:
        """Let a key that got no reply be used again."""
        ...
