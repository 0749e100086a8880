"""Putting somebody else where a place of an application names a leaver."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Application, Capability
from yugum.core.mentions import words_in
from yugum.core.people import full_name

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing
    from yugum.core.redirections import Redirection


class Redirect(ActionSpec):
    """``item`` is the place as people call it, ``place`` its key there; ``swaps`` says who stands instead of whom, ``value`` how it reads then."""

    action = Action.REDIRECT
    phase = Phase.HAND_OVER
    needs = Needs(Capability.MENTIONS)
    reads_mention = True
    words = Words(
        past="redirected",
        does="redirect",
        counted=("place that names them", "places that name them"),
        counted_past="redirected",
        task="Put {to_name} where {item} names {login}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        text = None if seen is None else (seen.mentions or {}).get(item)
        if text is None:  # the place is gone, and with it whom it named
            return seen is not None
        if not arguments.swaps:
            return text == arguments.value
        return not words_in(text) & arguments.swaps.keys()

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(setting=item, value=(seen.mentions or {}).get(item, ""))

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        place, key = step.item, step.arguments.place
        before, after = step.arguments.was, step.did.values.get(key, step.arguments.value)
        # What was not looked at counts as left: the application is asked again before it is written to.
        now = undoing.texts.get((undoing.application.id, key), after)
        if now is None:
            undoing.lost(place, "it is not there any more")
        elif now == before:
            undoing.already(place)
        elif now != after:
            undoing.changed(place, now or "nothing")
        else:
            undoing.returns(place, f"{before} again")
            undoing.plan(
                account,
                Action.REDIRECT,
                after,
                before,
                step,
                Arguments(value=before, was=after, place=key),
                # What comes back needs its account first, whatever phase it went in.
                phase=Phase.ACCESS,
            )


def redirect(
    draft: Draft,
    application: Application,
    account: Account,
    found: Redirection,
    item: str,
    why: str,
) -> None:
    """Plan that a place, called ``item``, names somebody else."""
    mention, heir, there = found.mention, found.choice.successor, found.choice.account
    draft.add(
        application,
        account,
        Action.REDIRECT,
        mention.text,
        found.text,
        why,
        item=item,
        arguments=Arguments(
            value=found.text,
            was=mention.text,
            place=mention.key,
            swaps=dict(found.instead),
            to_name=full_name(heir.person) if heir else "",
            to_account=there.id if there else "",
        ),
    )
