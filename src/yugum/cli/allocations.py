"""Seats given and taken by hand, or as a file says; and who has what, side by side."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.cli.plans import Said, confirmed
from yugum.core.requests import MOST_AT_ONCE
from yugum.core.sheets import read_sheet, rejected
from yugum.core.wording import plural
from yugum.wire import allocations as wa

ends_option = click.option("--ends", default="", help="Until then, for good if left out.")


def _carried_out(context: Context, turns: Sequence[wa.SeatTurn], ends: str, said: Said) -> int:
    """Plan and confirm in portions of as many people as one plan takes; the first that is not done ends it."""
    people = list(dict.fromkeys(t.person for t in turns))
    for begin in range(0, len(people), MOST_AT_ONCE):
        some = {*people[begin : begin + MOST_AT_ONCE]}
        portion = [t for t in turns if t.person in some]
        batch = context.client().allocations.plan(portion, said.reason, ends)
        if code := confirmed(context, batch, said):
            return code
    return 0


def _by_hand(
    context: Context, pool: str, who: Sequence[str], ends: str, said: Said, *, give: bool
) -> None:
    key = pool_id(context.client(), pool)
    turns = [wa.SeatTurn(person=w, pool_id=key, give=give) for w in who]
    sys.exit(_carried_out(context, turns, ends, said))


@click.command("give")
@click.argument("pool")
@click.argument("who", nargs=-1, required=True)
@ends_option
@confirming
@pass_context
def give(context: Context, /, pool: str, who: tuple[str, ...], ends: str, said: Said) -> None:
    """Give WHO a seat of a POOL (APPLICATION/LICENSE), whatever their roles say; needs --reason."""
    _by_hand(context, pool, who, ends, said, give=True)


@click.command("take")
@click.argument("pool")
@click.argument("who", nargs=-1, required=True)
@ends_option
@confirming
@pass_context
def take(context: Context, /, pool: str, who: tuple[str, ...], ends: str, said: Said) -> None:
    """Let WHO have no seat of a POOL, whatever their roles say; needs --reason."""
    _by_hand(context, pool, who, ends, said, give=False)


@click.command("file")
@click.argument("path", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@ends_option
@confirming
@pass_context
def from_file(context: Context, /, path: Path, ends: str, said: Said) -> None:
    """Give and take seats as a CSV file says: person, application, license, seat (give, take, leave).

    Every row is looked at before anything is planned; rows with something wrong are written to
    NAME-rejected.csv with what is wrong, and the others are one plan.
    """
    raw = path.read_bytes()
    found = context.client().allocations.check(raw)
    good = [r for r in found.rows if r.pool_id and r.give is not None]
    wrong = [r for r in found.rows if r.problem]
    for demand in found.demand:
        short = f", {demand.short} will wait" if demand.short else ""
        click.echo(
            f"{demand.pool.license}: {demand.asked} asked for, {demand.returned} come back, "
            f"{demand.pool.free} free{short}.",
            err=True,
        )
    if wrong:
        sheet = read_sheet(raw)
        cells = {row.line: row.cells for row in sheet.rows} | {**sheet.odd}
        back = path.with_name(f"{path.stem}-rejected.csv")
        back.write_bytes(
            rejected(sheet, ((r.line, cells[r.line], r.problem, r.remedy) for r in wrong))
        )
        click.echo(f"{plural(len(wrong), 'row')} not taken: see {back}.", err=True)
    if not good:
        click.echo("Nothing is to be done.", err=True)
        sys.exit(1 if wrong else 0)
    turns = [wa.SeatTurn(person=r.person_id, pool_id=r.pool_id, give=bool(r.give)) for r in good]
    sys.exit(_carried_out(context, turns, ends, said) or (1 if wrong else 0))


@click.command("matrix")
@click.option("--application", default="", help="Only its licenses.")
@click.option("--department", default="", help="Only people of it.")
@click.option("--filter", "filter_text", default="", help="Any other filter of people.")
@click.option("--limit", type=click.IntRange(1, 200), default=50, help="So many people.")
@pass_context
def matrix(
    context: Context, application: str, department: str, filter_text: str, limit: int
) -> None:
    """People by licenses: who has a seat of which, and why (+ a role, ! an exception, ? found there, n in line)."""
    people = {"department": department, "filter": filter_text}
    view = context.client().allocations.matrix(
        application, limit=limit, **{k: v for k, v in people.items() if v}
    )
    if context.form != "table":
        context.output().rows(
            view.items, {"person": "person_name", "login": "login", "seats": "cells"}
        )
        return
    if not view.items:
        click.echo("Nobody fits.")
    marks = {"role": "+", "decision": "!", "found": "?"}
    names = {p.id: p.license for p in view.pools}
    for row in view.items:
        seats = [
            f"{names[c.pool_id]} {c.place if c.state == 'waiting' else marks.get(c.origin, '?')}"
            for c in row.cells
        ]
        click.echo(f"{row.person_name} ({row.login}): {', '.join(seats) or 'no seat'}")
    if view.next:
        click.echo("There are more; narrow it with --department or --filter.", err=True)
