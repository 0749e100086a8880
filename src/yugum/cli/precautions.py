"""Precautions: somebody suspended as a whole or secured anew, in confidence, until it is reviewed."""

from __future__ import annotations

import sys

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.core.verbs import Measure, Verb
from yugum.errors import NotFound
from yugum.wire import decisions as wde
from yugum.wire import plans as wl


@click.group()
def precautions() -> None:
    """Precautions about whole people; nothing is freed or handed over by them."""


@precautions.command("list")
@pass_context
def list_precautions(context: Context) -> None:
    """List precautions in force, the one to be looked at first at the top."""
    context.output().rows(
        context.client().decisions.precautions(),
        {
            "who": "name",
            "login": "user_name",
            "measure": "measure",
            "ground": "ground",
            "by": "author",
            "since": "made_at",
            "review": "review",
            "docket": "number",
        },
        empty="No precaution is in force.",
    )


def _take(measure: Measure) -> click.Command:
    words = {
        Measure.SUSPEND: "Suspend WHO everywhere; seats, groups and what they own stay.",
        Measure.SECURE: "End the sessions of WHO and set new credentials; keys go on, nobody is kept out.",
    }

    @click.argument("who")
    @click.option("--ground", required=True, help="Why; administrators read it, nobody else.")
    @click.option("--review", required=True, help="The day it is looked at again: +14d, a date.")
    @confirming
    @pass_context
    def take(context: Context, who: str, ground: str, review: str, said: Said) -> None:
        plan = wl.NewPlan(
            verb=Verb.ACCOUNT, who=[who], measure=measure, ground=ground, review=review
        )
        sys.exit(carry_out(context, plan, said))

    take.__doc__ = words[measure]
    return click.command(measure.value)(take)


for _measure in Measure:
    precautions.add_command(_take(_measure))


@precautions.command("lift")
@click.argument("who")
@confirming
@pass_context
def lift(context: Context, who: str, said: Said) -> None:
    """Lift the precaution on WHO: what it closed is open again."""
    row = _on(context, who)
    if row.measure is Measure.SECURE or row.number is None:
        context.client().decisions.end(row.id)
        context.output().one(row, [f"The precaution on {row.name} has ended."])
        return
    sys.exit(carry_out(context, wl.NewPlan(verb=Verb.UNDO, docket=row.number), said))


def _on(context: Context, who: str) -> wde.PrecautionRow:
    client = context.client()
    person = client.people.show(who)
    rows = [r for r in client.decisions.precautions() if r.person_id == person.id]
    if not rows:
        raise NotFound(
            f"{person.display_name} is under no precaution.", remedy="yugum precautions list"
        )
    return next((r for r in rows if r.measure is Measure.SUSPEND), rows[0])
