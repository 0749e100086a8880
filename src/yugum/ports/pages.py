"""Pages of lists."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class ListPage(Generic[T]):
    """Some rows of a list, the cursor of the next page (None at the end), and how many there are.

    ``total`` is told on the first page only, and only of lists that are counted; ``over`` says that there
    are more than that.
    """

    items: Sequence[T]
    next: str | None = None
    total: int | None = None
    over: bool = False
