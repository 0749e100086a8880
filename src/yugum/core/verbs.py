"""The verbs: why a docket runs."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum


class Verb(StrEnum):
    """Why a docket runs."""

    JOINER = "joiner"
    MOVER = "mover"
    LEAVER = "leaver"
    RETURNER = "returner"
    ABSENCE = "absence"
    UNDO = "undo"
    CLOSE = "close"
    PURGE = "purge"
    RECHECK = "recheck"
    REVERT = "revert"
    RENAME = "rename"
    EXTENSION = "extension"
    CREDENTIAL = "credential"
    KEYS = "keys"
    ACCOUNT = "account"
    UPDATE = "update"
    GROUP = "group"


WHOLE = frozenset(
    {
        Verb.JOINER,
        Verb.MOVER,
        Verb.LEAVER,
        Verb.RETURNER,
        Verb.ABSENCE,
        Verb.RECHECK,
        Verb.RENAME,
        Verb.EXTENSION,
    }
)
"""Verbs that look at all of somebody: what one of their dockets left open a later one takes over."""


TITLES: Mapping[Verb, str] = {
    Verb.JOINER: "joiner",
    Verb.MOVER: "mover",
    Verb.LEAVER: "leaver",
    Verb.RETURNER: "return",
    Verb.ABSENCE: "absence",
    Verb.UNDO: "undo",
    Verb.CLOSE: "closing",
    Verb.PURGE: "purge",
    Verb.RECHECK: "recheck",
    Verb.REVERT: "put back",
    Verb.RENAME: "rename",
    Verb.EXTENSION: "extension",
    Verb.CREDENTIAL: "new credential",
    Verb.KEYS: "keys replaced",
    Verb.ACCOUNT: "account",
    Verb.UPDATE: "attributes in step",
    Verb.GROUP: "group",
}
"""What people read a docket is."""


class Measure(StrEnum):
    """A precaution about a whole person: suspended, or secured anew while working on."""

    SUSPEND = "suspend"
    SECURE = "secure"


class Quick(StrEnum):
    """What can be done to some accounts at once, whoever they belong to."""

    SUSPEND = "suspend"
    RESUME = "resume"
    ARCHIVE = "archive"
    REOPEN = "reopen"
    DELETE = "delete"
    RESTORE = "restore"
    PURGE = "purge"
    INVITE = "invite"
    REQUIRE = "require"


def title_of(verb: Verb, action: str = "", measure: str = "", basis: str = "") -> str:
    """What a docket is called: by what it does, not by how it came about."""
    if measure:
        return f"precaution, {MEASURES.get(measure, measure)}"
    if verb is Verb.ACCOUNT and action:
        return ASKS.get(action, f"{action} account")
    if verb is Verb.RECHECK and basis:
        return f"{TITLES[verb]}: {basis}"
    return TITLES[verb]


ASKS: Mapping[str, str] = {Quick.INVITE: "invite again", Quick.REQUIRE: "duties at the sign-in"}
"""What dockets are called by which the owner of an account is asked for something."""
MEASURES: Mapping[str, str] = {Measure.SUSPEND: "suspended", Measure.SECURE: "secured anew"}
