"""Approvals, mail, names and credentials."""

from __future__ import annotations

import sys

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import account_id
from yugum.cli.operators import typed as typed_in
from yugum.cli.output import moment
from yugum.cli.rules import show_comparison
from yugum.core.approvals import ApprovalState
from yugum.core.mails import MailKind
from yugum.core.passwords import CharacterClass, shortcomings
from yugum.wire import credentials as wcr


@click.group()
def approvals() -> None:
    """What waits for somebody's agreement."""


@approvals.command("list")
@click.option("--state", type=click.Choice([s.value for s in ApprovalState]), default="open")
@click.option("--docket", default="")
@pass_context
def list_approvals(context: Context, state: str, docket: str) -> None:
    """Approvals, the one that expires first at the top."""
    rows = context.client().approvals.all(state, docket)
    if context.form != "table":
        context.output().rows(
            rows, {k: k for k in ("id", "number", "verb", "subject_name", "name", "state")}
        )
        return
    for row in rows:
        asked = ", ".join(f"{a.name} ({a.why})" if a.why else a.name for a in row.asked)
        click.echo(f"{row.number}  {row.verb} {row.subject_name}  {row.name}: {asked}")
        click.echo(f"    until {moment(row.expires_at, context.zone())}  {row.id}")
        for answer in row.answers:
            word = "agrees" if answer.agrees else "refuses"
            click.echo(f"    {answer.name} {word} {answer.note}".rstrip())
    if not rows:
        click.echo("Nothing waits.")


@approvals.command("give")
@click.argument("approval")
@click.option("--note", default="")
@pass_context
def give(context: Context, approval: str, note: str) -> None:
    """Agree to APPROVAL (its id)."""
    row = context.client().approvals.answer(approval, agrees=True, note=note)
    context.output().one(row, [f"{row.name}: {row.state}"])


@approvals.command("refuse")
@click.argument("approval")
@click.option("--reason", required=True)
@pass_context
def refuse(context: Context, approval: str, reason: str) -> None:
    """Refuse APPROVAL; its docket is cancelled."""
    row = context.client().approvals.answer(approval, agrees=False, note=reason)
    context.output().one(row, [f"{row.name}: {row.state}"])


@approvals.command("delegate")
@click.argument("approval")
@click.argument("operator")
@pass_context
def delegate(context: Context, approval: str, operator: str) -> None:
    """Ask OPERATOR as well."""
    row = context.client().approvals.delegate(approval, operator)
    context.output().one(row, [f"{row.name}: {operator} is asked too"])


@click.command()
@click.option("--who", default="", help="About one person.")
@click.option("--kind", type=click.Choice([k.value for k in MailKind]), default=None)
@click.option("--unsent", is_flag=True, help="Only what is not sent yet.")
@click.option("--text", "whole", is_flag=True, help="With the text of each mail.")
@pass_context
def mails(context: Context, who: str, kind: str | None, unsent: bool, whole: bool) -> None:
    """What was told to whom, the newest first."""
    rows = context.client().mails.all(who, kind=kind or "", unsent=unsent)
    if context.form != "table" or not whole:
        context.output().rows(
            rows,
            {
                "made": "made_at",
                "kind": "kind",
                "to": "address",
                "subject": "subject",
                "sent": "sent_at",
                "problem": "problem",
            },
            empty="No mail.",
        )
        return
    for row in rows:
        click.secho(
            f"{moment(row.made_at, context.zone())}  {row.address}: {row.subject}", bold=True
        )
        click.echo(row.text)
        click.echo("")


@click.group()
def names() -> None:
    """Names for new people, and what somebody has compared with somebody else."""


@names.command("suggest")
@click.option("--given", default="")
@click.option("--family", default="")
@click.option("--department", default="")
@click.option("--site", default="")
@click.option("--number", default="")
@click.option("--mail-domain", default="")
@pass_context
def suggest(context: Context, /, **fields: str) -> None:
    """A login, an address and a display name by the rules, with everything that was tried."""
    found = context.client().names.suggest(**{k: v for k, v in fields.items() if v})
    lines = []
    for name in found.names:
        lines.append(f"{name.kind.replace('_', ' ')}: {name.name or 'nothing fits'}")
        lines += [f"    {t.name or t.pattern}: {t.problem}" for t in name.tried if t.problem]
    if found.not_asked:
        lines.append(f"! not asked, for they do not answer: {', '.join(found.not_asked)}")
    context.output().one(found, lines)


@names.command("explain")
@click.argument("who")
@pass_context
def explain(context: Context, who: str) -> None:
    """What WHO should have, has, and why."""
    found = context.client().names.explain(who)
    lines = [f"{found.name}, {found.state}: {', '.join(found.roles) or 'no role'}"]
    for line in found.lines:
        state = "held" if line.held else "MISSING"
        if not line.wanted:
            state = "extra"
        lines.append(f"  {state:8}{line.application_id}: {line.kind} {line.item}  ({line.why})")
    context.output().one(found, lines)


@names.command("compare")
@click.argument("left")
@click.argument("right")
@pass_context
def compare(context: Context, left: str, right: str) -> None:
    """What two people hold, line by line: by roles, by exception, or found there."""
    show_comparison(context, context.client().names.compare(left, right))


@click.group()
def credentials() -> None:
    """Initial credentials: who was told, handed over, issued again."""


@credentials.command("list")
@click.argument("who")
@pass_context
def list_credentials(context: Context, who: str) -> None:
    """The initial credentials of WHO; no secret is shown."""
    context.output().rows(
        context.client().credentials.of(who),
        {
            "application": "application_name",
            "login": "login",
            "set": "set_at",
            "told": "told_at",
            "to": "told_to",
            "opened": "opened_at",
            "expired": "expired",
            "account": "account_id",
        },
        empty="None.",
    )


@credentials.command("renew")
@click.argument("account")
@click.option("--reason", default="")
@click.option(
    "--typed",
    is_flag=True,
    help="One that you type; the owner is told that you did, not what it is.",
)
@pass_context
def renew(context: Context, account: str, reason: str, typed: bool) -> None:
    """A new initial credential for ACCOUNT (id, or WHO/APPLICATION), told of as the first one was."""
    client = context.client()
    id_ = account_id(client, account)
    if not typed:
        made = client.credentials.renew(id_, reason)
    else:
        made = client.credentials.type(
            id_, _fitting(client.credentials.rules_of(id_)), reason=reason
        )
    context.output().one(made, [f"{made.docket}: {made.login}"])


def _fitting(rules: wcr.CredentialRules) -> str:
    """A password as typed, twice, until it is as the application wants it."""
    while True:
        password = typed_in(f"Password of {rules.login} in {rules.application}", twice=True)
        needs = [n for n in CharacterClass if n in rules.needs]
        lacking = shortcomings(password, rules.length, needs, rules.login)
        if not lacking or not sys.stdin.isatty():
            return password  # the service looks again
        click.echo(f"It needs {', '.join(lacking)}.", err=True)


@credentials.command("hand-over")
@click.argument("account")
@click.option("--check", required=True, help="How you made sure who it is, for the record.")
@click.option("--to", default="", help="A mail address that gets the link, this once.")
@click.option("--yes", is_flag=True, help="Do not show the mail first.")
@pass_context
def hand_over(context: Context, account: str, check: str, to: str, yes: bool) -> None:
    """For the help desk: a one-time link to the credential of ACCOUNT (id, or WHO/APPLICATION)."""
    client = context.client()
    id_ = account_id(client, account)
    if to and not yes:
        mail = client.credentials.hand_over(id_, check, to=to, look=True).mail
        if mail is not None:
            click.echo(f"To {mail.address}: {mail.subject}\n\n{mail.text}\n", err=True)
        if not click.confirm("Send it?", err=True):
            click.echo("Nothing was sent.", err=True)
            return
    made = client.credentials.hand_over(id_, check, to=to)
    if made.mail is not None:
        context.output().one(made, [f"Sent to {made.mail.address}, for {made.hours:g} hours."])
        return
    context.output().one(made, [f"{made.link}  (for {made.hours:g} hours, works once)"])
