"""Rows of a file of people against what is known: who they are, and whether they can be taken so."""

from __future__ import annotations

import uuid
from asyncio import to_thread
from collections import Counter
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from yugum.core.attributes import OwnType, checked
from yugum.core.birthdays import digest_in
from yugum.core.dates import parse_day
from yugum.core.entry import wrong_domain
from yugum.core.facts import difference, with_fields
from yugum.core.file_columns import BIRTHDAY
from yugum.core.names import Limits, NameKind, Taken, suggest
from yugum.core.people import DAYS, OWN, Person, PersonState, full_name, state_at
from yugum.core.people_file import YES, PersonRow, RowState
from yugum.core.requests import NewPerson
from yugum.core.roles import Rules
from yugum.engine.context import load_applications, load_rules, zone_of
from yugum.engine.file_fields import read_fields
from yugum.engine.names import limits_of
from yugum.engine.newcomers import made
from yugum.engine.whom import whom
from yugum.errors import InvalidInput
from yugum.ports.units import UnitOfWork

ROUNDS = 40
"""How often names are looked up for rows without a login before it is given up."""
NAMED = 200
"""Managers that are looked for by their names; more are to be told by login or number."""
ALIKE = 200
"""Rows without a login that may have the same names: a login is tried for each."""


@dataclass(slots=True)
class Checking:
    """One check of a file, in statements that do not grow in number with its rows."""

    unit: UnitOfWork
    now: datetime
    rules: Rules
    zone: str
    limits: Limits
    before: dict[str, tuple[Person, int]] = field(default_factory=dict)
    days: dict[str, str] = field(default_factory=dict)
    born: dict[str, str] = field(default_factory=dict)

    @classmethod
    async def begin(cls, unit: UnitOfWork, now: datetime) -> Checking:
        rules = await load_rules(unit)
        zone = await zone_of(unit)
        limits = limits_of(rules, await load_applications(unit))
        return cls(unit, now, rules, zone, limits)

    async def find(self, rows: Sequence[PersonRow]) -> None:
        """Whom there is already, by number and by login."""
        for row in rows:
            _birthday(row)
        self.before = await whose(self.unit, rows)
        self.born = dict(await self.unit.birthdays.of([r.person_id for r in rows if r.birthday]))
        await self._provisional(rows)
        for row in rows:
            self._same(row)
            self._born_then(row)

    async def _provisional(self, rows: Sequence[PersonRow]) -> None:
        """Who was entered by hand before a source told their number, and is the one whom a row tells of.

        Both names are theirs, nobody else is called so, they were not born on another day, and the day they
        begin or were born, the department or the outside address is the same.
        """
        asked = [
            r for r in rows if r.said.get("employee_number") and not r.person_id and not r.faults
        ]
        times = Counter(_names(r) for r in asked)
        sole = {_names(r): r for r in asked if times[_names(r)] == 1 and all(_names(r))}
        found = await self.unit.people.without_number([*sole]) if sole else ()
        self.born |= await self.unit.birthdays.of([p.id for p in found])
        there = Counter((p.given_name, p.family_name) for p in found)
        for person in found:
            name = (person.given_name, person.family_name)
            row = sole[name]
            if there[name] == 1 and self._fits(row, person):
                row.person_id, row.provisional = person.id, True
        self.before |= await self.unit.people.many([r.person_id for r in asked if r.provisional])

    def _fits(self, row: PersonRow, person: Person) -> bool:
        said, born = row.said, self.born.get(person.id, "")
        if born and row.birthday:
            return born == row.birthday
        begins = ""
        if said.get("starts") and person.starts:
            with suppress(InvalidInput):  # told where days are read
                begins = self._day(said["starts"])
        return (
            (bool(begins) and person.starts is not None and begins == person.starts.isoformat())
            or bool(person.department and said.get("department") == person.department)
            or bool(person.outside_mail and said.get("outside_mail") == person.outside_mail)
        )

    def _same(self, row: PersonRow) -> None:
        person, row.rev = self.before.get(row.person_id, (None, 0))
        if person is None:
            row.person_id = str(uuid.uuid4())
            return
        if not row.faults:
            row.state = RowState.SAME
        if state_at(person, self.now) is PersonState.LEFT:
            row.fault(
                "employee_number" if row.said.get("employee_number") else "user_name",
                f"This is {full_name(person)} ({person.user_name}), who has left.",
                f"If they come back: yugum returner {person.user_name}.",
            )
        login = row.said.get("user_name", person.user_name)
        if login != person.user_name:
            row.fault(
                "user_name",
                f"{full_name(person)} is {person.user_name} until now.",
                f"A login is changed by: yugum rename {person.user_name}.",
            )

    def _born_then(self, row: PersonRow) -> None:
        known = self.born.get(row.person_id, "")
        if row.rev and known and row.birthday and known != row.birthday:
            person = self.before[row.person_id][0]
            row.fault(
                BIRTHDAY,
                f"{full_name(person)} ({person.user_name}) was born on another day, as far as is known.",
                "Correct the number or the login, if it is somebody else; else say it: "
                f"yugum people birthday {person.user_name} DAY.",
            )

    async def values(self, rows: Sequence[PersonRow]) -> None:
        """Every value by itself, and what of it is to be stored."""
        people = await self._own_people(rows)
        await to_thread(self._values, rows, people)

    def _values(self, rows: Sequence[PersonRow], people: Mapping[str, str]) -> None:
        for row in rows:
            if not row.said and not row.birthday:
                if not row.faults:
                    row.fault("row", "The row says nothing.", "Fill it, or leave it out.")
                continue
            said = self._days(row)
            own = {n.removeprefix(OWN): v for n, v in said.items() if n.startswith(OWN)}
            self._own(row, own, people)
            plain = {n: v for n, v in said.items() if not n.startswith(OWN)}
            another = plain.pop("another", "").lower()
            if another and another not in YES:
                row.fault("another", f"'{another}' is not yes.", "Write yes, or nothing.")
            plain.pop("manager", None)
            read_fields(row, plain)
            row.document = {**plain, **{f"{OWN}{n}": v for n, v in own.items()}}
            if row.birthday and not row.rev:
                row.document[BIRTHDAY] = row.birthday

    def _days(self, row: PersonRow) -> dict[str, str]:
        said = dict(row.said)
        for name in sorted(DAYS & said.keys()):
            if not said[name]:
                continue
            try:
                said[name] = self._day(said[name])
            except InvalidInput as error:
                row.fault(name, error.message, error.remedy)
                said.pop(name)
        begins, ends = said.get("starts", ""), said.get("contract_ends", "")
        if row.rev and (person := self.before[row.person_id][0]):
            begins = begins or (person.starts.isoformat() if person.starts else "")
        if begins and ends and ends < begins:
            row.fault(
                "contract_ends",
                f"They would end on {ends}, before they begin on {begins}.",
                "Correct one of the days.",
            )
        return said

    def _day(self, text: str) -> str:
        """A day as ISO 8601; a file names the same ones again and again."""
        if text not in self.days:
            self.days[text] = parse_day(text, self.now, self.zone).isoformat()
        return self.days[text]

    def _own(self, row: PersonRow, own: dict[str, str], people: Mapping[str, str]) -> None:
        for name, value in own.items():
            if problem := checked(self.rules.own, name, value):
                row.fault(f"{OWN}{name}", f"'{value}' cannot be {name}: {problem}.", "Correct it.")
            elif value and self.rules.own[name].type is OwnType.PERSON:
                if value in people:
                    own[name] = people[value]
                else:
                    row.fault(
                        f"{OWN}{name}", f"Nobody is called {value}.", "Name a login or a number."
                    )

    async def _own_people(self, rows: Sequence[PersonRow]) -> dict[str, str]:
        fields = [f"{OWN}{n}" for n, a in self.rules.own.items() if a.type is OwnType.PERSON]
        named = {v for r in rows for f in fields if (v := r.said.get(f))}
        keys = await self.unit.people.by_keys(named, named)
        return {k.employee_number: k.id for k in keys} | {k.user_name: k.id for k in keys}

    async def logins(self, rows: Sequence[PersonRow]) -> None:
        """Rows without a login get one as the rules make it; addresses are nobody else's."""
        used = {x: "somebody in the file" for r in rows if (x := r.said.get("user_name"))}
        open_ones = [r for r in rows if not r.rev and not r.said.get("user_name")]
        named = Counter(_names(r) for r in open_ones)
        for row in (r for r in open_ones if named[_names(r)] > ALIKE):
            row.fault("user_name", f"More than {ALIKE} rows have these names.", "Name the login.")
        open_ones = [r for r in open_ones if named[_names(r)] <= ALIKE]
        since = self.now - timedelta(days=self.rules.names.quarantine_days)
        given = [r.said["user_name"] for r in rows if not r.rev and r.said.get("user_name")]
        former = await self.unit.people.login_held_by(given, since, self.now)
        for row in rows:
            taken = former.get(row.said.get("user_name", ""))
            # An account of that login is linked to them; who has it as a person was found before.
            if taken and taken.by is Taken.QUARANTINE and not row.rev:
                row.fault("user_name", f"{taken.login}: {taken.told()}.", "Choose another login.")
        for _ in range(ROUNDS):
            asked = await to_thread(self._suggestions, open_ones, used)
            if not asked:
                break
            held = await self.unit.people.login_held_by(list(asked), since, self.now)
            used |= {login: taken.told() for login, taken in held.items()}
            for login, row in asked.items():
                if login not in held:
                    row.document["user_name"] = login
            open_ones = [r for r in open_ones if not r.document.get("user_name")]
        for row in open_ones:
            if not row.faults:
                row.fault("user_name", "No login can be made of the row.", "Name one.")
        await self._addresses(rows)

    def _suggestions(self, rows: Sequence[PersonRow], used: dict[str, str]) -> dict[str, PersonRow]:
        """The next login for each that one can be made of; it is used from then on."""
        asked: dict[str, PersonRow] = {}
        for row in rows:
            if name := self._suggested(row, used):
                asked[name], used[name] = row, "somebody in the file"
        return asked

    def _suggested(self, row: PersonRow, used: Mapping[str, str]) -> str:
        said = row.said
        fields = {
            "given": said.get("given_name", ""),
            "family": said.get("family_name", ""),
            "number": said.get("employee_number", ""),
            "department": said.get("department", ""),
            "site": said.get("site", ""),
            "mail_domain": next(iter(self.rules.names.domains), ""),
        }
        return suggest(NameKind.LOGIN, self.rules.names, fields, used, self.limits).name

    async def _addresses(self, rows: Sequence[PersonRow]) -> None:
        told = [(r, m) for r in rows if (m := (r.document.get("mail") or "").lower())]
        times = Counter(m for _, m in told)
        held = await self.unit.people.mail_held_by([m for _, m in told], self.now)
        for row, mail in told:
            if wrong := wrong_domain(mail, self.rules.names.domains):
                row.fault("mail", *wrong)
            mine = row.rev and self.before[row.person_id][0].mail.lower() == mail
            if times[mail] > 1:
                row.fault("mail", f"{mail} stands in another row as well.", "Correct one of them.")
            elif mail in held and not mine:
                row.fault("mail", f"{mail} is the address of {held[mail]}.", "Choose another one.")

    async def managers(self, rows: Sequence[PersonRow]) -> None:
        """Who is named as a manager: by login or number, in the file or not, or by a name of one person."""
        # Of two rows with one login or number the one without a fault is meant.
        said = sorted(rows, key=lambda r: not r.faults)
        inside = {x: r.person_id for r in said if (x := r.said.get("employee_number"))}
        inside |= {x: r.person_id for r in said if (x := r.document.get("user_name"))}
        named = {x for r in rows if (x := r.said.get("manager"))}
        known, wrong = await whom(self.unit, sorted(named - inside.keys()), NAMED)
        found = {name: person.id for name, person in known.items()} | inside
        for row in rows:
            if "manager" not in row.said:
                row.manager_id = self.before[row.person_id][0].manager_id if row.rev else None
                continue
            if name := row.said["manager"]:
                row.manager_id = found.get(name)
                if row.manager_id is None:
                    text = wrong[name].message
                    row.fault("manager", text, "Name the manager's login or number.")
            if row.rev:
                row.document["manager_id"] = row.manager_id
        await to_thread(self._differences, rows)

    def _differences(self, rows: Sequence[PersonRow]) -> None:
        for row in rows:
            if row.rev and not row.faults:
                self._difference(row)

    def _difference(self, row: PersonRow) -> None:
        """Of somebody who is known only what changes is kept."""
        person = self.before[row.person_id][0]
        said = {n: v for n, v in row.document.items() if n != "user_name"}
        after = with_fields(person, {n: v or None if n in DAYS else v for n, v in said.items()})
        row.document = {n: v for n, v in difference(person, after)[1].items() if n in said}
        if row.birthday and row.person_id not in self.born:
            row.document[BIRTHDAY] = row.birthday
        row.state = RowState.CHANGED if row.document else RowState.SAME

    async def alike(self, rows: Sequence[PersonRow]) -> None:
        """Somebody new who may be there already, or was declined."""
        new = [r for r in rows if r.state is RowState.NEW and not r.faults]
        people = await to_thread(lambda: [self._person(r) for r in new])
        by_login = {p.user_name: r for p, r in zip(people, new, strict=True)}
        born = {r.person_id: r.birthday for r in new if r.birthday}
        for like in await self.unit.people.like(people, born, self.now):
            row = by_login[like.new]
            if row.said.get("another", "").lower() in YES or row.faults:
                continue
            row.fault(
                "display_name" if like.same == "name" else like.same.replace(" ", "_"),
                f"{like.name} (no. {like.employee_number}, {like.user_name}, {like.department}) "
                f"{'has left and had' if like.has_left else 'has'} the same {like.same}.",
                f"The same person? {'yugum returner ' + like.user_name if like.has_left else 'Give their number'}. "
                "Another one? Say yes in a column Another.",
            )
        by_number = {p.employee_number: by_login[p.user_name] for p in people if p.employee_number}
        keys = [(p.user_name, p.employee_number) for p in people]
        for declined in await self.unit.declined.like(keys):
            same = (by_login.get(declined.user_name), by_number.get(declined.employee_number))
            for one in same:
                if one is not None and not one.faults:
                    one.fault(
                        "row",
                        f"{declined.display_name} was declined by {declined.author}: {declined.reason}.",
                        "If that is over, take them in by hand: yugum joiner --again.",
                    )

    def _person(self, row: PersonRow) -> Person:
        new = NewPerson(**row.document)  # type: ignore[arg-type]
        return made(new, row.person_id, row.manager_id, self.zone, self.now)


async def whose(unit: UnitOfWork, rows: Sequence[PersonRow]) -> dict[str, tuple[Person, int]]:
    """Who each row is about, by number and by login, with their revision."""
    logins = [x for r in rows if (x := r.said.get("user_name"))]
    numbers = [x for r in rows if (x := r.said.get("employee_number"))]
    keys = await unit.people.by_keys(logins, numbers)
    by_login = {k.user_name: k for k in keys}
    by_number: dict[str, list[str]] = {}
    for key in keys:
        by_number.setdefault(key.employee_number, []).append(key.id)
    for row in rows:
        login, number = row.said.get("user_name", ""), row.said.get("employee_number", "")
        named = by_login.get(login)
        ids = by_number.get(number, []) if number else []
        if len(ids) > 1:
            row.fault("employee_number", f"Several people have the number {number}.", "Merge them.")
        elif named and (number and named.employee_number and ids != [named.id]):
            row.fault(
                "user_name",
                f"The login {login} is that of no. {named.employee_number}.",
                "Correct the login or the number.",
            )
        elif ids or named:
            row.person_id = ids[0] if ids else named.id if named else ""
    return await unit.people.many([r.person_id for r in rows if r.person_id])


def _birthday(row: PersonRow) -> None:
    try:
        row.birthday = digest_in(row.said.pop(BIRTHDAY, ""))
    except InvalidInput as error:
        row.fault(BIRTHDAY, error.message, error.remedy)


def _names(row: PersonRow) -> tuple[str, str]:
    return row.said.get("given_name", ""), row.said.get("family_name", "")
