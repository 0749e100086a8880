"""Reports about seats."""

from __future__ import annotations

import sys
from datetime import date

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.cli.seats import day
from yugum.core.reclaim import ReclaimReason
from yugum.core.starting import Readiness


@click.command("held")
@click.argument("begin", callback=day)
@click.argument("end", callback=day)
@click.option("--pool", default="", help="Only of one: APPLICATION/LICENSE.")
@pass_context
def held(context: Context, begin: date, end: date, pool: str) -> None:
    """Who held a seat at any moment from BEGIN to END (days, both inside)."""
    client = context.client()
    rows = client.seats.held(begin, end, pool_id(client, pool) if pool else "")
    context.output().rows(
        rows,
        {
            "person": "person_name",
            "login": "login",
            "application": "application_name",
            "license": "license",
            "since": "since_at",
            "until": "until_at",
        },
        empty="Nobody.",
    )


@click.command("costs")
@click.argument("begin", default="")
@click.argument("end", default="")
@pass_context
def costs(context: Context, begin: str, end: str) -> None:
    """What seats cost from month BEGIN (2031-03) to END by department and license, at the prices of today.

    Without them the last twelve.
    """
    context.output().rows(
        context.client().seats.costs(begin, end),
        {
            "month": "month",
            "department": "department",
            "application": "application_name",
            "license": "license",
            "seats": "seats",
            "amount": "amount",
            "currency": "currency",
        },
        empty="Nobody held a seat.",
    )


@click.command("reclaimable")
@click.option("--because", type=click.Choice([r.value for r in ReclaimReason]), default=None)
@pass_context
def reclaimable(context: Context, because: str | None) -> None:
    """Seats of all pools that could come back, why, and what each costs a month."""
    context.output().rows(
        context.client().seats.all_reclaimable(because or ""),
        {
            "application": "application_name",
            "license": "license",
            "person": "person_name",
            "login": "login",
            "because": "reason",
            "last used": "last_used",
            "a month": "amount",
            "currency": "currency",
        },
        empty="Every seat is used by whom it is for.",
    )


@click.command("over")
@pass_context
def over(context: Context) -> None:
    """Pools of which more seats are held than were bought."""
    context.output().rows(
        context.client().seats.over(),
        {
            "application": "application_name",
            "license": "license",
            "bought": "bought",
            "held": "held",
            "over": "over",
            "waiting": "waiting",
        },
        empty="No more are held than were bought.",
    )


@click.command("starting")
@click.option("--days", type=click.IntRange(1, 60), default=10, help="Working days from today on.")
@pass_context
def starting(context: Context, days: int) -> None:
    """Whether everybody who begins within so many working days has their seats, or the order that brings them.

    Ends with 1 where somebody has neither.
    """
    found = context.client().seats.starting(days)
    context.output().rows(
        found.rows,
        {
            "begins": "starts",
            "person": "person_name",
            "department": "department",
            "application": "application_name",
            "license": "license",
            "seat": "readiness",
            "order": "order",
        },
        empty=f"Nobody begins until {found.until}.",
    )
    lacking = sum(r.readiness == Readiness.LACKING for r in found.rows)
    if context.form == "table" and found.rows:
        said = (
            f"{lacking} of {len(found.rows)} seats are lacking"
            if lacking
            else "All are there, or ordered"
        )
        click.echo(f"{said}, until {found.until}.")
    sys.exit(1 if lacking else 0)
