"""Orders of more seats."""

from __future__ import annotations

from datetime import date

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.cli.seats import day
from yugum.core.wording import plural
from yugum.errors import InvalidInput
from yugum.wire import orders as wo

COLUMNS = {
    "order": "name",
    "application": "application_name",
    "license": "license",
    "seats": "count",
    "arrived": "arrived",
    "state": "state",
    "needed by": "needed_by",
    "expected": "expected",
    "overdue": "overdue",
    "reference": "reference",
}
MORE = {"id": "id", "asked by": "author", "reason": "reason", "decided by": "decided_by"}


@click.group()
def orders() -> None:
    """Orders of more seats: asked for, agreed to, expected, arrived."""


@orders.command("list")
@click.option("--pool", default="", help="Only those of a pool: APPLICATION/LICENSE.")
@click.option("--open", "only_open", is_flag=True, help="Only those that are not over.")
@pass_context
def list_orders(context: Context, pool: str, only_open: bool) -> None:
    """List orders, the latest first."""
    client = context.client()
    rows = client.orders.all(pool_id=pool_id(client, pool) if pool else "", only_open=only_open)
    context.output().rows(rows, COLUMNS, more=MORE, empty="No orders.")


@orders.command("ask")
@click.argument("pool")
@click.argument("count", type=click.IntRange(1), required=False)
@click.option("--reason", default="", help="Why; the forecast if left out.")
@click.option("--needed-by", callback=day, help="The day on which they have to be there.")
@click.option("--begins", callback=day, help="First day of the term.")
@click.option("--ends", callback=day, help="Last day of the term; none if it does not end.")
@pass_context
def ask(context: Context, /, pool: str, count: int | None, reason: str, **said: object) -> None:
    """Ask for COUNT more seats of a POOL; as many as the forecast says are lacking, and by when, if left out."""
    client = context.client()
    key = pool_id(client, pool)
    kept = {k: v for k, v in said.items() if v is not None}
    if count is None:
        found = client.seats.forecast(key)
        if not found.short_on:
            raise InvalidInput(
                "Nothing will be lacking.",
                place="COUNT",
                remedy="Say how many are to be asked for.",
            )
        count = found.lacking
        kept.setdefault("needed_by", found.short_on)
        reason = reason or f"It runs short on {found.short_on}; {count} are lacking"
    new = wo.NewOrder.model_validate({"pool_id": key, "count": count, "reason": reason, **kept})
    context.output().one(view := client.orders.ask(new), told(view))


@orders.command("show")
@click.argument("order")
@pass_context
def show(context: Context, order: str) -> None:
    """One ORDER (SO-0012), and whom of the line it serves."""
    context.output().one(view := context.client().orders.show(order), told(view))


def told(view: wo.OrderView) -> list[str]:
    """An order in lines."""
    state = view.state.value
    if view.state == "expected":
        state = f"expected on {view.expected:%a %-d %b %Y}{', overdue' if view.overdue else ''}"
    lines = [
        f"{view.name}: {plural(view.count, 'seat')} of {view.license}, {view.application_name}: {state}",
        f"  asked for by {view.author}: {view.reason}",
    ]
    if view.needed_by:
        lines.append(f"  needed by {view.needed_by:%a %-d %b %Y}")
    if view.decided_by:
        said = f": {view.answer}" if view.answer else ""
        what = "refused" if view.state == "refused" else "agreed to"
        lines.append(f"  {what} by {view.decided_by}{said}")
    if view.reference:
        lines.append(f"  reference {view.reference}")
    if view.arrived:
        counted = {True: ", counted", False: ", not counted by the application yet", None: ""}
        lines.append(f"  {view.arrived} arrived{counted[view.counted]}")
    lines += [f"  serves {s.person_name or s.login or 'somebody'}" for s in view.serves]
    return lines


@orders.command("request")
@click.argument("order")
@pass_context
def request(context: Context, order: str) -> None:
    """The request of an ORDER to whoever buys, as CSV."""
    click.echo(context.client().orders.request(order), nl=False)


@orders.command("agree")
@click.argument("order")
@click.option("--answer", default="", help="What is to be said with it.")
@pass_context
def agree(context: Context, order: str, answer: str) -> None:
    """Agree to an ORDER that somebody else asked for."""
    view = context.client().orders.decide(order, agreed=True, answer=answer)
    context.output().one(view, told(view))


@orders.command("refuse")
@click.argument("order")
@click.option("--reason", required=True, help="Why.")
@pass_context
def refuse(context: Context, order: str, reason: str) -> None:
    """Refuse an ORDER."""
    view = context.client().orders.decide(order, agreed=False, answer=reason)
    context.output().one(view, told(view))


@orders.command("expect")
@click.argument("order")
@click.argument("on", callback=day)
@click.option("--reference", default="", help="Of the supplier or purchasing.")
@pass_context
def expect(context: Context, order: str, on: date, reference: str) -> None:
    """An ORDER is promised for a day (ON)."""
    view = context.client().orders.expect(order, on, reference)
    context.output().one(view, told(view))


@orders.command("arrive")
@click.argument("order")
@click.argument("count", type=click.IntRange(1), required=False)
@click.option("--reference", default="", help="Of the supplier or purchasing.")
@pass_context
def arrive(context: Context, order: str, count: int | None, reference: str) -> None:
    """COUNT seats of an ORDER have arrived, all if left out: they are bought, and whoever waits is served."""
    view = context.client().orders.arrive(order, count, reference)
    context.output().one(view, told(view))


@orders.command("withdraw")
@click.argument("order")
@click.option("--reason", required=True, help="Why.")
@pass_context
def withdraw(context: Context, order: str, reason: str) -> None:
    """What of an ORDER has not arrived will not."""
    view = context.client().orders.withdraw(order, reason)
    context.output().one(view, told(view))
