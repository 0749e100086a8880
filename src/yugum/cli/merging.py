"""One person of two, or two of one: who is whose is settled, and double accounts are planned."""

from __future__ import annotations

import sys

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.core.accounts import AccountState
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput, NotFound
from yugum.wire import plans as wl

ALIKE = {
    "Name": "name",
    "Login": "user_name",
    "No.": "employee_number",
    "Department": "department",
    "Left": "has_left",
}
LIVE = (AccountState.ACTIVE, AccountState.SUSPENDED, AccountState.ARCHIVED)


@click.command("birthday")
@click.argument("who")
@click.argument("day", default="")
@click.option("--forget", is_flag=True, help="Keep it no longer.")
@pass_context
def birthday(context: Context, who: str, day: str, forget: bool) -> None:
    """Keep a digest of the DAY on which WHO was born (1990-05-31), by which people are told apart.

    Nobody can read the day from it. Says who was born on the same day and has one of the names.
    """
    if bool(day) == forget:
        raise InvalidInput("Say the day, or --forget.", place="DAY")
    found = context.client().people.birthday(who, day)
    if context.form == "table":
        click.echo(f"{who}: {'a digest of the day is kept' if day else 'forgotten'}.")
        if found:
            click.echo(f"Born on the same day. The same person? yugum people merge {who} OTHER")
    context.output().rows(found, ALIKE, empty="")


@click.command("merge")
@click.argument("who")
@click.argument("other")
@click.option("--keep-both", is_flag=True, help="Where both have an account, both stay.")
@confirming
@pass_context
def merge(context: Context, who: str, other: str, keep_both: bool, said: Said) -> None:
    """Make one person of two who are the same; OTHER goes, with everything theirs WHO's.

    Where both have an account in an application, WHO's takes the place of OTHER's: what is owned and held goes
    over, the other is cut off and closed. That is planned, shown and asked about.
    """
    client = context.client()
    keep, gone = client.people.show(who), client.people.show(other)
    if context.form == "table":
        for word, view in (("stays", keep), ("goes", gone)):
            accounts = ", ".join(f"{a.application_name} {a.login}" for a in view.accounts)
            click.echo(f"{word:6} {view.display_name} (no. {view.employee_number}): {accounts}")
    mine = {a.application_id for a in keep.accounts if a.state in LIVE}
    twice = [a for a in gone.accounts if a.state in LIVE and a.application_id in mine]
    if context.form == "table" and twice:
        named = ", ".join(f"{a.application_name} {a.login}" for a in twice)
        click.echo(f"twice  {named}" + ("; both stay" if keep_both else "; these end"))
    if not said.yes and not click.confirm("Make one of them?", err=True):
        click.echo("Nothing was changed.", err=True)
        return
    merged = client.people.merge(keep.id, gone.id, said.reason)
    context.output().one(merged, [f"One person: {merged.user_name}"])
    if twice and not keep_both:
        plan = wl.NewPlan(verb=Verb.RECHECK, who=[keep.id], accounts=[a.id for a in twice])
        sys.exit(carry_out(context, plan, said))


@click.command("split")
@click.argument("who")
@click.argument("other")
@click.option(
    "--account", "accounts", multiple=True, required=True, help="Its id; OTHER's from now on."
)
@confirming
@pass_context
def split(context: Context, who: str, other: str, accounts: tuple[str, ...], said: Said) -> None:
    """Make two people of one: the accounts named are OTHER's, and both are looked at again."""
    client = context.client()
    one, two = client.people.show(who), client.people.show(other)
    mine = {a.id: a for a in one.accounts}
    for account in accounts:
        if account not in mine:
            raise NotFound(
                f"{one.display_name} has no account {account}.", remedy="See: yugum people show."
            )
    if not said.yes and not click.confirm(f"Are these {two.display_name}'s?", err=True):
        click.echo("Nothing was changed.", err=True)
        return
    for account in accounts:
        client.accounts.link(account, two.id)
    sys.exit(carry_out(context, wl.NewPlan(verb=Verb.RECHECK, who=[one.id, two.id]), said))
