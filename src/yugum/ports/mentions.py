"""Where applications name people without being owned by them, as last looked at."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from typing import Protocol

from yugum.core.mentions import Mention

Found = tuple[str, Mention]
"""A place that names somebody: the person's id, and the place."""


class MentionStore(Protocol):
    async def of(self, person_ids: Collection[str]) -> Mapping[str, Sequence[Mention]]:
        """The places that name some people, by the person's id, in the order of application and place."""
        ...

    async def in_confidence(self, person_ids: Collection[str]) -> frozenset[str]:
        """Those of some people whose leaving is prepared in confidence, and has not ended."""
        ...

    async def forwards(self, addresses: Collection[str]) -> Sequence[Mention]:
        """The accounts whose mail is forwarded to one of some addresses, as last seen."""
        ...

    async def named(
        self, application_id: str, words: Collection[str]
    ) -> Mapping[str, Collection[str]]:
        """Whom folded words name in an application, by word: by address, login, or login of an account there."""
        ...

    async def put(
        self,
        application_id: str,
        found: Sequence[Found],
        at: datetime,
        *,
        keys: Collection[str] | None = None,
        person_ids: Collection[str] | None = None,
    ) -> None:
        """What was found takes the place of what was known of some ``keys`` or ``person_ids``.

        Since when a place names somebody stays.
        """
        ...

    async def keep_only(self, application_id: str, keys: Collection[str]) -> None:
        """Forget the places of an application that are none of these."""
        ...
