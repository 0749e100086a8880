"""What should be held in one application, and what was worked out once and holds."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from yugum.core.decisions import Origin

T = TypeVar("T")
REMEMBERED = 20_000
Why = tuple[Origin, str]


class Remembered(Generic[T]):
    """What was worked out for some keys; it holds as long as whatever owns it stays as it is."""

    __slots__ = ("_known",)

    def __init__(self) -> None:
        self._known: dict[Hashable, T] = {}

    def get(self, key: Hashable, work_out: Callable[[], T]) -> T:
        """What ``work_out`` gives, once for each key."""
        if key not in self._known:
            if len(self._known) >= REMEMBERED:
                self._known.clear()
            self._known[key] = work_out()
        return self._known[key]


@dataclass(frozen=True, slots=True)
class Wanted:
    """What should be held in one application, each with its origin and reason.

    ``settings`` carry the value first. ``kept_out`` tells what an exclusion keeps out, and why.
    """

    account: Why | None
    entitlements: Mapping[str, Why]
    seats: Mapping[str, Why]
    settings: Mapping[str, tuple[str, Origin, str]] = field(default_factory=dict)
    kept_out: tuple[str, ...] = ()


NOTHING_WANTED = Wanted(None, {}, {})
