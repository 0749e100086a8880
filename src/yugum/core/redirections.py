"""Places that name somebody, and who is to stand there instead."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from yugum.core.desired import Subject
from yugum.core.handover import Choice, Settled, choice_of, receiving
from yugum.core.mentions import Mention, names_in, renamed, swapped, swaps, words_in
from yugum.core.people import full_name

NO_ACCOUNT = "key-without-account"
"""Why a key is not replaced: whoever comes after has no account whose key it could be."""
STAYS = (Settled.GOES, Settled.KEPT, Settled.COPIED)
"""What leaves a place as it is."""


class How(StrEnum):
    """What becomes of a place: with the leaving, by somebody's hands, nothing yet, or it stays by a choice."""

    LEAVING = "leaving"
    BY_HAND = "by-hand"
    OPEN = "open"
    STAYS = "stays"


@dataclass(frozen=True, slots=True, kw_only=True)
class Redirection:
    """A place that names somebody, who is to stand there instead, and how it reads then.

    Where nobody does, ``text`` is "" and the ``choice`` says why; its ``account`` may be none.
    """

    mention: Mention
    choice: Choice
    instead: Mapping[str, str]
    text: str

    @property
    def is_replaced(self) -> bool:
        """Whether it is a key that can be replaced by one of whoever comes after."""
        return bool(self.text) and self.mention.replaceable and self.choice.account is not None

    @property
    def lacks(self) -> str:
        """Why a key cannot be replaced though somebody comes after; "" where it can, or it is none."""
        heir = self.choice.successor
        if not (self.mention.replaceable and heir and self.text) or self.choice.account:
            return ""
        return f"{full_name(heir.person)} has no open account there whose key it could be"


def place_of(subject: Subject, mention: Mention) -> str:
    """What a place is called; with the application's id of it where others are called so as well."""
    alike = [
        m
        for m in subject.mentions
        if (m.application_id, m.place) == (mention.application_id, mention.place)
    ]
    return f"{mention.place} ({mention.key})" if len(alike) > 1 else mention.place


def redirection(subject: Subject, mention: Mention, at: datetime) -> Redirection:
    """Who is to stand in a place that names somebody, as for a thing of its kind that they own."""
    choice = choice_of(subject, mention.application_id, mention.kind, at, receives=False)
    instead: Mapping[str, str] = {}
    text = ""
    heir = choice.successor
    if mention.replaceable and not receiving(choice.account):
        choice = replace(choice, account=None)
    if choice.settled is Settled.TO and heir is not None:
        names = names_in(subject.person, subject.accounts, mention.application_id)
        there = heir.accounts.get(mention.application_id)
        login = there.login if there else heir.person.user_name
        instead = swaps(names & words_in(mention.text), heir.person.mail, login)
        text = swapped(mention.text, instead)
        if subject.person.display_name:
            text = renamed(text, subject.person.display_name, full_name(heir.person))
    return Redirection(mention=mention, choice=choice, instead=instead, text=text)
