"""A new key, of somebody else's account, for a program that runs with a leaver's."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import (
    Action,
    ActionSpec,
    Arguments,
    Done,
    Facet,
    Needs,
    Phase,
    Settle,
    Words,
)
from yugum.core.applications import Application, Capability
from yugum.core.people import full_name

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing
    from yugum.core.redirections import Redirection


class ReplaceKey(ActionSpec):
    """``item`` is the place as people call it, ``place`` its key there; the old key works on ``until`` then.

    What it is cannot be read back, so an attempt that was interrupted is made again: one that nobody was told of
    is of no use. Whose account it is of the connector reads before it says that it is done.
    """

    action = Action.REPLACE_KEY
    phase = Phase.HAND_OVER
    needs = Needs(Capability.MENTIONS)
    settle = Settle.REPEAT_SAFE
    readable = False
    secret = True
    words = Words(
        past="key replaced",
        does="replace the key of",
        counted=("key", "keys"),
        counted_past="replaced",
        task="Give {item} a key of {to_name} instead of the one of {login}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return False

    def gave(self, did: Done) -> bool:
        return bool(did.values)

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(setting=item)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        name = step.arguments.to_name or "the successor"
        undoing.lost(
            f"the key of {step.item} before", f"it goes on with the one of {name}; issue another"
        )


def replace_key(
    draft: Draft,
    application: Application,
    account: Account,
    found: Redirection,
    item: str,
    why: str,
    until: datetime | None,
) -> None:
    """Plan that a program gets a key of whoever comes after; beside the old one ``until`` then, where that is said."""
    mention, heir, there = found.mention, found.choice.successor, found.choice.account
    assert heir is not None
    assert there is not None
    leaver = draft.subject.person
    # Whoever leaves is told of no key that works on without them.
    theirs = {m.casefold() for m in (leaver.mail, leaver.outside_mail) if m}
    answers = "@" in mention.contact and mention.contact.casefold() not in theirs
    receiver = mention.contact if answers else heir.person.mail
    beside = f", the old one works on until {until:%-d %b %Y %H:%M} UTC" if until else ""
    draft.add(
        application,
        account,
        Action.REPLACE_KEY,
        f"key of {mention.text}",
        f"key of {found.text}{beside}",
        why,
        item=item,
        arguments=Arguments(
            value=found.text,
            was=mention.text,
            place=mention.key,
            until=until.isoformat() if until else "",
            contact=receiver,
            to_name=full_name(heir.person),
            to_account=there.id,
            to_external_id=there.external_id,
        ),
    )
