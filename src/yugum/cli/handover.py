"""What somebody owns, and what is to become of it."""

from __future__ import annotations

import sys

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.plans import follow
from yugum.core.handover import Settled
from yugum.core.takeovers import TakeoverAnswer
from yugum.core.wording import plural
from yugum.wire import handover as wh
from yugum.wire import references as wr
from yugum.wire import takeovers as wt

ROWS = {
    "application": "application_name",
    "account": "login",
    "thing": "thing",
    "called": "matching",
    "count": "count",
    "settled": "settled",
    "to": "to_name",
    "until": "until",
    "by": "ground",
    "why": "reason",
    "names": "names",
}


REFERENCES = {
    "application": "application_name",
    "thing": "thing",
    "place": "place",
    "names them": "text",
    "id": "key",
    "then": "after",
    "how": "how",
    "to": "to_name",
    "stops": "effect",
    "answers": "contact",
}


@click.group()
def handover() -> None:
    """What people own, and who takes it over."""


BOARD = {
    "who": "name",
    "login": "user_name",
    "leaves": "leaves_at",
    "application": "application_name",
    "thing": "thing",
    "called": "matching",
    "count": "count",
    "settled": "settled",
    "to": "to_name",
    "by": "ground",
    "why": "text",
}


@handover.command("list")
@click.option("--application", default="", help="Only in this one.")
@click.option(
    "--settled", type=click.Choice([s.value for s in Settled]), help="Only what stands so."
)
@pass_context
def board(context: Context, application: str, settled: str | None) -> None:
    """What everybody who leaves or has left still owns, as last seen, and what becomes of it."""
    rows = context.client().handover.all(application=application, settled=settled or "")
    context.output().rows(rows, BOARD, empty="Nobody who leaves or has left owns anything.")


@handover.command("show")
@click.argument("who")
@pass_context
def show(context: Context, who: str) -> None:
    """What WHO owns, looked at now in every application, and what becomes of it when they leave."""
    _told(context, context.client().handover.show(who))


@handover.command("choose")
@click.argument("who")
@click.option("--application", default="", help="Only in this one.")
@click.option("--thing", default="", help="Only this kind, as the application calls it: roster.")
@click.option("--matching", default="", help="Only those called so: 'North *' (* is any text).")
@click.option(
    "--to",
    multiple=True,
    help="Who takes them over: login, number or name; of several each has an equal share.",
)
@click.option("--copy", "copies", is_flag=True, help="With --to: they get copies of it.")
@click.option("--goes", is_flag=True, help="They go with the account, for good.")
@click.option("--keeps", is_flag=True, help="The account is kept for them.")
@click.option("--until", default="", help="With --keeps: until then; else until it is ended.")
@click.option("--typed", default="", help="The login of WHO, for what goes; else asked for.")
@click.option("--reason", required=True, help="Why, for the record.")
@pass_context
def choose(
    context: Context,
    who: str,
    application: str,
    thing: str,
    matching: str,
    to: tuple[str, ...],
    copies: bool,
    goes: bool,
    keeps: bool,
    until: str,
    typed: str,
    reason: str,
) -> None:
    """Settle what becomes of what WHO owns of one kind, in one application or of some names."""
    if goes and not typed and sys.stdin.isatty():
        typed = click.prompt("What goes does not come back. Type the login", err=True)
    body = wh.ChooseHandover(
        reason=reason,
        application=application,
        thing=thing,
        matching=matching,
        to=to[0] if to else "",
        share=list(to[1:]),
        copies=copies,
        goes=goes,
        keeps=keeps,
        until=until,
        typed=typed,
    )
    _told(context, context.client().handover.choose(who, body))


ASKED = {
    "id": "id",
    "of": "name",
    "leaves": "leaves_at",
    "asked": "heir_name",
    "application": "application_name",
    "thing": "thing",
    "count": "count",
    "answer": "answer",
    "by": "answer_by",
    "note": "note",
}


GIVEN = {
    "application": "application_name",
    "thing": "thing",
    "count": "count",
    "given to": "to_name",
    "docket": "number",
    "on": "at",
    "now with": "now_name",
}


@handover.command("given")
@click.argument("who")
@pass_context
def given(context: Context, who: str) -> None:
    """What WHO had and others were given, and who has it now, as last seen."""
    found = context.client().handover.given(who)
    context.output().rows(found.rows, GIVEN, empty=f"Nothing of {found.name} went to others.")
    if found.over and context.form == "table":
        click.echo("There is more: yugum handovers --who has every thing.", err=True)


@handover.command("asked")
@click.option(
    "--answer", type=click.Choice([a.value for a in TakeoverAnswer]), help="Only those so answered."
)
@pass_context
def asked(context: Context, answer: str | None) -> None:
    """Who is asked, or was, whether they take over what somebody owns who leaves or has left."""
    rows = context.client().handover.asked(answer=answer or "")
    context.output().rows(rows, ASKED, empty="Nobody is asked.")


@handover.command("answer")
@click.argument("takeover_id", metavar="ID")
@click.option("--accepts", is_flag=True, help="They take it over.")
@click.option("--declines", is_flag=True, help="They do not.")
@click.option("--to", default="", help="They pass it on to this login or mail address.")
@click.option("--note", required=True, help="How you know, and what they said.")
@pass_context
def answer_for(
    context: Context, takeover_id: str, accepts: bool, declines: bool, to: str, note: str
) -> None:
    """Note what somebody who was asked (ID of yugum handover asked) has said otherwise."""
    if [accepts, declines, bool(to)].count(True) != 1:
        raise click.UsageError("Say one of --accepts, --declines and --to.")
    said: wt.Said = (
        TakeoverAnswer.PASSED_ON
        if to
        else TakeoverAnswer.ACCEPTED
        if accepts
        else TakeoverAnswer.DECLINED
    )
    body = wt.TakeoverReply(answer=said, to=to, note=note)
    context.output().rows([context.client().handover.answer(takeover_id, body)], ASKED)


@handover.command("references")
@click.argument("who")
@pass_context
def references(context: Context, who: str) -> None:
    """Where WHO is named without owning it, looked for now, and who is to stand there."""
    _references(context, context.client().handover.references(who))


@handover.command("redirect")
@click.argument("who")
@pass_context
def redirect(context: Context, who: str) -> None:
    """Put others where WHO, who has left, is still named; before, it goes with the leaving."""
    _references(context, context.client().handover.redirect(who))


@handover.command("replace-keys")
@click.argument("who")
@click.option(
    "--days",
    type=click.IntRange(0, 90),
    default=7,
    show_default=True,
    help="So long the old keys work beside the new ones, at most until the access ends.",
)
@click.option("--place", "places", multiple=True, help="Only this one, by its id.")
@click.option("--reason", required=True, help="Why, for the record.")
@click.option("--reference", default="")
@pass_context
def replace_keys(
    context: Context, who: str, days: int, places: tuple[str, ...], reason: str, reference: str
) -> None:
    """New keys, of whoever comes after, for the programs that run with a key of WHO, who is to leave.

    Whoever answers for a program gets a link to its new key; both keys work until the old ones end.
    """
    body = wr.ReplaceKeys(days=days, places=list(places), reason=reason, reference=reference)
    done = context.client().handover.replace_keys(who, body)
    for why in done.left:
        click.echo(f"Left as it is: {why}", err=True)
    sys.exit(follow(context, done.dockets))


@handover.command("tell-key")
@click.argument("who")
@click.argument("key_id", metavar="ID")
@pass_context
def tell_key(context: Context, who: str, key_id: str) -> None:
    """Have a new key that nobody has opened (ID of yugum handover references WHO) told of by another link."""
    context.client().handover.tell_key(who, key_id)
    click.echo("Another link is on its way.", err=True)


def _references(context: Context, found: wr.ReferencesView) -> None:
    context.output().rows(found.rows, REFERENCES, empty=f"No place names {found.name}.")
    if context.form != "table":
        return
    for row in found.rows:
        if row.how == "by-hand" and row.after:
            click.echo(f"By hand: {row.application_name}, {row.place}: write {row.after}")
        elif row.how != "leaving":
            click.echo(f"{row.application_name}, {row.place}: {row.why}.")
    for key in found.keys:
        what = plural(key.count, "key")
        ends = "ends" if key.count == 1 else "end"
        click.echo(
            f"{what} of {key.login} in {key.application_name} {ends} at the latest with the access."
        )
    for new in found.replaced:
        until = f", the old one works until {new.until:%-d %b %Y %H:%M} UTC" if new.until else ""
        told = f"fetched {new.opened_at:%-d %b %H:%M}" if new.opened_at else "not fetched"
        click.echo(
            f"{new.place} has a key of {new.login} ({new.to_name}){until}; {new.told_to or new.contact}: {told}. {new.id}"
        )
    for name in found.silent:
        click.echo(f"{name} did not answer: what it told last is shown.", err=True)
    if found.unsearched:
        click.echo(f"Not searched, for they show no such places: {', '.join(found.unsearched)}.")


def _told(context: Context, found: wh.HandoverView) -> None:
    context.output().rows(found.rows, ROWS, empty=f"{found.name} owns nothing.")
    if context.form != "table":
        return
    for name in found.silent:
        click.echo(f"{name} did not answer: what it told last is shown.", err=True)
    for row in found.rows:
        if row.text:
            click.echo(f"{row.application_name}, {row.thing}: {row.text}.")
    if found.rows:
        said = f"{found.open} of {len(found.rows)} are open" if found.open else "All is settled"
        click.echo(f"{said}, as of {found.at:%a %-d %b %Y %H:%M} UTC.")
