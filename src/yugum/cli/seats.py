"""Seats of licenses: pools, what is bought for them, who holds one."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from decimal import Decimal, InvalidOperation
from pathlib import Path

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.money import amount, amounts
from yugum.cli.named import pool_id
from yugum.cli.plans import Said, confirmed
from yugum.core.reclaim import ReclaimReason
from yugum.core.seats import PricePeriod, together
from yugum.errors import InvalidInput
from yugum.wire import forecasts as wf
from yugum.wire import seats as wse

RECLAIM = {
    "person": "person_name",
    "login": "login",
    "because": "reason",
    "since": "since_at",
    "last used": "last_used",
    "a month": "cost",
}
below_option = click.option("--below", is_flag=True, help="Fewer than are held are meant.")


def _amount(_: click.Context, __: click.Parameter, said: str | None) -> Decimal | None:
    """An amount of money: 4.50."""
    try:
        found = Decimal(said) if said is not None else None
    except InvalidOperation as error:
        raise click.BadParameter(f"'{said}' is no amount; write 4.50.") from error
    if found is not None and not (found.is_finite() and found >= 0):
        raise click.BadParameter(f"'{said}' is no price.")
    return found


def day(_: click.Context, __: click.Parameter, said: str | None) -> date | None:
    """A day: 2031-03-07."""
    try:
        return date.fromisoformat(said) if said else None
    except ValueError as error:
        raise click.BadParameter(f"'{said}' is no day; write 2031-03-07.") from error


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
            "set aside": "reserved",
            "free": "free",
            "over": "over",
            "waiting": "waiting",
            "price": "price",
            "currency": "currency",
            "a": "period",
        },
        more={
            "id": "id",
            "unlimited": "unlimited",
            "reported": "reported",
            "notice days": "notice_days",
        },
        empty="No pools.",
    )


@seats.command("cost")
@pass_context
def cost(context: Context) -> None:
    """What seats cost a month, by department and license; amounts of two currencies stay apart."""
    found = context.client().seats.cost()
    columns = {
        "department": "department",
        "application": "application_name",
        "license": "license",
        "seats": "seats",
        "a month": "cost",
    }
    context.output().rows(found, columns, empty="Nobody holds a seat.")
    if context.form == "table" and (whole := amounts(together(f.cost for f in found))):
        click.echo(f"{whole} a month.")


@seats.command("show")
@click.argument("pool")
@pass_context
def show(context: Context, pool: str) -> None:
    """What was bought for a POOL (APPLICATION/LICENSE, or its id), and for which terms."""
    client = context.client()
    context.output().one(view := client.seats.show(pool_id(client, pool)), told(view))


def told(view: wse.PoolView) -> list[str]:
    """A pool in lines."""
    has = "no limit" if view.unlimited else f"{view.bought} bought, {view.free} free"
    lines = [f"{view.application_name}, {view.license}: {has}, {view.held} held"]
    if view.over:
        lines.append(f"  {view.over} hold a seat that was not bought")
    if view.reserved:
        lines.append(f"  {view.reserved} set aside")
    if view.waiting:
        lines.append(f"  {view.waiting} wait in line")
    price = "no price said"
    if view.price is not None:
        price = f"{amount(view.price, view.currency)} a {view.period} and seat"
    notice = f", notice {view.notice_days} days before a term ends" if view.notice_days else ""
    lines.append(f"  {price}{notice}")
    if view.differs:
        lines.append(f"  the application says {view.reported}")
    lines += [f"  {_term(p)}" for p in view.purchases]
    return lines


def _term(bought: wse.PurchaseRow) -> str:
    begins = f" from {bought.begins}" if bought.begins else ""
    ends = f" to {bought.ends}" if bought.ends else ", no end"
    reference = f" ({bought.reference})" if bought.reference else ""
    return f"{bought.count} seats{begins}{ends}{reference}  {bought.id}"


def _text(_: click.Context, __: click.Parameter, said: Path | None) -> str:
    """The text of a file."""
    try:
        return said.read_text(encoding="utf-8-sig") if said else ""
    except UnicodeDecodeError as error:
        raise click.BadParameter(f"{said} is not UTF-8.") from error


a_file = click.Path(path_type=Path, exists=True, dir_okay=False)


@seats.command("forecast")
@click.argument("pool")
@click.option("--if-bought", multiple=True, help="5@2031-04-01: what if so many more come then.")
@click.option("--if-joining", multiple=True, help="3@2031-04-15: what if so many begin then.")
@click.option(
    "--if-joiners", type=a_file, callback=_text, help="A CSV file: what if these people begin."
)
@click.option(
    "--if-rules", type=a_file, callback=_text, help="A rules file: what if it is in force tomorrow."
)
@pass_context
def forecast(
    context: Context,
    pool: str,
    if_bought: tuple[str, ...],
    if_joining: tuple[str, ...],
    if_joiners: str,
    if_rules: str,
) -> None:
    """Seats of a POOL taken and bought for 13 weeks and then 24 months, by what is dated."""
    client = context.client()
    number = pool_id(client, pool)
    if if_bought or if_joining or if_joiners or if_rules:
        what_if = wf.WhatIf(
            bought=list(if_bought), joining=list(if_joining), joiners=if_joiners, rules=if_rules
        )
        found = client.seats.what_if(number, what_if)
    else:
        found = client.seats.forecast(number)
    if context.form == "table":
        short = "It does not run short."
        if found.short_on:
            short = f"It runs short on {found.short_on:%a %-d %b %Y}; at most {found.lacking} are lacking."
        click.echo(short)
        if found.before:
            then = (
                f"run short on {found.before.short_on:%a %-d %b %Y}"
                if found.before.short_on
                else "not run short"
            )
            click.echo(f"On {found.before.made_on:%a %-d %b %Y} it was to {then}.")
        for one in found.renewals:
            lacking = f", {one.lacking} lacking after it" if one.lacking else ""
            click.echo(
                f"{one.purchase.count} seats end on {one.ends:%a %-d %b %Y}: decide by "
                f"{one.decide_by:%a %-d %b %Y}{lacking}."
            )
        for order in found.orders:
            when = f"expected on {order.expected:%a %-d %b %Y}" if order.expected else order.state
            late = ", overdue: not counted" if order.overdue else ""
            click.echo(f"{order.name}: {order.left} {when}{late}.")
        for text in found.assumes:
            click.echo(text)
    columns = {
        n: n
        for n in ("begins", "ends", "bought", "taken", "lacking", "joining", "leaving", "moving")
    }
    context.output().rows(found.periods, columns)


@seats.command("holders")
@click.argument("pool")
@pass_context
def holders(context: Context, pool: str) -> None:
    """Who waits for a seat of a POOL (its id, or APPLICATION/LICENSE), the first served first, and who holds one."""
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
@click.argument("bought", type=click.IntRange(0), required=False)
@click.option("--unlimited/--limited", default=None, help="As many as one likes.")
@click.option("--price", callback=_amount, help="For one seat: 4.50.")
@click.option("--currency", help="Its code (ISO 4217).")
@click.option(
    "--period", type=click.Choice([p.value for p in PricePeriod]), help="What is paid for."
)
@click.option("--notice-days", type=click.IntRange(0), help="So long before a term ends.")
@below_option
@pass_context
def pool(context: Context, /, application: str, license: str, **said: object) -> None:
    """Add a pool, or change what is said of it; what is left out stays.

    BOUGHT are seats without an end; those for a term are bought with: yugum seats buy.
    """
    named = {"application_id": application, "license": license}
    body = wse.PutPool.model_validate({**named, **{k: v for k, v in said.items() if v is not None}})
    context.output().one(view := context.client().seats.put(body), told(view))


@seats.command("reclaim")
@click.argument("pool")
@click.argument("who", nargs=-1)
@click.option("--because", type=click.Choice([r.value for r in ReclaimReason]), help="Only those.")
@click.option("--ends", default="", help="They may have one again from then on.")
@click.option("--take", is_flag=True, help="Take them back: needs --reason.")
@confirming
@pass_context
def reclaim(
    context: Context,
    /,
    pool: str,
    who: tuple[str, ...],
    because: str | None,
    ends: str,
    take: bool,
    said: Said,
) -> None:
    """Seats of a POOL that could come back, and what they cost; with --take they do, those of WHO or all shown.

    Whoever is taken one from is not to have one until the exception ends (yugum people end-decision).
    """
    client = context.client()
    found = list(client.seats.reclaimable(pool_id(client, pool), because or ""))
    if who:
        ids = {client.people.show(name).id: name for name in who}
        if none := [n for i, n in ids.items() if i not in {f.person_id for f in found}]:
            raise InvalidInput(f"Nothing says that {none[0]}'s seat could come back.", place="WHO")
        found = [f for f in found if f.person_id in ids]
    if context.form == "table" or not take:
        context.output().rows(found, RECLAIM, empty="No seat could come back.")
        if context.form == "table" and (cost := amounts(together(f.cost for f in found))):
            click.echo(f"{cost} a month.")
    people = [f.person_id for f in found if f.person_id]
    if not take or not people:
        return
    if not said.yes and not click.confirm(f"Take {len(people)} back?", err=True):
        click.echo("Nothing was changed.", err=True)
        return
    batch = client.seats.reclaim(pool_id(client, pool), people, said.reason, ends)
    sys.exit(confirmed(context, batch, replace(said, yes=True)))


@seats.command("remove")
@click.argument("pool")
@pass_context
def remove(context: Context, pool: str) -> None:
    """Remove a POOL of which nobody holds a seat or waits for one."""
    client = context.client()
    client.seats.remove(pool_id(client, pool))
    click.echo(f"{pool} is removed.")


def _term_options(command: Callable[..., None]) -> Callable[..., None]:
    for option in (
        below_option,
        click.option("--reference", help="Of the order."),
        click.option("--ends", callback=day, help="Last day of the term; none if it does not end."),
        click.option("--begins", callback=day, help="First day of the term."),
    ):
        command = option(command)
    return command


@seats.command("buy")
@click.argument("pool")
@click.argument("count", type=click.IntRange(1))
@_term_options
@pass_context
def buy(context: Context, /, pool: str, count: int, **said: object) -> None:
    """COUNT seats were bought for a POOL; whoever waits is served when their term begins."""
    client = context.client()
    bought = wse.PutPurchase.model_validate(
        {"count": count, **{k: v for k, v in said.items() if v is not None}}
    )
    context.output().one(view := client.seats.buy(pool_id(client, pool), bought), told(view))


@seats.command("change")
@click.argument("pool")
@click.argument("purchase")
@click.argument("count", type=click.IntRange(1))
@click.option("--no-end", is_flag=True, help="The term does not end.")
@_term_options
@pass_context
def change(
    context: Context, /, pool: str, purchase: str, count: int, no_end: bool, **said: object
) -> None:
    """Correct a PURCHASE of a POOL (see: yugum seats show), or let its term end on another day.

    What is left out stays.
    """
    client = context.client()
    pool_key = pool_id(client, pool)
    known = next((p for p in client.seats.show(pool_key).purchases if p.id == purchase), None)
    before = known.model_dump(include=set(said)) if known else {}
    kept = before | {k: v for k, v in said.items() if v is not None}
    if no_end:
        kept["ends"] = None
    bought = wse.PutPurchase.model_validate({"count": count, **kept})
    view = client.seats.change(pool_key, purchase, bought)
    context.output().one(view, told(view))


@seats.command("unbuy")
@click.argument("pool")
@click.argument("purchase")
@below_option
@pass_context
def unbuy(context: Context, pool: str, purchase: str, below: bool) -> None:
    """A PURCHASE of a POOL was entered by mistake: it goes."""
    client = context.client()
    view = client.seats.unbuy(pool_id(client, pool), purchase, below=below)
    context.output().one(view, told(view))
