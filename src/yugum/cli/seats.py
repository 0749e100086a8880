"""Seats of licenses."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.wire import seats as wse


@click.group()
def seats() -> None:
    """License seats."""


@seats.command("list")
@pass_context
def list_seats(context: Context) -> None:
    """List pools."""
    context.output().rows(
        context.client().seats.all(),
        {
            "application": "application_name",
            "license": "license",
            "bought": "bought",
            "held": "held",
            "free": "free",
            "waiting": "waiting",
            "cents a month": "price_cents",
            "id": "id",
        },
        empty="No pools.",
    )


@seats.command("holders")
@click.argument("pool")
@pass_context
def holders(context: Context, pool: str) -> None:
    """Who holds or waits for a seat of a POOL (its id, or APPLICATION/LICENSE)."""
    client = context.client()
    context.output().rows(
        client.seats.holders(pool_id(client, pool)),
        {
            "person": "person_name",
            "login": "login",
            "state": "state",
            "place": "place",
            "account": "account_state",
            "since": "since_at",
        },
        empty="Nobody.",
    )


@seats.command("pool")
@click.argument("application")
@click.argument("license")
@click.argument("bought", type=int)
@click.option("--price-cents", type=int, default=0)
@pass_context
def pool(context: Context, application: str, license: str, bought: int, price_cents: int) -> None:
    """Add a pool, or say how many seats were bought."""
    row = context.client().seats.put(
        wse.PutPool(
            application_id=application, license=license, bought=bought, price_cents=price_cents
        )
    )
    context.output().one(row, [f"{row.license}: {row.bought} bought, {row.free} free"])
