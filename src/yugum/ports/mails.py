"""Mail to be sent and sent."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.mails import MailKind
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredMail:
    """A mail to be sent; ``sealed`` is the part that opens something, encrypted.

    Of an ``event`` there is one mail, whoever posts it how often.
    """

    id: str
    address: str
    subject: str
    text: str
    kind: MailKind
    made_at: datetime
    sealed: bytes | None = None
    subject_id: str | None = None
    docket_id: str | None = None
    event: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MailLine:
    """A mail in a list: when it was sent, or what keeps it."""

    id: str
    address: str
    subject: str
    text: str
    kind: MailKind
    subject_id: str | None
    docket_id: str | None
    made_at: datetime
    sent_at: datetime | None
    tries: int
    problem: str


class MailStore(Protocol):
    async def post(self, mails: Sequence[StoredMail]) -> None:
        """Store mails to be sent."""
        ...

    async def claim(self) -> StoredMail | None:
        """Take the mail that waits longest for one attempt of less than a minute.

        Who dies over it leaves it to somebody else.
        """
        ...

    async def sent(self, mail_id: str, at: datetime) -> None:
        """A mail is out; its sealed part is erased."""
        ...

    async def failed(self, mail_id: str, problem: str) -> None:
        """A mail could not be handed over; it is tried again later."""
        ...

    async def page(
        self,
        subject_id: str,
        cursor: str | None,
        limit: int,
        *,
        kind: MailKind | None = None,
        unsent: bool = False,
    ) -> ListPage[MailLine]:
        """What was told to whom, the newest first; about a subject, if one is named."""
        ...
