"""A pool's seats given out to one after another: whoever asks holds one, or has a place in line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from yugum.core.licenses import License, WhenEmpty
from yugum.core.seats import Claim, SeatState

AFTER_ALL = 2**31 - 1
"""The place of somebody who has none yet."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Aside:
    """Seats set aside: for a person by name or for whoever fulfils ``who``; ``given`` once they can be taken."""

    id: str
    who: str
    person_id: str | None
    left: int
    given: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """How ``count`` claims stand in line: a state with a place, the order they are served in, what they use.

    ``place`` is None where only the order of whole ranks and days matters.
    """

    state: SeatState = SeatState.WAITING
    rank: int = 0
    begins: date | None = None
    place: int | None = None
    reservation_id: str | None = None
    count: int = 1

    @property
    def key(self) -> tuple[int, date, int]:
        """The order of a line: the stated priority, then who begins first, then who came first."""
        place = AFTER_ALL - 1 if self.place is None else self.place
        return self.rank, self.begins or date.max, place


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A seat that is asked for, how early its person is served (0 first), and the reservation that is used."""

    account_id: str
    person_id: str
    rank: int = 0
    reservation_id: str | None = None


@dataclass(slots=True, kw_only=True)
class Counter:
    """A locked pool while seats of it are given out.

    ``last`` is the last place in line, ``line`` who waits, ``stands`` the claims of the accounts that ask and
    ``begins`` the first days of their people. Afterwards ``changed`` holds what came of them, ``used`` how many
    seats of each reservation were taken; ``over``: one was given that was not bought; ``fell``: somebody who waited
    comes later now, so that others may be served.
    """

    id: str
    bought: int
    unlimited: bool
    held: int
    last: int
    line: list[Stand]
    asides: Sequence[Aside]
    stands: dict[str, Stand]
    begins: Mapping[str, date]
    changed: dict[str, tuple[Asked, Stand]] = field(default_factory=dict)
    used: dict[str, int] = field(default_factory=dict)
    over: bool = False
    fell: bool = False

    def left(self, aside: Aside) -> int:
        """How many seats of a reservation are not used up."""
        return aside.left - self.used.get(aside.id, 0)

    def ask(self, asked: Asked, license: License) -> Claim:
        """A seat, or a place in line.

        Somebody is served only when as many seats are free, and set aside for nobody, as people stand before;
        for whom one is set aside, when any is free. A seat held already is the same one.
        """
        mine = self.stands.get(asked.account_id)
        if mine is not None and mine.state is SeatState.HELD:
            return Claim(held=True)
        if mine is not None:
            self._leave(mine)
        stand = Stand(
            rank=asked.rank,
            begins=self.begins.get(asked.person_id),
            place=AFTER_ALL if mine is None else mine.place,
            reservation_id=asked.reservation_id,
        )
        aside = {a.id: n for a in self.asides if a.given and (n := self.left(a)) > 0}
        before = sum(
            s.count for s in self.line if s.reservation_id not in aside and s.key < stand.key
        )
        needed = 0 if asked.reservation_id in aside else before + sum(aside.values())
        overrun = self.unlimited or license.when_empty is WhenEmpty.OVERRUN
        if overrun or self.bought - self.held > needed:
            self._give(asked, stand)
            return Claim(held=True)
        if mine is None and license.when_empty is WhenEmpty.BLOCK:
            return Claim(held=False)
        if mine is None:
            self.last += 1
            stand = replace(stand, place=self.last)
        elif mine.key < stand.key:
            self.fell = True
        self.line.append(stand)
        self._note(asked, stand)
        return Claim(held=False, place=before + 1)

    def _leave(self, mine: Stand) -> None:
        """Somebody who asks again does not stand before themselves."""
        at = next(n for n, s in enumerate(self.line) if s.place == mine.place)
        del self.line[at]

    def _give(self, asked: Asked, stand: Stand) -> None:
        self.over = self.over or (not self.unlimited and self.held >= self.bought)
        self.held += 1
        using = next((a for a in self.asides if a.id == asked.reservation_id), None)
        if using is not None and self.left(using) > 0:
            self.used[using.id] = self.used.get(using.id, 0) + 1
        self._note(asked, replace(stand, state=SeatState.HELD, place=None))

    def _note(self, asked: Asked, stand: Stand) -> None:
        self.stands[asked.account_id] = stand
        self.changed[asked.account_id] = asked, stand
