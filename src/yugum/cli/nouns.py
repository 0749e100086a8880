"""Seats, audit, operators, tokens, the day sheet, clock, status."""

from __future__ import annotations

import sys
from typing import IO

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.output import moment
from yugum.wire import nouns as wn


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
    """Who holds or waits for a seat of a POOL (its id)."""
    context.output().rows(
        context.client().seats.holders(pool),
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
        wn.PutPool(
            application_id=application, license=license, bought=bought, price_cents=price_cents
        )
    )
    context.output().one(row, [f"{row.license}: {row.bought} bought, {row.free} free"])


@click.group()
def audit() -> None:
    """Who did what, when and why."""


@audit.command("list")
@click.option("--who", default="")
@click.option("--docket", default="")
@click.option("--action", default="")
@click.option("--limit", type=click.IntRange(1, 200), default=50)
@pass_context
def list_events(context: Context, who: str, docket: str, action: str, limit: int) -> None:
    """The newest events."""
    page = context.client().audit.page(who=who, docket=docket, action=action, limit=limit)
    context.output().rows(
        page.items,
        {
            "at": "at",
            "actor": "actor",
            "action": "action",
            "what": "payload",
            "place": "leaf_index",
        },
        empty="No events.",
    )


@audit.command("export")
@click.argument("file", type=click.File("w"), default="-")
@pass_context
def export(context: Context, file: IO[str]) -> None:
    """Write the sealed log to FILE, one event a line, the signed head last."""
    for line in context.client().audit.export():
        file.write(line)


@audit.command("verify")
@click.argument("file", type=click.File("r"))
@click.option("--key", default="", help="The verifying key you trust, in hex.")
def verify(file: IO[str], key: str) -> None:
    """Check an exported log without the service."""
    from yugum.processes import verify_export

    count = verify_export(file, key)
    click.echo(f"{count} events, nothing changed, added or left out.")


@click.group()
def operators() -> None:
    """Who works with Yugum."""


@operators.command("list")
@pass_context
def list_operators(context: Context) -> None:
    """List operators."""
    context.output().rows(
        context.client().operators.all(),
        {"login": "login", "name": "name", "role": "role", "active": "active", "id": "id"},
    )


@operators.command("add")
@click.argument("login")
@click.option("--name", required=True)
@click.option("--role", type=click.Choice(["viewer", "operator", "administrator"]), required=True)
@click.option("--person", default="", help="Who of the people it is.")
@pass_context
def add_operator(context: Context, login: str, name: str, role: str, person: str) -> None:
    """Add an operator; prints a one-time sign-in link."""
    body = wn.NewOperator(login=login, name=name, role=role, person=person)
    link = context.client().operators.add(body)
    context.output().one(link, [link.link])


@operators.command("link")
@click.argument("login")
@pass_context
def operator_link(context: Context, login: str) -> None:
    """A new one-time sign-in link for an operator."""
    link = context.client().operators.link(login)
    context.output().one(link, [link.link])


@click.group()
def tokens() -> None:
    """API tokens of your own."""


@tokens.command("list")
@pass_context
def list_tokens(context: Context) -> None:
    """List your tokens."""
    context.output().rows(
        context.client().tokens.all(),
        {"id": "id", "name": "name", "scopes": "scopes", "expires": "expires"},
        empty="No tokens.",
    )


@tokens.command("add")
@click.argument("name")
@click.option(
    "--scope", type=click.Choice(["viewer", "operator", "administrator"]), default="operator"
)
@click.option("--days", type=click.IntRange(1, 3650), default=90)
@pass_context
def add_token(context: Context, name: str, scope: str, days: int) -> None:
    """A new token, shown this once."""
    made = context.client().tokens.add(wn.NewToken(name=name, scope=scope, days=days))
    context.output().one(made, [made.token])


@tokens.command("revoke")
@click.argument("id")
@pass_context
def revoke_token(context: Context, id: str) -> None:
    """Revoke a token."""
    context.client().tokens.revoke(id)


@click.command()
@pass_context
def today(context: Context) -> None:
    """The day sheet: what is due, who is late, what is stuck."""
    sheet = context.client().day()
    zone = sheet.zone
    lines = [moment(sheet.now, zone)]
    for title, rows in (
        (
            "Past their time, still open",
            [f"{r.display_name}: {r.application_name} {r.problem}" for r in sheet.open_late],
        ),
        (
            "Stuck",
            [
                f"{r.number} {r.display_name}: {r.application_name}, {r.problem}"
                for r in sheet.stuck
            ],
        ),
        (
            "Lost for good this week",
            [
                f"{moment(r.recoverable_until, zone)}  {r.display_name or r.login}: {r.application_name}"
                for r in sheet.last_call
            ],
        ),
        (
            "Today",
            [
                f"{moment(r.due_at, zone)}  {r.verb} {r.display_name}, {r.title}: {r.note}"
                for r in sheet.dockets
            ],
        ),
        (
            "This week",
            [
                f"{moment(r.due_at, zone)}  {r.verb} {r.display_name}, {r.title}"
                for r in sheet.later
            ],
        ),
    ):
        if rows:
            lines += [title, *(f"  {row}" for row in rows)]
    context.output().one(sheet, lines)


@click.group()
def clock() -> None:
    """Business time; in a demo it is simulated and can be advanced."""


@clock.command("show")
@pass_context
def show_clock(context: Context) -> None:
    """What time it is for Yugum."""
    view = context.client().clock.show()
    kind = "simulated" if view.simulated else "real"
    context.output().one(view, [f"{moment(view.now, view.zone)} ({kind})"])


@clock.command("advance")
@click.argument("to")
@pass_context
def advance(context: Context, to: str) -> None:
    """In a demo: go to a moment (+12d, Friday, 2031-03-10), stopping wherever something is due."""
    zone = context.zone()
    stop = None
    for stop in context.client().clock.advance(to):
        if context.form == "table":
            due = f"  {stop.due} due" if stop.due else ""
            click.echo(f"{moment(stop.now, zone)}{due}")
    if stop is not None and context.form != "table":
        context.output().one(stop, [])


@click.command()
@pass_context
def status(context: Context) -> None:
    """Address and health of the service, its database and each application."""
    client = context.client()
    view = client.status(check=True)
    document = {"url": context.url, **view.model_dump(mode="json")}
    lines = [
        f"{view.organisation} at {context.url}, version {view.version}",
        f"  database answers in {view.database_ms:g} ms",
        *(
            f"  {a.name} at {a.address}: {a.problem or 'in order'}, {a.active} of {a.accounts} accounts active"
            for a in view.applications
        ),
    ]
    context.output().one(document, lines)
    if any(a.problem for a in view.applications):
        sys.exit(7)
