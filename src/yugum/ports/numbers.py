"""Numbers that accounts get in applications which know them by number."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol


class NumberStore(Protocol):
    async def take(
        self, application_id: str, account_id: str, low: int, high: int, beyond: int
    ) -> int | None:
        """The number of an account, from ``low`` to ``high`` inclusive; None when none is left.

        The same account has the same number, unless that is not ``beyond`` a number that the
        application turned out to use already. One that was given is never given to another
        account, whatever became of the first.
        """
        ...

    async def seen(self, application_id: str, numbers: Iterable[int]) -> None:
        """The application uses these numbers itself: none of them is given, now or later."""
        ...
