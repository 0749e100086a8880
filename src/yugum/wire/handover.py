"""What somebody owns, and what is to become of it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.handover import Ground, Settled
from yugum.wire.common import Line, Model, Moment, Request, Seen, When, Words

MOST_SHARES = 20


class ChooseHandover(Request):
    """What is to become of some things: ``to`` somebody (login, number or name), who gets copies of them where it ``copies``
    while they go with the account, or has them in equal shares with others (``share``); they go with it; or it ``keeps`` them, ``until`` a day or for good: it is not deleted before.

    Without an ``application`` in all of them, without a ``thing`` (a kind of them: roster) of all kinds; of these all, or
    those with a name ``matching`` a pattern, in which ``*`` stands for any text and ``?`` for any letter; one of the three
    is named. What goes with the account does not come back: the login is ``typed``.
    """

    reason: Words
    application: Line = ""
    thing: Line = ""
    to: Line = ""
    share: Annotated[list[Line], Field(max_length=MOST_SHARES)] = []
    copies: bool = False
    goes: bool = False
    keeps: bool = False
    until: When = ""
    matching: Line = ""
    typed: Line = ""


class OwnedRow(Model):
    """Things of one kind that an account owns, or those ``matching`` a name, some of their names, and what becomes of them.

    ``decision_id`` settled it for this application, kind or name, ``until`` a moment; without one it is who takes over from somebody as a
    whole, by the rules or up the managers' chain: the ``ground``. Where it is ``open``, ``code`` and ``text`` say why;
    ``roles`` would give whoever is to take it over the account that they lack.
    """

    application_id: str
    application_name: str
    account_id: str
    login: str
    thing: str
    matching: str
    count: int
    names: list[str]
    settled: Seen[Settled]
    ground: Seen[Ground] | None
    to_id: str | None
    to_name: str
    decision_id: str | None
    until: Moment | None
    author: str
    reason: str
    code: str
    text: str
    roles: list[str]


class BoardRow(Model):
    """What somebody who leaves or has left (``leaves_at``) still owns of one kind, or those ``matching`` a name, as last seen,
    and what becomes of it."""

    person_id: str
    name: str
    user_name: str
    leaves_at: Moment
    application_id: str
    application_name: str
    account_id: str
    login: str
    thing: str
    matching: str
    count: int
    settled: Seen[Settled]
    ground: Seen[Ground] | None
    to_id: str | None
    to_name: str
    code: str
    text: str


class HandoverView(Model):
    """What somebody owns, as it would be handed over at a moment; ``silent`` applications did not answer."""

    id: str
    name: str
    user_name: str
    at: Moment
    open: int
    rows: list[OwnedRow]
    silent: list[str]


class GivenRow(Model):
    """Things of one kind that somebody had, given to ``to_name`` by a docket, and who has them now, as last seen; without
    ``now_name`` no account that is known has them."""

    application_id: str
    application_name: str
    thing: str
    count: int
    number: str
    at: Moment
    to_id: str | None
    to_name: str
    now_id: str | None
    now_name: str


class GivenView(Model):
    """What somebody had and others were given, each thing by its last way; ``over`` says that there is more than is shown."""

    id: str
    name: str
    user_name: str
    over: bool
    rows: list[GivenRow]
