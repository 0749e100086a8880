"""How far something that takes long has come, told from inside a connector to whoever carries it out."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Hear = Callable[[int], None]
_hearing: ContextVar[Hear | None] = ContextVar("hearing", default=None)


@contextmanager
def told_to(hear: Hear) -> Iterator[None]:
    """Whatever runs inside tells ``hear`` how many things are left to be done."""
    before = _hearing.set(hear)
    try:
        yield
    finally:
        _hearing.reset(before)


def tell(left: int) -> None:
    """So many things are left; nobody need listen."""
    if (hear := _hearing.get()) is not None:
        hear(left)
