"""The verbs: why a docket runs."""

from __future__ import annotations

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
    ACCOUNT = "account"


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


class Quick(StrEnum):
    """What can be done to some accounts at once, whoever they belong to."""

    SUSPEND = "suspend"
    RESUME = "resume"
    ARCHIVE = "archive"
    REOPEN = "reopen"
    DELETE = "delete"
    RESTORE = "restore"
    PURGE = "purge"
