"""By which day of birth people are told apart: digests only."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Protocol


class BirthdayStore(Protocol):
    async def of(self, person_ids: Collection[str]) -> Mapping[str, str]:
        """The digests of those of whom one is kept, by id."""
        ...

    async def put(self, digests: Mapping[str, str]) -> None:
        """Keep digests by id; "" forgets one."""
        ...
