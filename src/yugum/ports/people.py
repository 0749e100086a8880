"""People as they are stored and listed, and the facts recorded about them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Protocol

from yugum.core.conditions import Condition
from yugum.core.facts import Fact
from yugum.core.guards import Namesake
from yugum.core.lists import KnownValue, Order, PersonSort
from yugum.core.names import TakenLogin
from yugum.core.people import Person, PersonState
from yugum.core.people_file import Numbers
from yugum.core.roles import Role
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonLine:
    """A person in a list; ``open_accounts`` counts the active ones."""

    id: str
    user_name: str
    display_name: str
    given_name: str
    family_name: str
    employee_number: str
    user_type: str
    department: str
    title: str
    site: str
    manager_id: str | None
    manager_name: str | None
    time_zone: str
    starts: date | None
    access_ends: datetime | None
    contract_ends: date | None
    state: PersonState
    open_accounts: int
    rev: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenPeople:
    """Which people, and in what order: ``query`` is any part of a name, login or number.

    ``department``, ``site`` and ``user_type`` are whole values, in any case; ``condition`` is any filter, which
    ends after two seconds.
    """

    query: str = ""
    state: PersonState | None = None
    department: str = ""
    site: str = ""
    user_type: str = ""
    manager_id: str = ""
    condition: Condition | None = None
    sort: PersonSort = PersonSort.NAME
    order: Order = Order.ASCENDING


@dataclass(frozen=True, slots=True, kw_only=True)
class Starter:
    """Somebody who begins on a day."""

    id: str
    user_name: str
    display_name: str
    department: str
    title: str
    site: str
    starts: date
    time_zone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonKey:
    """What names a person."""

    id: str
    user_name: str
    employee_number: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SamePerson:
    """Somebody who may be the one that is to be made: ``same`` is what both have, ``new`` the login."""

    new: str
    same: str
    name: str
    user_name: str
    employee_number: str
    department: str
    has_left: bool


class PeopleStore(Protocol):
    async def many(self, ids: Iterable[str]) -> dict[str, tuple[Person, int]]:
        """People by id, each with the revision of their row; ids of nobody are left out."""
        ...

    async def with_role(
        self, role: Role, departments: Sequence[str], at: datetime, limit: int
    ) -> Sequence[Person]:
        """Who is there at a moment and has a role by its condition or an exception: of these departments first, then by login."""
        ...

    async def resolve(self, who: str) -> Person:
        """The one person that an id, a login, a number or a name stands for.

        Raises:
            NotFound: nobody is called that.
            Ambiguous: several are; the message tells them apart by number and place.
        """
        ...

    async def insert(self, people: Sequence[Person], known_at: datetime | None = None) -> None:
        """Store new people, known since ``known_at``, each with a subject to plan about.

        Raises:
            Conflict: a login is taken.
        """
        ...

    async def change(self, people: Sequence[Person]) -> None:
        """Store changed people; each gets a new revision."""
        ...

    async def record(self, facts: Sequence[Fact]) -> None:
        """Write down changes of people's fields."""
        ...

    async def page(
        self,
        now: datetime,
        chosen: ChosenPeople,
        cursor: str | None,
        limit: int,
    ) -> ListPage[PersonLine]:
        """People as chosen.

        Raises:
            TooSlow: the condition takes too long.
        """
        ...

    async def values(self, field: KnownValue, query: str, limit: int) -> Sequence[str]:
        """What people have in a field that begins with ``query``, in any case, each once and sorted."""
        ...

    async def login_held_by(
        self, logins: Sequence[str], since: datetime, now: datetime, but: Sequence[str] = ()
    ) -> dict[str, TakenLogin]:
        """Why logins (in lower case) cannot be had: a person's, an account's, or in quarantine ``since``.

        What people named ``but`` have counts as free.
        """
        ...

    async def mail_held_by(self, addresses: Sequence[str], since: datetime) -> dict[str, str]:
        """Whose mail addresses are, or were ``since``, by address in lower case; free ones are left out."""
        ...

    async def around(
        self, ids: Sequence[str], now: datetime
    ) -> tuple[Mapping[str, Sequence[str]], Mapping[str, Sequence[Namesake]]]:
        """By person: the names of who reports to them, and who could be taken for them."""
        ...

    async def reports_of(self, ids: Sequence[str], now: datetime) -> Sequence[Person]:
        """Who reports to some people, has not left, and is none of them."""
        ...

    async def merge(self, keep: str, gone: str) -> int:
        """Make one person of two; returns how many accounts came along.

        Raises:
            Conflict: a docket of one of the two has not ended.
        """
        ...

    async def starting(
        self, begin: date, until: date, cursor: str | None, limit: int
    ) -> ListPage[Starter]:
        """Who begins between two days, the first day first; who has left does not count."""
        ...

    async def like(
        self, people: Sequence[Person], birthdays: Mapping[str, str], now: datetime
    ) -> Sequence[SamePerson]:
        """Who there is, or was, that has the number, the outside address or both names of a new person.

        Or was born on the same day (``birthdays`` are digests, by id) and has one of the names. Who was
        born on another day is nobody's namesake.
        """
        ...

    async def expected(self, day: date, limit: int) -> Sequence[Person]:
        """Who begins after a day, the first one first."""
        ...

    async def logins_taken(self, logins: Iterable[str]) -> set[str]:
        """Which of these logins people have, as written."""
        ...

    async def without_number(self, names: Sequence[tuple[str, str]]) -> Sequence[Person]:
        """People of some given and family names whose number nobody has told yet."""
        ...

    async def by_keys(self, logins: Iterable[str], numbers: Iterable[str]) -> Sequence[PersonKey]:
        """The people that have one of the logins or numbers."""
        ...

    async def numbers(self) -> Sequence[Numbers]:
        """What the numbers of people look like that are of digits, of some thousands of them."""
        ...

    async def facts_of(self, person_id: str, limit: int = 50) -> Sequence[Fact]:
        """What was changed of somebody, the latest known first."""
        ...
