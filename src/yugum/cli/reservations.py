"""Seats set aside, and passed on from one to another."""

from __future__ import annotations

from collections.abc import Callable

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.cli.seats import day
from yugum.errors import NotFound
from yugum.wire import reservations as wr

COLUMNS = {
    "for": "person_name",
    "who": "who",
    "from": "from_name",
    "seats": "count",
    "taken": "taken",
    "state": "state",
    "begins": "begins",
    "ends": "ends",
    "reason": "reason",
}
MORE = {"id": "id", "author": "author", "made": "made_at", "from login": "from_login"}


def _options(command: Callable[..., None]) -> Callable[..., None]:
    for option in (
        click.option("--reason", required=True, help="Why."),
        click.option("--ends", callback=day, help="Last day; 90 days if left out."),
    ):
        command = option(command)
    return command


@click.command("reserve")
@click.argument("pool")
@click.option("--for", "person", default="", help="Somebody: login, number or name.")
@click.option("--who", default="", help="A filter, those of which may take one.")
@click.option("--count", type=click.IntRange(1), default=1, help="So many, for a filter.")
@click.option("--begins", callback=day, help="First day; today if left out.")
@click.option("--ahead", is_flag=True, help="Also before those who wait.")
@_options
@pass_context
def reserve(context: Context, /, pool: str, **said: object) -> None:
    """Set seats of a POOL aside; nobody else is given them."""
    client = context.client()
    new = wr.NewReservation.model_validate({k: v for k, v in said.items() if v is not None})
    context.output().one(row := client.seats.reserve(pool_id(client, pool), new), _told(row))


@click.command("pass")
@click.argument("pool")
@click.argument("holder")
@click.argument("to")
@_options
@pass_context
def pass_on(context: Context, /, pool: str, holder: str, to: str, **said: object) -> None:
    """Pass the seat of a POOL that HOLDER has on: once it is given back nobody but TO gets it."""
    client = context.client()
    named = {"holder": holder, "person": to}
    new = wr.NewReservation.model_validate(
        {**named, **{k: v for k, v in said.items() if v is not None}}
    )
    context.output().one(row := client.seats.reserve(pool_id(client, pool), new), _told(row))


def _told(row: wr.ReservationRow) -> list[str]:
    whom = row.person_name or row.who
    if row.from_name or row.from_login:
        whose = row.from_name or row.from_login
        return [f"The seat of {whose} goes to {whom}, until {row.ends}: {row.id}"]
    return [f"{row.count} set aside for {whom}, until {row.ends}: {row.id}"]


@click.command("reservations")
@click.argument("pool")
@pass_context
def reservations(context: Context, pool: str) -> None:
    """What is, was and will be set aside of a POOL."""
    client = context.client()
    rows = client.seats.reservations(pool_id(client, pool))
    context.output().rows(rows, COLUMNS, more=MORE, empty="Nothing is set aside.")


@click.command("withdraw")
@click.argument("pool")
@click.argument("reservation")
@pass_context
def withdraw(context: Context, pool: str, reservation: str) -> None:
    """Set seats of a POOL aside no longer: a RESERVATION by its id, or whom it is for by login."""
    client = context.client()
    key = pool_id(client, pool)
    rows = list(client.seats.reservations(key))
    found = next((r for r in rows if r.id == reservation), None)
    if found is None:
        person = client.people.show(reservation).id
        found = next((r for r in rows if r.person_id == person and r.count > r.taken), None)
    if found is None:
        raise NotFound(
            f"Nothing is set aside for {reservation}.",
            remedy=f"See: yugum seats reservations '{pool}'.",
        )
    client.seats.withdraw(key, found.id)
    click.echo(f"{found.person_name or found.who}: set aside no longer.")
