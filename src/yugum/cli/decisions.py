"""Decisions about people: exceptions, roles, successors and holds."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import hold_id
from yugum.core.accounts import HoldingKind
from yugum.core.decisions import DecisionKind
from yugum.errors import InvalidInput
from yugum.wire import decisions as wde

HELD = (DecisionKind.GRANT, DecisionKind.DENY)
KINDS = (*HELD, DecisionKind.SUSPEND, DecisionKind.ROLE, DecisionKind.SUCCESSOR, DecisionKind.HOLD)


@click.command("decisions")
@click.argument("who")
@pass_context
def list_decisions(context: Context, who: str) -> None:
    """Exceptions, successors and holds of a person."""
    context.output().rows(
        context.client().people.decisions(who),
        {
            "id": "id",
            "kind": "kind",
            "what": "payload",
            "reason": "reason",
            "by": "author",
            "ends": "ends_at",
        },
        empty="No decisions.",
    )


@click.command("decide")
@click.argument("who")
@click.argument("kind", type=click.Choice([k.value for k in KINDS]))
@click.option("--application", default="", help="Where, of grant, deny and suspend.")
@click.option("--entitlement", default="", help="None of these three: the account itself.")
@click.option("--seat", default="")
@click.option("--setting", default="", help="A setting of the account, with --value.")
@click.option("--value", default="")
@click.option("--role", default="", help="A role to hold whatever its condition says.")
@click.option("--person", default="", help="The successor.")
@click.option("--reason", required=True)
@click.option("--ends", default="", help="Until when; for good if left out.")
@click.option("--new", is_flag=True, help="It may name what nobody holds or gives yet.")
@pass_context
def decide(
    context: Context,
    who: str,
    kind: str,
    application: str,
    entitlement: str,
    seat: str,
    setting: str,
    value: str,
    role: str,
    person: str,
    reason: str,
    ends: str,
    new: bool,
) -> None:
    """Make an exception, suspend somewhere, give a role, name a successor, or put a hold on WHO.

    The next plan follows it: yugum recheck WHO.
    """
    chosen = DecisionKind(kind)
    kinds = {
        HoldingKind.SEAT: seat,
        HoldingKind.ENTITLEMENT: entitlement,
        HoldingKind.SETTING: setting,
    }
    named = [(k, item) for k, item in kinds.items() if item]
    if len(named) > 1:
        raise InvalidInput(
            "One decision is about one thing.",
            place=named[1][0].value,
            remedy="Use one of --entitlement, --seat and --setting.",
        )
    holding, item = named[0] if named else (None, "")
    if chosen in HELD and holding is None:
        holding = HoldingKind.ACCOUNT
    payload = wde.DecisionPayload(
        application=application, kind=holding, item=item, value=value, role=role, person=person
    )
    made = context.client().decisions.make(
        wde.NewDecision(who=who, kind=chosen, payload=payload, reason=reason, ends=ends, new=new)
    )
    context.output().one(made, [f"{made.kind} {made.id}"])


@click.command("end-decision")
@click.argument("decision")
@pass_context
def end_decision(context: Context, decision: str) -> None:
    """End a DECISION (its id; or whose hold it is, a login or an application) now."""
    client = context.client()
    ended = client.decisions.end(hold_id(client, decision))
    context.output().one(ended, [f"{ended.kind} ended"])
