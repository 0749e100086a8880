"""Operators, integrations, API tokens, and one's own sign-in."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yugum.cli.context import Context, pass_context
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.errors import NotFound
from yugum.wire import operators as wop

ROLES = click.Choice([role.value for role in OperatorRole])


SEARCH = click.option("--search", "q", default="", help="Part of a login or name.")
ROLE = click.option("--role", type=ROLES, default=None, help="Only of this role.")
WORKING = click.option("--active/--disabled", default=None, help="Only who can sign in, or cannot.")


@click.group()
def operators() -> None:
    """Who works with Yugum."""


@operators.command("list")
@SEARCH
@ROLE
@WORKING
@pass_context
def list_operators(context: Context, q: str, role: str | None, active: bool | None) -> None:
    """List operators."""
    context.output().rows(
        context.client().operators.all(q=q, role=role, active=active),
        {"login": "login", "name": "name", "role": "role", "active": "active", "id": "id"},
        empty="No operator that fits.",
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


@operators.command("change")
@click.argument("login")
@click.option("--role", type=ROLES, default=None)
@click.option(
    "--active/--disabled",
    default=None,
    help="Disabled, every session, token and link is gone for good.",
)
@pass_context
def change_operator(context: Context, login: str, role: str | None, active: bool | None) -> None:
    """Change an operator's role, disable one or enable one again."""
    if role is None and active is None:
        raise click.UsageError("Say what changes: --role, --disabled or --active.")
    rows = {o.login: o for o in context.client().operators.all()}
    if login not in rows:
        raise NotFound(f"There is no operator {login}.", remedy="See: yugum operators list.")
    change = wop.OperatorChange(role=OperatorRole(role) if role else None, active=active)
    changed = context.client().operators.change(rows[login].id, change)
    state = "active" if changed.active else "disabled"
    context.output().one(changed, [f"{changed.login} is {state}, role {changed.role}."])


@operators.command("link")
@click.argument("login")
@click.option(
    "--here",
    is_flag=True,
    help="Make it in the database itself: for whoever can read the key file, when nobody can sign in.",
)
@click.option(
    "--state-folder", type=click.Path(path_type=Path), default=None, help="With --here: the folder."
)
@pass_context
def operator_link(context: Context, login: str, here: bool, state_folder: Path | None) -> None:
    """A new one-time sign-in link for an operator; earlier ones end."""
    if here:
        from yugum.processes import link_here

        click.echo(link_here({"state": state_folder or context.state}, login))
        return
    if state_folder is not None:
        raise click.UsageError("--state-folder is for --here.")
    link = context.client().operators.link(login)
    context.output().one(link, [link.link])


@click.group()
def integrations() -> None:
    """Programs that work with Yugum by tokens of their own; an operator answers for each."""


@integrations.command("list")
@SEARCH
@ROLE
@WORKING
@click.option("--owner", default="", help="Only those this operator answers for, by login.")
@pass_context
def list_integrations(
    context: Context, q: str, role: str | None, active: bool | None, owner: str
) -> None:
    """List integrations, and who answers for each."""
    context.output().rows(
        context.client().integrations.all(q=q, role=role, active=active, owner=owner),
        {
            "login": "login",
            "name": "name",
            "role": "role",
            "owner": "owner",
            "active": "active",
        },
        empty="No integrations.",
    )


@integrations.command("add")
@click.argument("login")
@click.option("--name", required=True)
@click.option("--role", type=ROLES, required=True)
@pass_context
def add_integration(context: Context, login: str, name: str, role: str) -> None:
    """Add an integration you answer for; then make it a token: yugum tokens add --integration."""
    made = context.client().integrations.add(
        wop.NewIntegration(login=login, name=name, role=OperatorRole(role))
    )
    context.output().one(made, [f"{made.login} is an integration, role {made.role}."])


@integrations.command("pass-on")
@click.argument("login")
@click.argument("owner")
@pass_context
def pass_on(context: Context, login: str, owner: str) -> None:
    """Let another operator answer for an integration."""
    made = context.client().integrations.pass_on(login, owner)
    context.output().one(made, [f"{owner} answers for {login} now."])


@integrations.command("end")
@click.argument("login")
@pass_context
def end_integration(context: Context, login: str) -> None:
    """End an integration: its tokens are gone."""
    context.client().integrations.end(login)


def signed_in(context: Context, login: str) -> tuple[Client, str]:
    """A client with a session of its own, and the password that was asked for."""
    name = login or context.client().session().operator.login
    password = typed(f"Password of {name}")
    client = Client.signed_in(context.address(), name, password)
    click.get_current_context().call_on_close(client.close)
    return client, password


def typed(prompt: str, *, twice: bool = False) -> str:
    """A password as typed without an echo, or a line of what is piped in."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    again = "Once more" if twice else False
    return str(click.prompt(prompt, hide_input=True, confirmation_prompt=again, err=True))


LOGIN = click.option("--login", default="", help="Who you are; left out, whoever the token is of.")


@click.group()
def sessions() -> None:
    """Your own sign-in: the password, and sessions elsewhere."""


@sessions.command("password")
@LOGIN
@pass_context
def set_password(context: Context, login: str) -> None:
    """Set your password; the present one is asked for. Your other sessions end."""
    client, proof = signed_in(context, login)
    fresh = typed("New password", twice=True)
    client.sessions.set_password(fresh, proof)
    client.sessions.sign_out()
    click.echo("Your password is set; your other sessions have ended.", err=True)


@sessions.command("end-others")
@LOGIN
@pass_context
def end_others(context: Context, login: str) -> None:
    """End every session of yours, as after a lost laptop; tokens stay."""
    client, proof = signed_in(context, login)
    client.sessions.end_others(proof)
    client.sessions.sign_out()
    click.echo("Your other sessions have ended.", err=True)


@click.group()
def tokens() -> None:
    """API tokens of your own."""


@tokens.command("list")
@click.option("--of", default="", help="Only those of one login: your own, or an integration's.")
@pass_context
def list_tokens(context: Context, of: str) -> None:
    """List your tokens."""
    context.output().rows(
        context.client().tokens.all(of),
        {"id": "id", "name": "name", "of": "of", "scopes": "scopes", "expires": "expires"},
        empty="No tokens.",
    )


@tokens.command("add")
@click.argument("name")
@click.option("--scope", type=ROLES, default="operator")
@click.option("--days", type=click.IntRange(1, 3650), default=90)
@click.option("--integration", default="", help="Of an integration you answer for, by its login.")
@LOGIN
@pass_context
def add_token(
    context: Context, name: str, scope: str, days: int, integration: str, login: str
) -> None:
    """A new token, shown this once; your password is asked for, a token cannot make another."""
    client, proof = signed_in(context, login)
    made = client.tokens.add(
        wop.NewToken(
            name=name,
            scope=OperatorRole(scope),
            days=days,
            password=proof,
            integration=integration,
        )
    )
    client.sessions.sign_out()
    context.output().one(made, [made.token])


@tokens.command("revoke")
@click.argument("id")
@LOGIN
@pass_context
def revoke_token(context: Context, id: str, login: str) -> None:
    """Revoke a token of yours, or of an integration you answer for."""
    client, _ = signed_in(context, login)
    client.tokens.revoke(id)
    client.sessions.sign_out()
