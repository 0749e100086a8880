"""Operators and API tokens."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.core.operators import OperatorRole
from yugum.wire import operators as wop

ROLES = click.Choice([role.value for role in OperatorRole])


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
@click.option("--role", type=ROLES, required=True)
@click.option("--person", default="", help="Who of the people it is.")
@pass_context
def add_operator(context: Context, login: str, name: str, role: str, person: str) -> None:
    """Add an operator; prints a one-time sign-in link."""
    body = wop.NewOperator(login=login, name=name, role=OperatorRole(role), person=person)
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
@click.option("--scope", type=ROLES, default="operator")
@click.option("--days", type=click.IntRange(1, 3650), default=90)
@pass_context
def add_token(context: Context, name: str, scope: str, days: int) -> None:
    """A new token, shown this once."""
    made = context.client().tokens.add(
        wop.NewToken(name=name, scope=OperatorRole(scope), days=days)
    )
    context.output().one(made, [made.token])


@tokens.command("revoke")
@click.argument("id")
@pass_context
def revoke_token(context: Context, id: str) -> None:
    """Revoke a token."""
    context.client().tokens.revoke(id)
