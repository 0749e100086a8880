"""Rows of a file of leavers against what is known: who leaves when, and whether that can be planned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import date, datetime

from yugum.core.causes import LeaverCause
from yugum.core.conditions import fold
from yugum.core.dockets import Docket
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.people_file import PersonRow, RowState, check_keys
from yugum.core.requests import NO_TERMS, PlanRequest, Terms
from yugum.core.roles import Rules
from yugum.core.verbs import Verb
from yugum.engine.context import load_rules
from yugum.engine.file_rows import whose
from yugum.engine.heirs import check_successor
from yugum.engine.own import decided_by
from yugum.engine.plans.meanings import Meaning, meaning_of
from yugum.engine.whom import whom
from yugum.errors import Conflict, InvalidInput, YugumError
from yugum.ports.operators import OperatorRecord
from yugum.ports.units import UnitOfWork

NAMED = 200
"""People who are looked for by their names; more are to be told by login or number."""
DATES = ("at", "since", "last_day", "contract_ends")


@dataclass(slots=True)
class LeaverChecking:
    """One check of rows that say who leaves."""

    unit: UnitOfWork
    now: datetime
    rules: Rules
    before: dict[str, tuple[Person, int]] = field(default_factory=dict)
    meanings: dict[int, Meaning] = field(default_factory=dict)

    @classmethod
    async def of(
        cls, unit: UnitOfWork, rows: Sequence[PersonRow], author: str, now: datetime
    ) -> None:
        """Check rows: each gets what is to be planned, or its faults."""
        checking = cls(unit, now, await load_rules(unit))
        await checking._people(rows)
        check_keys(rows, await unit.people.numbers())
        checking._once(rows)
        checking._own(rows, await decided_by(unit, author))
        for row in rows:
            if not row.faults:
                checking._dates(row)
        await checking._successors(rows)
        await checking._known(rows)

    # --- who ---------------------------------------------------------------------------------

    async def _people(self, rows: Sequence[PersonRow]) -> None:
        self.before = await whose(self.unit, rows)
        unknown = [r for r in rows if not r.person_id and not r.faults]
        names = [n for r in unknown if (n := r.said.get("display_name"))]
        found, wrong = await whom(self.unit, names, NAMED)
        for row in unknown:
            self._by_name(row, found, wrong)
        self.before |= await self.unit.people.many([r.person_id for r in unknown if r.person_id])
        for row in rows:
            person, row.rev = self.before.get(row.person_id, (None, 0))
            if person is not None:
                self._meant(row, person)

    @staticmethod
    def _by_name(
        row: PersonRow,
        found: Mapping[str, Person],
        wrong: Mapping[str, YugumError],
    ) -> None:
        """Nobody has the row's login or number: by a name alone one person may be meant."""
        name = row.said.get("display_name", "")
        told = [
            (n, f"the {what} {row.said[n]}")
            for n, what in (("user_name", "login"), ("employee_number", "number"))
            if row.said.get(n)
        ]
        if told:
            text = f"Nobody has {' or '.join(t for _, t in told)}."
            remedy = "Correct it, or leave out the row."
            if meant := found.get(name):
                remedy = f"{full_name(meant)} is {meant.user_name}, no. {meant.employee_number}: correct it."
            row.fault(told[0][0], text, remedy)
        elif name in found:
            row.person_id = found[name].id
        elif name:
            row.fault("display_name", wrong[name].message, wrong[name].remedy or "Give a login.")
        else:
            row.fault("row", "The row names nobody.", "Give a login or a number.")

    def _meant(self, row: PersonRow, person: Person) -> None:
        """The row's login and name are that person's: a mistyped number must not be somebody's end."""
        login = row.said.get("user_name", person.user_name)
        name = row.said.get("display_name", "")
        who = f"No. {person.employee_number}" if row.said.get("employee_number") else login
        names = {
            fold(x)
            for x in (
                full_name(person),
                person.display_name,
                f"{person.given_name} {person.family_name}",
                f"{person.family_name} {person.given_name}",
                f"{person.family_name}, {person.given_name}",
            )
        }
        if login != person.user_name:
            row.fault("user_name", f"{who} is {person.user_name}, not {login}.", "Correct one.")
        elif name and fold(name) not in names:
            row.fault("display_name", f"{who} is {full_name(person)}, not {name}.", "Correct one.")
        elif state_at(person, self.now) is PersonState.LEFT:
            row.fault(
                "row",
                f"{full_name(person)} has left already.",
                f"If an account is still open: yugum leaver {person.user_name}.",
            )

    @staticmethod
    def _once(rows: Sequence[PersonRow]) -> None:
        first: dict[str, int] = {}
        for row in rows:
            line = first.setdefault(row.person_id, row.line) if row.person_id else row.line
            if line != row.line and not row.faults:
                text = f"The same person stands in line {line} as well."
                row.fault("row", text, "Leave out the row that is wrong.")

    @staticmethod
    def _own(rows: Sequence[PersonRow], decides: OperatorRecord | None) -> None:
        mine = decides.person_id if decides else None
        for row in rows:
            if mine and row.person_id == mine and not row.faults:
                text = "You cannot make yourself a leaver."
                row.fault("row", text, "Ask another operator to do it.")

    # --- when --------------------------------------------------------------------------------

    def _dates(self, row: PersonRow) -> None:
        said = {n: row.said.get(n, "") for n in DATES}
        if said["last_day"] and not said["at"] and not said["since"]:
            said["at"] = said["last_day"]
        if not said["at"] and not said["since"]:
            row.fault("at", "The row does not say when.", "Write a day, a moment, or now.")
            return
        person = self.before[row.person_id][0]
        request = PlanRequest(verb=Verb.LEAVER, each={person.id: Terms(**said)}).of(person.id)
        try:
            meaning = meaning_of(request, person, self.rules.working_hours, self.now)
        except (InvalidInput, Conflict) as error:
            past = error.place == "at" and error.message.endswith("is past.")
            remedy = "Who has left already: in a column Left on." if past else error.remedy
            row.fault(_place(error, said), error.message, remedy or "Correct it.")
            return
        self.meanings[row.line] = meaning
        row.said["user_name"] = person.user_name
        after = meaning.after
        row.document = {
            "at": "" if meaning.effective else _moment(meaning.due, self.now),
            "since": meaning.effective.isoformat() if meaning.effective else "",
            "last_day": _day(after.last_working_day),
            "contract_ends": _day(after.contract_ends) if said["contract_ends"] else "",
            "reason": row.said.get("reason", ""),
            "reference": row.said.get("reference", ""),
        }

    # --- to whom -----------------------------------------------------------------------------

    async def _successors(self, rows: Sequence[PersonRow]) -> None:
        leaving = {r.person_id: r.line for r in rows if r.line in self.meanings}
        named = [w for r in rows if (w := r.said.get("successor"))]
        heirs, wrong = await whom(self.unit, named, NAMED)
        for row in rows:
            who = row.said.get("successor", "")
            if not who or row.line not in self.meanings:
                continue
            if who in wrong:
                row.fault("successor", wrong[who].message, "Name a login or a number.")
                continue
            heir = heirs[who]
            try:
                leaver = {row.person_id: self.before[row.person_id][0]}
                check_successor(heir, leaver, self.meanings[row.line].due)
            except InvalidInput as error:
                row.fault("successor", error.message, error.remedy)
                continue
            if line := leaving.get(heir.id):
                text = f"{full_name(heir)} leaves as well, in line {line}."
                row.fault("successor", text, "Name somebody who stays.")
            row.document["successor"] = heir.user_name

    async def _known(self, rows: Sequence[PersonRow]) -> None:
        """What is planned already: the same again says nothing new."""
        ids = [r.person_id for r in rows if r.line in self.meanings]
        dockets = await self.unit.dockets.not_begun(ids, Verb.LEAVER)
        for row in rows:
            docket = dockets.get(row.person_id)
            if row.faults or docket is None:
                continue
            row.state = RowState.SAME if self._same(row, docket) else RowState.CHANGED

    def _same(self, row: PersonRow, docket: Docket) -> bool:
        before, after = self.before[row.person_id][0], self.meanings[row.line].after
        cause = docket.cause
        own = (row.document["reference"], row.document["reason"], row.document.get("successor", ""))
        was = (docket.reference, docket.reason, getattr(cause, "successor", ""))
        return (
            isinstance(cause, LeaverCause)
            and before == after
            and all(now in ("", then) for now, then in zip(own, was, strict=True))
        )


def terms_of(document: Mapping[str, str | None]) -> Terms:
    """What a row that was checked says of one person."""
    return Terms(**{n: document.get(n) or "" for n in asdict(NO_TERMS)})


def _place(error: InvalidInput | Conflict, said: Mapping[str, str]) -> str:
    """The field that is wrong: a date that cannot be read does not say which one it was."""
    if not isinstance(error, InvalidInput):
        return "row"
    for name, text in said.items():
        if text and f"'{text}'" in error.message:
            return name
    return error.place if error.place in said else "at"


def _moment(due: datetime, now: datetime) -> str:
    return "now" if due <= now else due.isoformat()


def _day(day: date | None) -> str:
    return day.isoformat() if day else ""
