"""People and accounts."""

from __future__ import annotations

import shlex
from collections.abc import Mapping, Sequence

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.lists import sorted_by
from yugum.cli.named import account_id
from yugum.cli.output import moment
from yugum.cli.standing import told
from yugum.core.accounts import AccountKind, AccountState
from yugum.core.applications import Duty
from yugum.core.invitations import DOES, ToDo
from yugum.core.lists import AccountSort, PersonSort
from yugum.core.people import PersonState
from yugum.core.wording import plural
from yugum.wire import people as wp
from yugum.wire.common import Seen


@click.group()
def people() -> None:
    """Who is who, and what they hold."""


@people.command("list")
@click.option("--search", default="", help="Any part of a name, login or number.")
@click.option("--filter", "filter_", default="", help='For example: department eq "Deck".')
@click.option("--state", type=click.Choice([s.value for s in PersonState]), default=None)
@click.option("--department", default="", help="The whole name, in any case.")
@click.option("--site", default="", help="The whole name, in any case.")
@click.option("--kind", "user_type", default="", help="Of which kind of employment.")
@click.option("--manager", default="", help="Who reports to them.")
@sorted_by(PersonSort)
@pass_context
def list_people(context: Context, /, search: str, filter_: str, **said: str | None) -> None:
    """List people. Any --filter that takes longer than 2 s ends; the other options have an index."""
    rows = context.client().people.all(q=search, filter=filter_, **said)
    context.output().rows(
        rows,
        {
            "name": "display_name",
            "login": "user_name",
            "number": "employee_number",
            "department": "department",
            "title": "title",
            "site": "site",
            "state": "state",
        },
        more={
            "kind": "user_type",
            "manager": "manager_name",
            "begins": "starts",
            "leaves": "access_ends",
            "term ends": "contract_ends",
            "open accounts": "open_accounts",
            "id": "id",
        },
        empty="Nobody fits.",
    )


@people.command("show")
@click.argument("who")
@pass_context
def show_person(context: Context, who: str) -> None:
    """One person over all applications."""
    view = context.client().people.show(who)
    context.output().one(view, _person_lines(view, context.zone()))


def told_duties(duties: Sequence[Seen[Duty]]) -> str:
    return ", ".join(DOES[Duty(d)] if d in set(Duty) else d for d in duties)


def _person_lines(view: wp.PersonView, zone: str) -> list[str]:
    manager = view.manager.name if view.manager else "none"
    lines = [
        f"{view.display_name}  no. {view.employee_number}  {view.state}",
        f"  {view.title}, {view.department}, {view.site}; manager {manager}",
    ]
    if view.access_ends:
        lines.append(f"  access ends {moment(view.access_ends, view.time_zone)}")
    for account in view.accounts:
        seen = moment(account.seen_at, zone)
        lines.append(f"{account.application_name}: {account.login} {account.state}, seen {seen}")
        if account.invited_at:
            lines.append(f"  invited, not accepted since {moment(account.invited_at, zone)}")
        if account.duties:
            lines.append(f"  to do at the first sign-in: {told_duties(account.duties)}")
        if account.recoverable_until:
            lines.append(f"  back until {moment(account.recoverable_until, zone)}")
        lines += [f"  {h.kind} {h.item}  because {h.because}" for h in account.holdings]
        if account.owned:
            owned = ", ".join(f"{n} {kind}" for kind, n in sorted(account.owned.items()))
            lines.append(f"  owns {owned}")
    for coming in view.coming:
        lines.append(f"{coming.application_name}: to come")
    if view.standing:
        lines.append("Not as it should be")
        lines += [
            f"  {r.application_name} {told(r)}, since {moment(r.since, zone)}"
            for r in view.standing
        ]
    if view.next:
        lines.append("What happens next")
        for s in view.next:
            what = " ".join(filter(None, [s.text, s.docket]))
            why = f"  ({s.because})" if s.because else ""
            lines.append(f"  {moment(s.at, zone)}  {what}{why}")
    if view.dockets:
        lines.append("Dockets")
        lines += [
            f"  {d.number} {d.verb} {d.state} {d.steps_done}/{d.steps_total}" for d in view.dockets
        ]
    return lines


@people.command("joiners")
@click.option("--before", type=click.IntRange(0, 366), default=7, help="Days back from today.")
@click.option("--ahead", type=click.IntRange(0, 366), default=14, help="Days on from today.")
@click.option("--ready/--not-ready", default=None, help="Only who is, or is not.")
@pass_context
def joiners(context: Context, before: int, ahead: int, ready: bool | None) -> None:
    """Who begins these days, and what is still missing for each."""
    rows = list(context.client().people.joiners(before, ahead, ready=ready))
    if context.form == "json":
        context.output().rows(rows, {})
        return
    if context.form == "csv":
        columns = ("user_name", "display_name", "starts", "department", "ready")
        context.output().rows(rows, {c: c for c in columns})
        return
    for row in rows:
        click.echo(f"{row.starts:%a %-d %b %Y}  {row.display_name}, {row.title}, {row.department}")
        for line in row.lines:
            lacks = "; ".join(line.lacks) or "as it should be"
            credential = f"; credential {line.credential}" if line.credential else ""
            signed = "; has signed in" if line.signed_in else ""
            signed += f"; {line.tried}" if line.tried and line.tried not in line.lacks else ""
            state = line.state or "not made yet"
            signed += (
                f"; to do at the first sign-in: {told_duties(line.duties)}" if line.duties else ""
            )
            click.echo(f"    {line.application_name}: {state}, {lacks}{credential}{signed}")
    if ready is None:
        are = sum(row.ready for row in rows)
        click.echo(f"{are} of {len(rows)} are ready." if rows else "Nobody begins these days.")
    else:
        so = "ready" if ready else "not ready"
        click.echo(f"{plural(len(rows), 'person', 'people')} {so}.")


@people.command("would-get")
@click.option("--department", default="")
@click.option("--title", default="")
@click.option("--site", default="")
@click.option("--user-type", default="", help="Kind of employment.")
@pass_context
def would_get(context: Context, department: str, title: str, site: str, user_type: str) -> None:
    """What somebody like this would have, and why, before anything is stored."""
    rows = context.client().people.would_get(
        department=department, title=title, site=site, user_type=user_type
    )
    columns = {
        "application": "application_name",
        "kind": "kind",
        "what": "item",
        "because": "because",
        "note": "note",
    }
    context.output().rows(rows, columns, empty="Nothing: no role applies.")


@people.command("same-as")
@click.argument("who")
@click.argument("like")
@pass_context
def same_as(context: Context, who: str, like: str) -> None:
    """What it takes for WHO to be as LIKE: roles apart from exceptions; nothing is changed."""
    found = context.client().people.same_as(who, like)
    lines = [f"{found.like} has the roles {', '.join(found.roles) or 'none'}."]
    if found.changes:
        changes = [f"--{k.replace('_', '-')}={v}" for k, v in found.changes.items()]
        lines.append(f"For the same roles: {shlex.join(['yugum', 'mover', who, *changes])}")
    else:
        lines.append("The roles are the same already.")
    for exception in found.exceptions:
        said = exception.payload.model_dump(mode="json")
        payload = " ".join(f"{k}={v}" for k, v in said.items())
        lines.append(f"Exception, to be decided anew: {payload} ({exception.reason})")
    for thing in found.found:
        lines.append(f"Not proposed, nobody decided it: {thing.application_id} {thing.item}")
    context.output().one(found, lines)


@people.command("decline")
@click.argument("who")
@click.option("--reason", required=True, help="Why, for the record.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
def decline(context: Context, who: str, reason: str, yes: bool) -> None:
    """Take WHO out before they begin: no person and no account is left, the refusal is on record."""
    client = context.client()
    person = client.people.show(who)
    text = f"Take out {person.display_name} (no. {person.employee_number}), starts {person.starts}?"
    if not yes and not click.confirm(text, err=True):
        click.echo("Nothing was changed.", err=True)
        return
    gone = client.people.decline(person.id, reason)
    context.output().one(gone, [f"{gone.display_name} was declined: {gone.reason}"])


@people.command("declined")
@pass_context
def declined(context: Context) -> None:
    """Who was declined before they began, by whom and why."""
    context.output().rows(
        context.client().people.declined(),
        {
            "person": "display_name",
            "login": "user_name",
            "number": "employee_number",
            "by": "author",
            "at": "at",
            "why": "reason",
        },
        empty="Nobody was declined.",
    )


@click.group()
def accounts() -> None:
    """Accounts in applications."""


TO_DO_COLUMNS: Mapping[ToDo | None, Mapping[str, str]] = {
    ToDo.INVITATION: {"invited": "invited_at"},
    ToDo.DUTIES: {"to do": "duties"},
}


@accounts.command("list")
@click.option("--application", default="", help="In which application, by its id.")
@click.option("--state", type=click.Choice([s.value for s in AccountState]), default=None)
@click.option("--kind", type=click.Choice([k.value for k in AccountKind]), default=None)
@click.option(
    "--to-do",
    type=click.Choice([t.value for t in ToDo]),
    default=None,
    help="Whose owner has yet to accept an invitation, or has duties left.",
)
@click.option("--who", default="", help="Whose they are.")
@click.option("--login", "q", default="", help="What the login begins with.")
@sorted_by(AccountSort)
@pass_context
def list_accounts(context: Context, /, **said: str | None) -> None:
    """List accounts."""
    rows = context.client().accounts.all(**said)
    context.output().rows(
        rows,
        {
            "application": "application_name",
            "login": "login",
            "person": "person_name",
            "state": "state",
            **TO_DO_COLUMNS.get(ToDo(said["to_do"]) if said["to_do"] else None, {}),
            "entitlements": "entitlements",
            "seats": "seats",
            "back until": "recoverable_until",
            "id": "id",
        },
        more={
            "kind": "kind",
            "last used": "last_used",
            **{k: v for columns in TO_DO_COLUMNS.values() for k, v in columns.items()},
        },
        empty="No accounts.",
    )


@accounts.command("proposals")
@pass_context
def proposals(context: Context) -> None:
    """Links between accounts and people that are likely but not certain."""
    context.output().rows(
        context.client().accounts.proposals(),
        {
            "application": "application_name",
            "login": "login",
            "account": "account_name",
            "person": "person_name",
            "number": "employee_number",
            "by": "rule",
            "percent": "confidence",
            "id": "account_id",
        },
        empty="No link waits for anybody.",
    )


@accounts.command("link")
@click.argument("account")
@click.argument("who", default="")
@click.option("--kind", type=click.Choice([k.value for k in AccountKind]), default=None)
@pass_context
def link(context: Context, account: str, who: str, kind: str | None) -> None:
    """Say WHO is behind an ACCOUNT (its id, or WHO/APPLICATION); without WHO nobody is."""
    client = context.client()
    one = account_id(client, account)
    done = client.accounts.link(one, who, AccountKind(kind) if kind else None)
    context.output().one(done, [f"{account}: {who or 'nobody'}"])
