"""The verbs: joiner, mover, leaver, returner (and absence)."""

from __future__ import annotations

import sys
from collections.abc import Mapping
from pathlib import Path

import click

from yugum.cli.confirming import confirming, leaving_out
from yugum.cli.context import Context, pass_context
from yugum.cli.doubts import until_right
from yugum.cli.fields import fields
from yugum.cli.lists import choosing, listed
from yugum.cli.plans import Said, SaidNo, carry_out
from yugum.core.entry import Doubted
from yugum.core.names import NameKind
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput, YugumError
from yugum.wire import people as wp
from yugum.wire import plans as wl


@click.command()
@click.argument("who")
@click.option("--given", default="", help="Given name; with --family a new person is made.")
@click.option("--family", default="")
@click.option("--number", default="", help="Employee number.")
@click.option(
    "--starts",
    default="",
    help="First day: 2031-03-10, or a weekday; of somebody known, a new one.",
)
@click.option("--ends", default="", help="Last day of a fixed term.")
@click.option("--time-zone", default="")
@click.option("--mail", default="", help="An outside mail address.")
@click.option("--work-mail", default="", help="The address at work; the rules suggest one with ?.")
@click.option("--birthday", default="", help="1990-05-31; kept as a digest only.")
@click.option(
    "--another", is_flag=True, help="Another person than who has the number, address or names."
)
@click.option("--again", is_flag=True, help="Though they were declined before.")
@fields
@confirming
@pass_context
def joiner(
    context: Context,
    /,
    who: str,
    given: str,
    family: str,
    number: str,
    starts: str,
    ends: str,
    time_zone: str,
    mail: str,
    work_mail: str,
    birthday: str,
    another: bool,
    again: bool,
    own: dict[str, str],
    right: tuple[Doubted, ...],
    said: Said,
    **more: str | None,
) -> None:
    """Give WHO, from the first day on, what the roles say.

    WHO is somebody known, or with --given and --family the login of a new person (? for the one
    that the rules suggest). Answering no to a new person's plan leaves no person behind.
    """
    at, new = "", bool(given or family)
    fields = {k: v or "" for k, v in more.items()} | {"time_zone": time_zone}
    fields |= {"given_name": given, "family_name": family, "employee_number": number}
    fields |= {"starts": starts, "contract_ends": ends, "birthday": birthday}
    if new:
        if "?" in (who, work_mail):
            login, address = _suggested(context, given, family, number, more)
            who = login if who == "?" else who
            work_mail = work_mail.replace("?", "") or address
        addresses = {"mail": work_mail, "outside_mail": mail}
        person = wp.NewPerson(
            user_name=who, own=own, another=another, again=again, **fields, **addresses
        )
        make, copy = context.client().people.create, person.model_copy
        until_right(lambda r: make([copy(update={"right": r})]), right, ask=not said.yes)
    elif starts and not any(more.values()):
        at = starts  # postponed, or brought forward
    elif own or work_mail or birthday or any(more.values()):
        raise InvalidInput(
            "Fields are for a new person.",
            remedy="Name --given and --family too, or use: yugum mover.",
        )
    plan = wl.NewPlan(verb=Verb.JOINER, who=[who], at=at)
    try:
        code = carry_out(context, plan, said)
    except (SaidNo, click.Abort, YugumError):
        if new:
            _take_out(context, who)
        raise
    sys.exit(code)


def _take_out(context: Context, who: str) -> None:
    """Nobody is left behind of whom no plan was confirmed."""
    client = context.client()
    if not client.people.show(who).dockets:
        client.people.decline(who, "no plan for them was confirmed")
        click.echo(f"{who} was not taken in.", err=True)


def _suggested(
    context: Context, given: str, family: str, number: str, more: Mapping[str, str | None]
) -> tuple[str, str]:
    """The login and the address the rules suggest, shown with what was tried before."""
    found = context.client().names.suggest(
        given=given,
        family=family,
        number=number,
        department=more.get("department") or "",
        site=more.get("site") or "",
    )
    mail = next((s.name for s in found.names if s.kind is NameKind.MAIL), "")
    login = next(s for s in found.names if s.kind is NameKind.LOGIN)
    if not login.name:
        raise InvalidInput("No login fits.", remedy="Name one, or change the naming rules.")
    for tried in login.tried:
        if tried.problem and context.form == "table":
            click.echo(f"  {tried.name or tried.pattern}: {tried.problem}", err=True)
    if context.form == "table":
        click.echo(f"Login: {login.name}", err=True)
        if mail:
            click.echo(f"Mail address: {mail}", err=True)
    return login.name, mail


@click.command()
@choosing
@click.option(
    "--at", default="", help="When: 2031-03-10, Friday, 'Fri 17:00', +12d. Now if left out."
)
@click.option("--since", default="", help="When it came true, if that is past.")
@click.option("--overlap", type=click.IntRange(0, 365), default=None, help="Days of both roles.")
@click.option("--contract-ends", default=None, help="Another last day, or 'none' for no end.")
@fields
@confirming
@pass_context
def mover(
    context: Context,
    /,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    at: str,
    since: str,
    overlap: int | None,
    own: dict[str, str],
    right: tuple[Doubted, ...],
    said: Said,
    **more: str | None,
) -> None:
    """Change what WHO is; what roles give is taken and given accordingly.

    A conversion, say of a seasonal into an employee: --user-type employee --contract-ends none.
    """
    changes = {k: v for k, v in more.items() if v is not None}
    changes |= {f"own.{name}": value for name, value in own.items()}
    if changes.get("contract_ends") == "none":
        changes["contract_ends"] = ""
    if "manager" in changes:
        boss = str(changes.pop("manager"))
        changes["manager_id"] = context.client().people.show(boss).id if boss else ""
    plan = wl.NewPlan(
        verb=Verb.MOVER,
        who=list(who),
        matching=matching,
        at=at,
        since=since,
        overlap_days=overlap,
        changes=changes,
        right=list(right),
    )
    sys.exit(carry_out(context, plan, said))


@click.command()
@choosing
@click.option("--file", type=click.Path(exists=True, path_type=Path), help="Logins, one a line.")
@click.option("--at", default="", help="When access ends, in each person's zone. Now if left out.")
@click.option("--since", default="", help="When access should have ended, if that is past.")
@click.option("--successor", default="", help="Who takes over; the manager if left out.")
@click.option("--urgent", is_flag=True, help="Overtake all other work.")
@click.option("--confidential", is_flag=True, help="Prepare only; nobody else sees it until fired.")
@click.option(
    "--last-day", default="", help="The last working day, if access ends later or earlier."
)
@click.option("--contract-ends", default="")
@leaving_out
@confirming
@pass_context
def leaver(
    context: Context,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    file: Path | None,
    at: str,
    since: str,
    successor: str,
    urgent: bool,
    confidential: bool,
    last_day: str,
    contract_ends: str,
    left_out: dict[str, str],
    said: Said,
) -> None:
    """Cut WHO off everywhere, hand over what they own, free what they held."""
    people = list(who)
    if file is not None:
        people += listed(file)
    kept = {"reference": said.reference, "reason": said.reason, "override": said.override}
    plan = wl.NewPlan(
        verb=Verb.LEAVER,
        who=people,
        matching=matching,
        at=at,
        since=since,
        successor=successor,
        urgent=urgent or confidential,
        confidential=confidential,
        last_day=last_day,
        contract_ends=contract_ends,
        left_out=left_out,
        **(kept if confidential else {}),
    )
    sys.exit(carry_out(context, plan, said))


@click.command()
@choosing
@click.option("--at", default="", help="First day back. Now if left out.")
@confirming
@pass_context
def returner(
    context: Context,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    at: str,
    said: Said,
) -> None:
    """Bring WHO back from absence or after having left, with all that can come back."""
    plan = wl.NewPlan(verb=Verb.RETURNER, who=list(who), matching=matching, at=at)
    sys.exit(carry_out(context, plan, said))


@click.command()
@choosing
@click.option("--at", default="", help="When the absence begins. Now if left out.")
@click.option("--until", default="", help="When it ends.")
@confirming
@pass_context
def absence(
    context: Context,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    at: str,
    until: str,
    said: Said,
) -> None:
    """Suspend WHO for a time; everything is kept."""
    plan = wl.NewPlan(verb=Verb.ABSENCE, who=list(who), matching=matching, at=at, until=until)
    sys.exit(carry_out(context, plan, said))


@click.command()
@click.argument("who")
@click.option("--login", default="", help="The new login; ? for the one that the rules suggest.")
@click.option("--given", default="")
@click.option("--family", default="")
@click.option("--display-name", default="")
@click.option("--mail", default="", help="The new address; with --login ? the rules suggest one.")
@click.option("--at", default="", help="When. Now if left out.")
@click.option(
    "--account",
    "accounts",
    multiple=True,
    help="The id of an account under another login: one under WHO's own takes its place.",
)
@click.option("--sensitive", is_flag=True, help="Hide the former name from all but administrators.")
@click.option(
    "--mail-until",
    default="",
    help="Sensitive: mail to the old address arrives unseen until then; it bounces if left out.",
)
@confirming
@pass_context
def rename(
    context: Context,
    who: str,
    login: str,
    given: str,
    family: str,
    display_name: str,
    mail: str,
    at: str,
    accounts: tuple[str, ...],
    sensitive: bool,
    mail_until: str,
    said: Said,
) -> None:
    """Give WHO a new name; the old login stays an alias for as long as the rules say."""
    if login == "?":
        person = context.client().people.show(who)
        names = (given or person.given_name, family or person.family_name)
        more = {"department": person.department, "site": person.site}
        login, address = _suggested(context, *names, person.employee_number, more)
        mail = mail.replace("?", "") or address
    changes = {
        "user_name": login,
        "given_name": given,
        "family_name": family,
        "display_name": display_name,
        "mail": mail,
    }
    plan = wl.NewPlan(
        verb=Verb.RENAME,
        who=[who],
        at=at,
        accounts=list(accounts),
        changes={k: v for k, v in changes.items() if v},
        sensitive=sensitive,
        until=mail_until,
    )
    sys.exit(carry_out(context, plan, said))


@click.command()
@click.argument("who", nargs=-1, required=True)
@click.option("--until", required=True, help="The new last day.")
@confirming
@pass_context
def extend(
    context: Context,
    who: tuple[str, ...],
    until: str,
    said: Said,
) -> None:
    """Let a fixed term of WHO go on; after its end, everything is brought back."""
    plan = wl.NewPlan(verb=Verb.EXTENSION, who=list(who), until=until)
    sys.exit(carry_out(context, plan, said))
