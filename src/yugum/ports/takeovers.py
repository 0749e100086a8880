"""Whether whoever is to take something over does."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.takeovers import Key, NewTakeover, Takeover, TakeoverAnswer
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeoverLine(Takeover):
    """A question in a list: of whom, who was asked, and where."""

    name: str
    user_name: str
    leaves_at: datetime | None
    heir_name: str
    heir_zone: str
    address: str
    application_name: str


class TakeoverStore(Protocol):
    async def of(self, person_ids: Sequence[str]) -> Mapping[str, Mapping[Key, Takeover]]:
        """What those have said who are to take over from some people, by person."""
        ...

    async def want(
        self, wanted: Sequence[NewTakeover], looked: Collection[str], now: datetime
    ) -> None:
        """Everybody who is to be asked about what people of ``looked`` own: who is asked already only gets the new count.

        Open questions of these people that are not among them are taken back.
        """
        ...

    async def again(self, person_id: str, heir_id: str, application_id: str, thing: str) -> None:
        """Whoever has said no, or nothing, to what is of an application and a kind (of any, where one is ""), is asked anew."""
        ...

    async def to_tell(self, limit: int) -> Sequence[TakeoverLine]:
        """Those who have not been asked yet, locked, by who takes over and person; not of a leaving in confidence."""
        ...

    async def told(
        self,
        ids: Sequence[str],
        asked_at: datetime,
        remind_at: datetime | None,
        answer_by: datetime,
    ) -> None:
        """They are asked now."""
        ...

    async def to_remind(self, now: datetime) -> Sequence[TakeoverLine]:
        """Those to be reminded now, marked as such in the same statement."""
        ...

    async def lapse(self, now: datetime) -> Sequence[Takeover]:
        """Those who have not answered in time, from now on."""
        ...

    async def link(self, link_hash: str, heir_id: str, expires: datetime) -> None:
        """A link by which somebody answers."""
        ...

    async def behind(self, link_hash: str, now: datetime) -> Sequence[TakeoverLine]:
        """What is asked of whoever has a link, or was: the first hundreds, those without an answer first.

        Raises:
            NotFound: there is no such link, or nothing is asked any more.
        """
        ...

    async def one(self, takeover_id: str, *, lock: bool = False) -> TakeoverLine:
        """One question.

        Raises:
            NotFound: there is none.
        """
        ...

    async def called(self, name: str) -> Sequence[str]:
        """The ids of at most two people who have exactly this login or mail address."""
        ...

    async def answer(self, said: Takeover) -> None:
        """Store what was answered."""
        ...

    async def page(
        self, answer: TakeoverAnswer | None, cursor: str | None, limit: int
    ) -> ListPage[TakeoverLine]:
        """Who is asked or was, the latest first."""
        ...
