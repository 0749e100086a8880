"""What looks like a slip is asked about once; said to be right, it is taken."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import click

from yugum.core.entry import Doubted
from yugum.errors import Doubtful

T = TypeVar("T")


def until_right(call: Callable[[list[Doubted]], T], right: Sequence[Doubted], *, ask: bool) -> T:
    """What ``call`` gives with the fields that are right, asked about one after the other.

    Raises:
        Doubtful: nobody is asked (``--yes``), or the answer is no.
    """
    said = [*right]
    while True:
        try:
            return call(said)
        except Doubtful as doubt:
            if not ask:
                remedy = f"{doubt.remedy} Say it with: --right {doubt.place}."
                raise Doubtful(doubt.message, place=doubt.place, remedy=remedy) from doubt
            if not click.confirm(f"{doubt.message} Is it right?", err=True):
                raise
            said.append(Doubted(doubt.place))
