"""People from a file: every row is checked before any is taken; good ones are, the others come back."""

from __future__ import annotations

import uuid
from asyncio import to_thread
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime, timedelta
from functools import partial

from yugum.core.birthdays import cell_of
from yugum.core.documents import Document
from yugum.core.facts import Fields, difference, with_fields
from yugum.core.file_columns import BIRTHDAY, FileColumn, FileKind, columns_of
from yugum.core.lists import KnownValue
from yugum.core.people import Person
from yugum.core.people_file import (
    PersonRow,
    RowState,
    check_keys,
    check_managers,
    check_values,
    in_order,
    rows_of,
)
from yugum.core.requests import NewPerson
from yugum.core.sheets import Sheet, read_sheet, rejected, strike, struck
from yugum.engine.changes import fact_of, store_changes
from yugum.engine.context import load_rules, zone_of
from yugum.engine.entry import MOST_VALUES, above
from yugum.engine.events import make_event
from yugum.engine.file_rows import Checking
from yugum.engine.leaver_rows import LeaverChecking
from yugum.engine.linking import link_found
from yugum.engine.newcomers import made
from yugum.engine.own import decided_by, must_be_for_others
from yugum.errors import Conflict, Forbidden, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.people_files import FileRow, PeopleFile, PeopleFileLine
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork

KEPT = timedelta(days=30)
AGAIN = "Check the file of rejected rows."
PORTION = 500
TAKEN = 2000
"""Rows that are taken in one transaction: about a second."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How a file is to be read: its encoding, its columns (column: field), what empties a field.

    ``accepted`` are new values that are right, by field. With ``leave`` columns that nobody knows are left
    out until somebody says what they are.
    """

    encoding: str = ""
    columns: Mapping[str, str]
    empties: str = ""
    accepted: Mapping[KnownValue, Sequence[str]]
    leave: bool = False


class PeopleFiles:
    def __init__(self, database: Database, clock: Clock, vault: Vault) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault

    async def check(
        self, kind: FileKind, name: str, raw: bytes, reading: Reading, author: str
    ) -> PeopleFileLine:
        """Keep a file for thirty days and check every row of it. Nobody is made, changed or planned for yet.

        Raises:
            InvalidInput: it cannot be read, or what its columns are is not clear.
        """
        if reading.accepted and kind is FileKind.LEAVERS:
            raise InvalidInput(
                "Leavers have no new values.",
                place="new",
                remedy="Leave it out, or say kind=people.",
            )
        now = await self._clock.now()
        sheet = await to_thread(read_sheet, raw, reading.encoding)  # a long file takes a while
        # What only looks is no transaction: one that stands still while rows are read would be ended.
        async with self._database.unit(alone=True) as unit:
            own = (await load_rules(unit)).own
            columns = columns_of(sheet.head, own, reading.columns, kind=kind, leave=reading.leave)
            kept, sheet = await self._struck(raw, sheet, columns, now)
            file = PeopleFile(
                id=str(uuid.uuid4()),
                kind=kind,
                name=name,
                author=author,
                made_at=now,
                encoding=sheet.encoding,
                parting=sheet.parting,
                empties=reading.empties,
                columns=columns,
                accepted=reading.accepted,
            )
            file, rows = await _checked(unit, file, sheet, now)
        async with self._database.unit() as unit:
            await unit.people_files.drop_before(now - KEPT)
            await unit.people_files.add(file, kept)
            return await _put(unit, file, rows, now)

    async def again(self, file_id: str, reading: Reading, author: str) -> PeopleFileLine:
        """Check a kept file once more, against what is known by now or with other columns.

        Raises:
            Conflict: some of it has been taken: what is left is in the file of rejected rows.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            before = await unit.people_files.one(file_id)
            content = await unit.people_files.content(file_id)
            sheet = await to_thread(read_sheet, content, before.encoding)
            own = (await load_rules(unit)).own
            said = {c.name: c.field for c in before.columns if not c.secret} | dict(reading.columns)
            file = PeopleFile(
                id=before.id,
                kind=before.kind,
                name=before.name,
                author=author,
                made_at=before.made_at,
                encoding=before.encoding,
                parting=before.parting,
                empties=reading.empties,
                columns=columns_of(sheet.head, own, said, kind=before.kind, leave=True),
                accepted=reading.accepted,
            )
            kept, sheet = await self._struck(content, sheet, file.columns, now)
            file, rows = await _checked(unit, file, sheet, now)
        async with self._database.unit() as unit:
            await unit.people_files.hold(file_id)
            if (await unit.people_files.one(file_id)).taken:
                raise Conflict(
                    "Some rows of this file have been taken.",
                    remedy="Correct the file of rejected rows and check that one.",
                )
            await unit.people_files.change(file, kept)
            return await _put(unit, file, rows, now)

    async def _struck(
        self, raw: bytes, sheet: Sheet, columns: Sequence[FileColumn], now: datetime
    ) -> tuple[bytes, Sheet]:
        """The file with nothing of what nobody may keep: secrets are struck, birthdays become digests."""
        places: dict[int, Callable[[str], str]] = {
            i: strike for i, c in enumerate(columns) if c.secret
        }
        for i, column in enumerate(columns):
            if column.field == BIRTHDAY:
                places[i] = partial(cell_of, today=now.date(), digest=self._vault.digest)
        kept = await to_thread(struck, raw, sheet, places)
        if kept is raw:
            return raw, sheet
        return kept, await to_thread(read_sheet, kept, sheet.encoding)

    async def take(self, file_id: str, author: str) -> PeopleFileLine:
        """Take the next two thousand rows that are good; to be repeated until none is left.

        What was taken by somebody else since the check comes back as faulty. The same again takes nothing
        twice.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.people_files.hold(file_id)
            must_be_of(await unit.people_files.one(file_id), FileKind.PEOPLE)
            rows = await unit.people_files.to_take(file_id, TAKEN)
            good = await _still_good(unit, rows)
            good |= await _own(unit, good, author, now)
            await unit.people_files.refuse(file_id, [r for r in good.values() if r.faults])
            zone = await zone_of(unit)
            new = [
                made(NewPerson(**r.document), str(r.person_id), r.manager_id, zone, now)  # type: ignore[arg-type]
                for r in good.values()
                if r.state is RowState.NEW
            ]
            await unit.people.insert(new, now)
            born = {
                str(r.person_id): r.document.get(BIRTHDAY) for r in good.values() if not r.faults
            }
            said = await unit.birthdays.of(born)  # by somebody else, since the check
            await unit.birthdays.put({i: d for i, d in born.items() if d and i not in said})
            await unit.audit.add(
                [
                    make_event(now, author, "person.created", p.id, {"user_name": p.user_name})
                    for p in new
                ]
            )
            changed = await _changed(
                unit, [r for r in good.values() if r.state is RowState.CHANGED], author, now
            )
            await link_found(unit, [*new, *changed], now)
            await unit.people_files.taken(file_id, [r.line for r in good.values() if not r.faults])
            return await unit.people_files.one(file_id)

    async def rejected(self, file_id: str) -> tuple[bytes, str]:
        """The faulty rows in the file's own form with what is wrong, and its encoding."""
        async with self._database.unit() as unit:
            file = await unit.people_files.one(file_id)
            found: list[FileRow] = []
            cursor = None
            while True:
                page = await unit.people_files.rows(file_id, RowState.FAULTY, cursor, PORTION)
                found += page.items
                cursor = page.next
                if cursor is None:
                    break
        sheet = Sheet(
            encoding=file.encoding,
            parting=file.parting,
            line=1,
            head=tuple(c.name for c in file.columns),
            rows=(),
            odd={},
        )
        rows = [
            (
                r.line,
                r.cells,
                " ".join(f["text"] for f in r.faults),
                " ".join(f["remedy"] for f in r.faults),
            )
            for r in found
        ]
        return rejected(sheet, rows), file.encoding

    async def page(self, cursor: str | None, limit: int) -> ListPage[PeopleFileLine]:
        async with self._database.unit(alone=True) as unit:
            return await unit.people_files.page(cursor, limit)

    async def one(self, file_id: str) -> PeopleFileLine:
        async with self._database.unit(alone=True) as unit:
            return await unit.people_files.one(file_id)

    async def rows(
        self, file_id: str, state: RowState | None, cursor: str | None, limit: int
    ) -> ListPage[FileRow]:
        async with self._database.unit(alone=True) as unit:
            await unit.people_files.one(file_id)
            return await unit.people_files.rows(file_id, state, cursor, limit)

    async def drop(self, file_id: str, author: str) -> None:
        """What was kept of a file goes; whom it made stays."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.people_files.drop(file_id)
            await unit.audit.add([make_event(now, author, "people-file.dropped", file_id, {})])


def must_be_of(file: PeopleFile, kind: FileKind) -> None:
    """People are taken, leavers are planned.

    Raises:
        Conflict: the file is of the other kind.
    """
    if file.kind is not kind:
        other = "Take it." if file.kind is FileKind.PEOPLE else "Plan it, and confirm the plan."
        raise Conflict(f"{file.name} is a file of {file.kind.value}.", remedy=other)


async def _checked(
    unit: UnitOfWork, file: PeopleFile, sheet: Sheet, now: datetime
) -> tuple[PeopleFile, list[FileRow]]:
    """The file with its new values, and what came of each row."""
    rows = await to_thread(rows_of, sheet, file.columns, file.empties)
    if file.kind is FileKind.LEAVERS:
        await LeaverChecking.of(unit, rows, file.author, now)
        return file, await to_thread(lambda: [_kept(r) for r in rows])
    checking = await Checking.begin(unit, now)
    await checking.find(rows)
    await to_thread(check_keys, rows, await unit.people.numbers())
    known = {f: await unit.people.values(f, "", MOST_VALUES) for f in KnownValue}
    fresh = await to_thread(check_values, rows, known, file.accepted)
    await checking.values(rows)
    await checking.logins(rows)
    await checking.managers(rows)
    told = {r.manager_id for r in rows if r.manager_id and "manager" in r.said}
    await to_thread(check_managers, rows, await above(unit, told))
    await checking.alike(rows)
    await to_thread(in_order, rows)
    kept = await to_thread(lambda: [_kept(r) for r in rows])
    return replace(file, fresh=fresh), kept


async def _put(
    unit: UnitOfWork, file: PeopleFile, rows: Sequence[FileRow], now: datetime
) -> PeopleFileLine:
    await unit.people_files.put(file.id, rows)
    found = await unit.people_files.one(file.id)
    event: Document = {"name": file.name, **{s.value: getattr(found, s.value) for s in RowState}}
    await unit.audit.add([make_event(now, file.author, "people-file.checked", file.id, event)])
    return found


def _kept(row: PersonRow) -> FileRow:
    said = row.said
    login = row.document.get("user_name") or said.get("user_name", "")
    name = said.get("display_name") or f"{said.get('given_name', '')} {said.get('family_name', '')}"
    return FileRow(
        line=row.line,
        state=row.state,
        login=login,
        name=name.strip(),
        person_id=row.person_id or None,
        manager_id=row.manager_id,
        rev=row.rev,
        rank=row.rank,
        document={} if row.faults else row.document,
        faults=[asdict(f) for f in row.faults],
        cells=row.cells,
    )


async def _still_good(unit: UnitOfWork, rows: Sequence[FileRow]) -> dict[int, FileRow]:
    """The rows by line; with a fault those that do not fit what is known by now."""
    found = {r.line: r for r in rows}
    new = {str(r.document["user_name"]): r for r in rows if r.state is RowState.NEW}
    numbers = {n: r for r in new.values() if (n := str(r.document.get("employee_number") or ""))}
    for key in await unit.people.by_keys(new, numbers):
        for row, what in (
            (new.get(key.user_name), "login"),
            (numbers.get(key.employee_number), "number"),
        ):
            if row is not None:
                text = f"The {what} was given to somebody else meanwhile."
                found[row.line] = refused(row, text, AGAIN)
    changed = {str(r.person_id): r for r in rows if r.state is RowState.CHANGED}
    known = await unit.people.many({*changed, *(r.manager_id for r in rows if r.manager_id)})
    for person_id, row in changed.items():
        if person_id not in known or known[person_id][1] != row.rev:
            text = "The person was changed by somebody else meanwhile."
            found[row.line] = refused(row, text, AGAIN)
    there = set(known)
    for row in list(found.values()):  # managers first
        if row.faults:
            continue
        if row.manager_id and row.manager_id not in there:
            found[row.line] = refused(row, "Their manager was not taken.", AGAIN)
        else:
            there.add(str(row.person_id))
    return found


async def _own(
    unit: UnitOfWork, rows: Mapping[int, FileRow], author: str, now: datetime
) -> dict[int, FileRow]:
    """What somebody would decide about themselves by a file, refused unless nobody else could."""
    decides = await decided_by(unit, author)
    mine = [r for r in rows.values() if decides and r.person_id == decides.person_id]
    if not any(r.state is RowState.CHANGED for r in mine):
        return {}
    try:
        await must_be_for_others(
            unit, author, [str(r.person_id) for r in mine], "a correction from a file", now
        )
    except Forbidden as error:
        return {r.line: refused(r, error.message, error.remedy) for r in mine}
    return {}


def refused(row: FileRow, text: str, remedy: str) -> FileRow:
    """A row that was good, and is not any more."""
    fault = {"place": "row", "text": text, "remedy": remedy, "value": ""}
    return replace(row, state=RowState.FAULTY, faults=[fault])


async def _changed(
    unit: UnitOfWork, rows: Sequence[FileRow], author: str, now: datetime
) -> list[Person]:
    found = await unit.people.many([str(r.person_id) for r in rows])
    after, facts = [], []
    for row in rows:
        before, _ = found[str(row.person_id)]
        changes: Fields = {n: v for n, v in row.document.items() if n != BIRTHDAY}
        person = with_fields(before, changes)
        if difference(before, person)[1]:
            after.append(person)
            facts.append(fact_of(before, person, author, "from a file", now))
    await store_changes(unit, after, facts, now)
    return after
