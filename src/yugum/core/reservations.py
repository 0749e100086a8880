"""Seats set aside: for somebody by name, for those who are to come, or until whoever holds one has gone."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum

from yugum.core.conditions import Condition, matches
from yugum.core.people import Person, folded


class ReservationState(StrEnum):
    """Whether seats are set aside: not yet, now, once they are given back, or not any more."""

    LATER = "later"
    OPEN = "open"
    WITH_HOLDER = "with-holder"
    USED = "used"
    OVER = "over"


@dataclass(frozen=True, slots=True, kw_only=True)
class Reservation:
    """``count`` seats of a pool for one person, or for whoever fulfils a filter (``who``).

    ``taken`` of them are used up. From an account (``from_account_id``) the seat is passed on: it is set aside
    from the moment on at which it was given back (``given``). ``in_line`` wait with it. It lasts from ``begins``, or from when it was
    made, to ``ends``, both inside; ``open`` while that is so.
    """

    id: str
    pool_id: str
    count: int
    ends: date
    reason: str
    author: str
    made_at: datetime
    taken: int = 0
    person_id: str | None = None
    person_name: str | None = None
    who: str = ""
    from_account_id: str | None = None
    given: bool = True
    in_line: int = 0
    begins: date | None = None
    open: bool = False

    @property
    def left(self) -> int:
        return self.count - self.taken

    @property
    def aside(self) -> int:
        """How many seats nobody else is given because of it."""
        return self.left if self.open and self.given else 0

    def waits_for(self, account_id: str) -> bool:
        """Whether the seat of an account is passed on by it."""
        return self.open and self.left > 0 and not self.given and self.from_account_id == account_id

    def state_on(self, today: date) -> ReservationState:
        if not self.left:
            return ReservationState.USED
        if self.open:
            return ReservationState.OPEN if self.given else ReservationState.WITH_HOLDER
        if self.begins is not None and self.begins > today:
            return ReservationState.LATER
        return ReservationState.OVER


@dataclass(frozen=True, slots=True)
class Promise:
    """A reservation in force with its filter; None means nobody but whoever it names."""

    reservation: Reservation
    condition: Condition | None = None

    def is_for(self, person: Person) -> bool:
        if self.reservation.person_id is not None:
            return self.reservation.person_id == person.id
        return self.condition is not None and matches(self.condition, folded(person))
