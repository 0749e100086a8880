"""Leavers from a file: the rows that are good become a plan, which is looked at and confirmed like any other."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import asdict, replace

from yugum.core.file_columns import FileKind
from yugum.core.people_file import PersonRow, RowState
from yugum.core.requests import MOST_AT_ONCE, PlanRequest
from yugum.core.roles import GuardForce
from yugum.core.verbs import Verb
from yugum.engine.leaver_rows import LeaverChecking, terms_of
from yugum.engine.people_files import must_be_of, refused
from yugum.engine.plans.kept import BatchView
from yugum.engine.plans.plans import Plans
from yugum.engine.plans.safeguards import Actor
from yugum.errors import Conflict
from yugum.ports.clock import Clock
from yugum.ports.people_files import FileRow
from yugum.ports.units import Database

BLOCKED = (GuardForce.BLOCK, GuardForce.OVERRIDE)


class LeaverFiles:
    def __init__(self, database: Database, clock: Clock, plans: Plans) -> None:
        self._database = database
        self._clock = clock
        self._plans = plans

    async def plan(self, file_id: str, actor: Actor) -> BatchView:
        """A plan for the next five hundred good rows; they are taken once it is confirmed.

        What does not fit any more, and whom a guard protects, comes back as faulty and holds up nobody
        else.

        Raises:
            Conflict: it is no file of leavers, or no row is left that could be planned.
        """
        rows = await self._still_good(file_id, actor)
        _must_be_left(rows)
        request = PlanRequest(
            verb=Verb.LEAVER,
            who=tuple(rows),
            file=file_id,
            each={i: terms_of(r.document) for i, r in rows.items()},
        )
        batch = await self._plans.prepare(request, actor)
        blocked = {
            p.subject_id: c.text
            for p in batch.plans
            for c in reversed(p.notes.cautions)
            if c.blocks in BLOCKED
        }
        if not blocked:
            return batch
        held = [
            refused(rows[i], text, f"Plan it by hand: yugum leaver {rows[i].login}.")
            for i, text in blocked.items()
        ]
        async with self._database.unit() as unit:
            await unit.people_files.refuse(file_id, held)
            await unit.plans.leave_out(batch.id, list(blocked))
        _must_be_left(rows.keys() - blocked.keys())
        return await self._plans.show(batch.id, actor)

    async def _still_good(self, file_id: str, actor: Actor) -> dict[str, FileRow]:
        """The next rows by person, as they fit what is known by now."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            must_be_of(await unit.people_files.one(file_id), FileKind.LEAVERS)
            rows = await unit.people_files.to_take(file_id, MOST_AT_ONCE)
            again = [_again(r) for r in rows]
            await LeaverChecking.of(unit, again, actor.login, now)
        found = {r.line: r for r in rows}
        gone = [
            replace(found[r.line], state=r.state, faults=[asdict(f) for f in r.faults])
            for r in again
            if r.faults
        ]
        # What was planned by somebody else meanwhile as it stands here is done.
        done = [r.person_id for r in again if r.state is RowState.SAME]
        if gone or done:
            async with self._database.unit() as unit:
                await unit.people_files.refuse(file_id, gone)
                await unit.people_files.taken_for(file_id, done)
        return {
            r.person_id: replace(found[r.line], document=r.document)
            for r in again
            if not r.faults and r.state is not RowState.SAME
        }


def _must_be_left(rows: Collection[str]) -> None:
    if not rows:
        raise Conflict(
            "No row of the file is left to be planned.",
            remedy="Correct the rejected rows, and check that file.",
        )


def _again(row: FileRow) -> PersonRow:
    """A row that was checked, to be checked against what is known by now."""
    said = {n: v for n, v in row.document.items() if v}
    return PersonRow(line=row.line, cells=tuple(row.cells), said={**said, "user_name": row.login})
