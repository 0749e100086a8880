"""Groups themselves: made, changed, retired and brought back."""

from __future__ import annotations

import sys
from collections.abc import Callable

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.client.groups import group_plan
from yugum.core.quick import FITS
from yugum.core.verbs import Quick, Verb
from yugum.errors import Ambiguous, NotFound
from yugum.wire import plans as wl

OUTSIDE = click.Choice(["yes", "no"])


@click.group("groups")
def groups() -> None:
    """Groups of applications, where these let them be made and changed."""


@groups.command("list")
@click.option("--application", default="")
@click.option("--owner", default="", help="Only those this person owns.")
@click.option("--search", "q", default="", help="Part of the name.")
@click.option("--retired", is_flag=True, help="Only those that can still come back.")
@pass_context
def list_groups(context: Context, application: str, owner: str, q: str, retired: bool) -> None:
    """List groups, whose they are and how many are in them."""
    columns = {
        "application": "application_name",
        "group": "name",
        "owner": "owner_name",
        "address": "address",
        "outside senders": "outside_senders",
        "in it": "members",
        "back until": "back_until",
    }
    rows = context.client().groups.all(application=application, owner=owner, q=q, retired=retired)
    context.output().rows(rows, columns, empty="No group that can be changed.")


def _said(function: Callable[..., None]) -> Callable[..., None]:
    for decorate in (
        click.option("--description", default=None),
        click.option("--outside-senders", type=OUTSIDE, default=None),
        click.option("--address", default=None, help="The address it is written to."),
        click.option("--owner", default=None, help="Login or number of whose it is."),
        click.argument("name"),
        click.argument("application"),
    ):
        function = decorate(function)
    return function


@groups.command("make")
@_said
@confirming
@pass_context
def make(
    context: Context, /, application: str, name: str, said: Said, **values: str | None
) -> None:
    """Make a group called NAME in APPLICATION."""
    given = {k: v for k, v in values.items() if v is not None}
    sys.exit(carry_out(context, group_plan(application, name, given, new=True), said))


@groups.command("change")
@_said
@click.option("--to", default=None, help="Another name for it.")
@confirming
@pass_context
def change(
    context: Context,
    /,
    application: str,
    name: str,
    to: str | None,
    said: Said,
    **values: str | None,
) -> None:
    """Change group NAME of APPLICATION; an empty value takes one away."""
    given = {k: v for k, v in {**values, "name": to}.items() if v is not None}
    sys.exit(carry_out(context, group_plan(application, name, given), said))


def _quick(what: Quick, command: str, words: str) -> None:
    @groups.command(command, help=words)
    @click.argument("application")
    @click.argument("name")
    @confirming
    @pass_context
    def act(context: Context, application: str, name: str, said: Said) -> None:
        rows = context.client().groups.all(application=application, q=name)
        states = FITS[what]
        found = sorted((r for r in rows if r.name == name), key=lambda r: r.state not in states)
        if not found:
            raise NotFound(f"{application} has no group {name}.", remedy="See: yugum groups list.")
        if len(found) > 1 and found[1].state in states:
            raise Ambiguous(
                f"{application} has two groups {name}.",
                remedy="Give one of them another name there; then read the application.",
            )
        plan = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[found[0].id], action=what)
        sys.exit(carry_out(context, plan, said))


_quick(
    Quick.DELETE,
    "retire",
    "Retire group NAME of APPLICATION: it gives nothing any more, and comes back within its window.",
)
_quick(Quick.RESTORE, "bring-back", "Bring a retired group NAME of APPLICATION back.")
_quick(Quick.PURGE, "purge", "Purge a retired group before its time: for good, and agreed to.")
