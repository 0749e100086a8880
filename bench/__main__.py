"""``bash scripts/bench NAME [--size N] [--rounds R] [--output json]``."""

from __future__ import annotations

import json
import statistics
import sys
from typing import Any

import click

from bench.console import console
from bench.cutoff import cutoff
from bench.frames import frames
from bench.handover import handover
from bench.owing import owing
from bench.people_file import people_file
from bench.references import references
from bench.seats import seats, seats_killed
from bench.seats_matrix import seats_matrix
from bench.seats_plan import seats_plan
from bench.sweep import sweep
from bench.sync import sync
from bench.watching import watching

MEASURES = {
    "cutoff": lambda size, rounds: cutoff("cutoff", size or 200, rounds, latency_ms=0),
    "cutoff-attributes": lambda size, rounds: cutoff(
        "cutoff-attributes", size or 200, rounds, latency_ms=0, attributes=True
    ),
    "cutoff-20ms": lambda size, rounds: cutoff("cutoff-20ms", size or 200, rounds, latency_ms=20),
    "cutoff-wide": lambda size, rounds: cutoff(
        "cutoff-wide", size or 500, rounds, latency_ms=0, applications=8
    ),
    "cutoff-wide-20ms": lambda size, rounds: cutoff(
        "cutoff-wide-20ms", size or 500, rounds, latency_ms=20, applications=8
    ),
    "handover": lambda size, rounds: handover(size or 20_000, rounds),
    "handover-killed": lambda size, rounds: handover(size or 20_000, rounds, kills=2),
    "references": lambda size, rounds: references(size or 100_000, rounds),
    "sync": lambda size, rounds: sync("sync", size or 100_000, rounds, unchanged=False),
    "sync-unchanged": lambda size, rounds: sync(
        "sync-unchanged", size or 100_000, rounds, unchanged=True
    ),
    "sync-attributes": lambda size, rounds: sync(
        "sync-attributes", size or 100_000, rounds, unchanged=False, attributes=True
    ),
    "sync-unchanged-attributes": lambda size, rounds: sync(
        "sync-unchanged-attributes", size or 100_000, rounds, unchanged=True, attributes=True
    ),
    "owing-attributes": lambda size, rounds: owing(
        "owing-attributes", size or 100_000, rounds, mixed=False, attributes=True
    ),
    "owing": lambda size, rounds: owing("owing", size or 100_000, rounds, mixed=False),
    "owing-mixed": lambda size, rounds: owing("owing-mixed", size or 100_000, rounds, mixed=True),
    "console": lambda size, rounds: console(size or 100_000, rounds),
    "frames": lambda size, rounds: frames(size or 100_000, rounds),
    "people-file": lambda size, rounds: people_file(size or 20_000, rounds),
    "seats": lambda size, rounds: seats(size or 4000, rounds),
    "seats-killed": lambda size, rounds: seats_killed(size or 4000, rounds),
    "seats-matrix": lambda size, rounds: seats_matrix(size or 50_000, rounds),
    "seats-plan": lambda size, rounds: seats_plan(size or 20_000, rounds),
    "watching": lambda size, rounds: watching(size or 200, rounds),
    "sweep": lambda size, rounds: sweep("sweep", size or 100_000, rounds, change=False),
    "sweep-change": lambda size, rounds: sweep(
        "sweep-change", size or 100_000, rounds, change=True
    ),
}


@click.command()
@click.argument("name", type=click.Choice(sorted(MEASURES)))
@click.option("--size", type=int, default=0, help="How many; each measure has its own default.")
@click.option("--rounds", type=int, default=5)
@click.option("--output", "form", type=click.Choice(["table", "json"]), default="table")
def main(name: str, size: int, rounds: int, form: str) -> None:
    """Run one measurement and print its table and ratio."""
    result = MEASURES[name](size, rounds)
    middle = statistics.median(r["ratio"] for r in result["rounds"])
    ratio = round(result.get("ratio", middle), 3)
    result["ratio"] = ratio
    if form == "json":
        click.echo(json.dumps(result))
        return
    show(result)
    click.echo(f"{name}: ratio {ratio:g}")


def show(result: dict[str, Any]) -> None:
    """The settings, a row a round, the peak memory."""
    click.echo(", ".join(f"{k} {v}" for k, v in result["settings"].items()))
    columns = list(result["rounds"][0])
    wide = {c: max(14, *(len(str(row[c])) for row in result["rounds"])) for c in columns}
    click.echo("  ".join(f"{c:>{wide[c]}}" for c in columns))
    for row in result["rounds"]:
        click.echo("  ".join(f"{row[c]:>{wide[c]}}" for c in columns))
    click.echo(", ".join(f"{k} {v}" for k, v in result["memory"].items()))
    if beside := result.get("while read"):
        click.echo(", ".join(f"{k} {v}" for k, v in beside.items()))


if __name__ == "__main__":
    sys.exit(main())
