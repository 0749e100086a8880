"""What the big lists take on the command line: the orders and filters the service declares."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from pathlib import Path
from typing import TypeVar

import click

from yugum.core.file_columns import FileKind, names_columns
from yugum.core.lists import Order
from yugum.core.sheets import read_sheet
from yugum.errors import InvalidInput


def filters(said: Sequence[str], option: str) -> dict[str, str]:
    """``state=left`` as a filter and its value; ``option`` is what was typed.

    Raises:
        InvalidInput: it has no name or no equals sign, or is said twice.
    """
    found = {}
    for one in said:
        name, equals, value = one.partition("=")
        if not equals or not name.strip():
            raise InvalidInput(
                f"{one} is no filter.", place=option, remedy=f"Say NAME=VALUE: {option} state=left."
            )
        if name.strip() in found:
            raise InvalidInput(
                f"{name.strip()} is said twice.", place=option, remedy="Say it once."
            )
        found[name.strip()] = value.strip()
    return found


F = TypeVar("F", bound=Callable[..., object])


def sorted_by(kind: type[StrEnum], order: Order = Order.ASCENDING) -> Callable[[F], F]:
    """Options ``--sort`` and ``--order``; the first member of ``kind`` is what lists come in."""
    orders = [o.value for o in kind]

    def options(command: F) -> F:
        said = f"Sorted by; {orders[0]} unless told otherwise."
        command = click.option(
            "--order",
            type=click.Choice([o.value for o in Order]),
            default=order.value,
            help=f"Which way; {order.value} unless told otherwise.",
        )(command)
        choice = click.Choice(orders)
        return click.option("--sort", type=choice, default=orders[0], help=said)(command)

    return options


def choosing(command: F) -> F:
    """WHO, or filters that say who it is; the command gets ``who`` and ``matching``."""
    text = "NAME=VALUE: whoever fits these filters of the list of people now; repeatable."
    matching = click.option("--matching", multiple=True, callback=_filters, help=text)
    return click.argument("who", nargs=-1)(matching(command))


def _filters(_: click.Context, __: click.Parameter, said: tuple[str, ...]) -> dict[str, str] | None:
    return filters(said, "--matching") if said else None


def listed(file: Path) -> list[str]:
    """Logins of a list; a file with columns is another thing."""
    sheet = read_sheet(file.read_bytes())
    if names_columns(sheet.head, FileKind.LEAVERS):
        raise InvalidInput(
            "The file names columns, of which a list of logins has none.",
            place="file",
            remedy=f"Use: yugum people leavers {file}.",
        )
    return [name for row in (sheet.head, *(r.cells for r in sheet.rows)) for name in row if name]
