"""Files of people and what came of their rows."""

from __future__ import annotations

from asyncio import to_thread
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.people_file import RowState
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.people_files import FileRow, PeopleFile, PeopleFileLine
from yugum.storage import tables as t
from yugum.storage.pages import Listing, fetch, listed
from yugum.storage.rows import among, read, read_all, reader, to_copy, to_json

COLUMNS = (
    *("file_id", "line", "state", "login", "name", "person_id", "manager_id", "rev", "rank"),
    *("document", "faults", "cells"),
)
VALUES = ("fresh", "accepted")
TO_TAKE = (RowState.NEW.value, RowState.CHANGED.value)


def _lines() -> sa.Select[Any]:
    f, r = t.people_files.c, t.people_file_rows.c
    count = sa.func.count()
    counts = (
        sa.select(*(count.filter(r.state == s.value).label(s.value) for s in RowState))
        .where(r.file_id == f.id)
        .lateral()
    )
    own = [c for c in f if c.name != "content"]
    return sa.select(*own, *counts.c).select_from(t.people_files).join(counts, sa.true())


LINES = _lines()
ROWS = sa.select(*(t.people_file_rows.c[n] for n in COLUMNS if n != "file_id"))


class PeopleFiles:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def add(self, file: PeopleFile, content: bytes) -> None:
        await self.connection.execute(
            sa.insert(t.people_files).values(**_row(file), content=content)
        )

    async def change(self, file: PeopleFile, content: bytes) -> None:
        f = t.people_files
        changed = sa.update(f).where(f.c.id == file.id)
        await self.connection.execute(changed.values(**_row(file), content=content))

    async def put(self, file_id: str, rows: Sequence[FileRow]) -> None:
        r = t.people_file_rows
        await self.connection.execute(sa.delete(r).where(r.c.file_id == file_id))
        raw = await self.connection.get_raw_connection()
        driver = raw.driver_connection
        assert driver is not None
        statement = f"COPY people_file_rows ({', '.join(COLUMNS)}) FROM STDIN"
        text = await to_thread(lambda: to_copy(_texts(file_id, rows)))
        async with driver.cursor() as cursor, cursor.copy(statement) as copy:
            await copy.write(text)

    async def hold(self, file_id: str) -> None:
        f = t.people_files.c
        await self.connection.execute(sa.select(f.id).where(f.id == file_id).with_for_update())

    async def one(self, file_id: str) -> PeopleFileLine:
        f = t.people_files.c
        row = (await self.connection.execute(LINES.where(f.id == file_id))).mappings().first()
        if row is None:
            raise _none(file_id)
        return read(PeopleFileLine, row)

    async def content(self, file_id: str) -> bytes:
        f = t.people_files.c
        found = await self.connection.scalar(sa.select(f.content).where(f.id == file_id))
        if found is None:
            raise _none(file_id)
        return bytes(found)

    async def page(self, cursor: str | None, limit: int) -> ListPage[PeopleFileLine]:
        f = t.people_files.c
        return await listed(
            self.connection,
            Listing(LINES, [f.made_at, f.id], chosen=sa.select(f.id)),
            reader(PeopleFileLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def rows(
        self, file_id: str, state: RowState | None, cursor: str | None, limit: int
    ) -> ListPage[FileRow]:
        r = t.people_file_rows.c
        query = ROWS.where(r.file_id == file_id)
        if state is not None:
            query = query.where(r.state == state.value)
        return await fetch(
            self.connection,
            query,
            [r.line],
            reader(FileRow),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def to_take(self, file_id: str, limit: int) -> Sequence[FileRow]:
        r = t.people_file_rows.c
        query = (
            ROWS.where(r.file_id == file_id, r.state.in_(TO_TAKE))
            .order_by(r.rank, r.line)
            .limit(limit)
        )
        return read_all(FileRow, await self.connection.execute(query))

    async def taken(self, file_id: str, lines: Sequence[int]) -> None:
        r = t.people_file_rows
        await self.connection.execute(
            sa.update(r)
            .where(r.c.file_id == file_id, r.c.line == sa.any_(sa.literal(list(lines), t.Numbers)))
            .values(state=RowState.TAKEN.value, document={})
        )

    async def taken_for(self, file_id: str, person_ids: Sequence[str]) -> None:
        r = t.people_file_rows
        await self.connection.execute(
            sa.update(r)
            .where(r.c.file_id == file_id, among(r.c.person_id, person_ids))
            .where(r.c.state.in_(TO_TAKE))
            .values(state=RowState.TAKEN.value, document={})
        )

    async def refuse(self, file_id: str, rows: Sequence[FileRow]) -> None:
        values = [{"line": r.line, "faults": r.faults} for r in rows]
        await self.connection.execute(
            sa.text(
                """UPDATE people_file_rows r SET state = 'faulty', faults = x.faults
                   FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS x(line int, faults jsonb)
                   WHERE r.file_id = :file AND r.line = x.line"""
            ),
            {"rows": to_json(values), "file": file_id},
        )

    async def drop(self, file_id: str) -> None:
        f = t.people_files
        gone = await self.connection.execute(sa.delete(f).where(f.c.id == file_id))
        if not gone.rowcount:
            raise _none(file_id)

    async def drop_before(self, moment: datetime) -> None:
        f = t.people_files
        await self.connection.execute(sa.delete(f).where(f.c.made_at < moment))


def _row(file: PeopleFile) -> dict[str, Any]:
    """A file as its row: the codec takes no keys but plain texts."""
    plain = {name: {f.value: v for f, v in getattr(file, name).items()} for name in VALUES}
    return {**asdict(file), **plain}


def _texts(file_id: str, rows: Iterable[FileRow]) -> Iterable[Sequence[str | None]]:
    for r in rows:
        yield (
            *(file_id, str(r.line), r.state.value, r.login, r.name, r.person_id, r.manager_id),
            *(str(r.rev), str(r.rank), _json(r.document), _json(r.faults), _json(r.cells)),
        )


def _json(value: Mapping[str, Any] | Sequence[Any]) -> str:
    return to_json(value)  # type: ignore[arg-type]


def _none(file_id: str) -> NotFound:
    return NotFound(
        f"There is no file {file_id}.",
        place="file",
        remedy="See: yugum people files. They are kept for thirty days.",
    )
