"""Initial credentials: links, what is behind them, one's own choice."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator

from yugum.core.passwords import CharacterClass
from yugum.core.roles import DeliverTo
from yugum.wire.common import Address, Line, Model, Moment, Request, Seen


class CredentialLink(Model):
    """``link`` is empty where a ``mail`` carries it."""

    link: str
    hours: float
    mail: CredentialMail | None = None


class CredentialMail(Model):
    """The mail that carries a link, which is left out here."""

    address: str
    subject: str
    text: str


class OpenedCredential(Model):
    """What was behind a link, shown this once; with a ``place`` it is the key with which that runs."""

    application: str
    login: str
    secret: str
    place: str


class CredentialRules(Model):
    """Behind a link that still opens: whose account it is and what its password must be like.

    With a ``place`` it is a key with which that runs, and no password is chosen.
    """

    application: str
    login: str
    length: int
    needs: list[Seen[CharacterClass]]
    place: str = ""


class ChosenCredential(Request):
    """A blank at its end belongs to a password."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=False)

    token: Annotated[str, Field(max_length=200)]
    password: Annotated[str, Field(max_length=256)]


class ChosenReply(Model):
    application: str
    login: str
    docket: str


class NewCredential(Request):
    reason: Line = ""
    reference: Line = ""


class TypedCredential(NewCredential):
    """A credential somebody types for the account's owner; a blank at its end belongs to it."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=False)

    password: Annotated[str, Field(max_length=256)]


class HandOver(Request):
    """What the help desk checked before it hands a credential over.

    With ``to`` the link goes to that address, this once, and is not in the reply; with ``look`` too the mail
    is only shown.
    """

    check: Annotated[Line, Field(min_length=3)]
    to: Address = ""
    look: bool = False

    @model_validator(mode="after")
    def _look_at_a_mail(self) -> HandOver:
        if self.look and not self.to:
            raise ValueError("look: there is only a mail to look at where it goes to an address")
        return self


class CredentialState(Model):
    """The newest initial credential of an account: told to whom, opened, still to be fetched."""

    account_id: str
    application_name: str
    login: str
    set_at: Moment
    told_at: Moment | None
    told_to: str
    told_how: Literal[""] | Seen[DeliverTo]
    opened_at: Moment | None
    unopened: bool
    expired: bool | None


MOST_ISSUED = 100
"""People in one request for new credentials: more come in waves."""


class WhoseCredentials(Request):
    """People, and the applications that are meant; all that take a credential where none is named."""

    who: Annotated[list[Line], Field(min_length=1, max_length=MOST_ISSUED)]
    applications: Annotated[list[Line], Field(max_length=50)] = []


class NewCredentials(WhoseCredentials):
    """New credentials for open accounts. With ``look`` nothing happens: whose they would be is told."""

    reason: Line = ""
    reference: Line = ""
    look: bool = False


class IssuedRow(Model):
    """An account that gets a new credential by a ``docket`` (none where it was only looked), or a problem."""

    person_id: str
    person_name: str
    account_id: str
    application_name: str
    login: str
    docket: str
    problem: str
