"""Keys with which programs run, replaced before whoever they belong to leaves: old and new side by side for a while."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from yugum.core.accounts import Account
from yugum.core.actions import GONE
from yugum.core.actions.replace_key import replace_key
from yugum.core.desired import Subject, World
from yugum.core.drafts import Draft
from yugum.core.mentions import Mention
from yugum.core.plans import Plan
from yugum.core.redirections import NO_ACCOUNT, STAYS, place_of, redirection
from yugum.core.verbs import Verb


def account_with_keys(
    subject: Subject, application_id: str, mentions: Collection[Mention]
) -> Account | None:
    """The account whose keys some places of an application run with; None where they have none there any more."""
    texts = {m.text.casefold() for m in mentions}
    mine = [
        a for a in subject.accounts if a.application_id == application_id and a.state not in GONE
    ]
    return next((a for a in mine if a.login.casefold() in texts), mine[0] if mine else None)


def plan_keys(
    subject: Subject,
    world: World,
    account: Account,
    at: datetime,
    until: datetime,
    places: Collection[str],
) -> Plan:
    """A key of whoever comes after for each program that runs with one of an account; the old ones end ``until`` then.

    With ``places`` only those, by the application's ids of them.
    """
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    for mention in subject.mentions:
        mine = mention.application_id == application.id and mention.replaceable
        if not mine or (places and mention.key not in places):
            continue
        found = redirection(subject, mention, at)
        place = place_of(subject, mention)
        if found.choice.settled in STAYS:
            draft.stay(application, place, "stays, by choice")
        elif not found.text:
            draft.warn(found.choice.code, f"{application.name}, {place}: {found.choice.text}.")
        elif found.choice.account is None:
            draft.warn(NO_ACCOUNT, f"{application.name}, {place}: {found.lacks}.")
        else:
            replace_key(draft, application, account, found, place, "its owner leaves", until)
    return draft.finish(Verb.KEYS)
