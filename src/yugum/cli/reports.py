"""Reports about leavers."""

from __future__ import annotations

from datetime import date

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.seats import day


@click.group("reports")
def reports() -> None:
    """Leavers of a period: when their access was to end, and when it did."""


@reports.command("leavers")
@click.argument("begin", callback=day, default="")
@click.argument("end", callback=day, default="")
@pass_context
def leavers(context: Context, begin: date | None, end: date | None) -> None:
    """Each account of whoever left from BEGIN to END (days, both inside); the last ninety days without them."""
    context.output().rows(
        context.client().reports.leavers(begin, end),
        {
            "person": "display_name",
            "login": "login",
            "application": "application_name",
            "docket": "number",
            "access ended": "ended_at",
            "known": "known_at",
            "shut": "cut_at",
            "seconds": "seconds",
            "how": "lateness",
        },
        more={"department": "department", "problem": "problem"},
        empty="Nobody left in that time.",
    )


@reports.command("cut-offs")
@click.argument("begin", callback=day, default="")
@click.argument("end", callback=day, default="")
@pass_context
def cut_offs(context: Context, begin: date | None, end: date | None) -> None:
    """How long cut-offs from BEGIN to END took (days, both inside); of the last ninety days without them."""
    found = context.client().reports.cut_offs(begin, end)
    lines = [f"{found.begin} to {found.end}"]
    lines += [f"  {c.lateness.replace('-', ' ')}: {c.count}" for c in found.counts]
    context.output().one(found, lines)
