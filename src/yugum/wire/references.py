"""Where somebody is named without owning it, and who is to stand there."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yugum.core.handover import Ground
from yugum.core.redirections import How
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words


class ReferenceRow(Model):
    """A place that names somebody: its ``text`` now and ``after``; ``effect`` is what stops while nobody stands there,
    ``contact`` the address of whoever answers for it.

    ``how`` it changes: with the ``leaving`` by a step, ``by-hand``, not yet (``open``), or not at all by a choice
    (``stays``); ``why`` says more. Of a ``replaceable`` one ``text`` is the login whose key runs there. Without an application it is Yugum's own. ``thing`` is what the place is.
    """

    application_id: str | None
    application_name: str
    key: str
    thing: str
    place: str
    text: str
    after: str
    how: Seen[How]
    ground: Seen[Ground] | None
    to_id: str | None
    to_name: str
    replaceable: bool
    effect: str
    contact: str
    why: str


class KeysRow(Model):
    """Keys of an account, which end with the access."""

    application_id: str
    application_name: str
    login: str
    count: int


class ReplacedKeyRow(Model):
    """A key that took the place of one of theirs: whose (``login``), who was told of it, whether it was fetched.

    The old one works on ``until`` then; "" where it ended at once, or with the access.
    """

    id: str
    application_id: str
    place: str
    to_name: str
    login: str
    until: Moment | Literal[""]
    set_at: Moment
    told_at: Moment | None
    contact: str
    told_to: str
    opened_at: Moment | None
    unopened: bool


class ReplaceKeys(Request):
    """For how many days the old keys work beside the new ones, at most until the access ends; ``places`` by ``key``, else all."""

    days: Annotated[int, Field(ge=0, le=90)] = 7
    places: Annotated[list[Line], Field(max_length=200)] = []
    reason: Words
    reference: Line = ""


class KeysReplaced(Model):
    """The ``dockets`` that replace keys of somebody, by their numbers; why others are ``left`` as they are."""

    dockets: list[str]
    left: list[str]


class ReferencesView(Model):
    """Where somebody is named, as of the moment ``at`` at which they leave, or now.

    ``silent`` applications did not answer, ``unsearched`` show no such places.
    """

    id: str
    name: str
    user_name: str
    at: Moment
    rows: list[ReferenceRow]
    keys: list[KeysRow]
    replaced: list[ReplacedKeyRow]
    silent: list[str]
    unsearched: list[str]
