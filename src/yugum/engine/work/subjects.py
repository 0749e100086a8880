"""Subjects under a lease: their dockets begun, their lanes run side by side, and their end."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Coroutine, Iterable, Mapping, Sequence

import structlog

from yugum.core.actions import Phase
from yugum.core.dockets import Docket, Step
from yugum.engine.context import load_applications
from yugum.engine.work.batching import Batcher
from yugum.engine.work.begin import Beginner
from yugum.engine.work.endings import Endings
from yugum.engine.work.held import HeldLeases
from yugum.engine.work.lanes import Lane
from yugum.engine.work.sharing import Sharing
from yugum.engine.work.tools import LaneTools
from yugum.errors import LeaseLost
from yugum.ports.leases import Lease
from yugum.ports.units import Database, UnitOfWork

log = structlog.get_logger("yugum.worker")
ENDING_SECONDS = 0.1
"""How long ended subjects are collected: nobody waits for this, and cut-offs need the machine."""


class Subjects:
    """What a worker has in hand."""

    def __init__(
        self,
        database: Database,
        tools: LaneTools,
        sharing: Sharing,
        beginner: Beginner,
        endings: Endings,
        held: HeldLeases,
        hint: Callable[[], None],
    ) -> None:
        self._database = database
        self._tools = tools
        self._precedence = tools.precedence
        self._sharing = sharing
        self._beginner = beginner
        self._held = held
        self._hint = hint
        self._enders: Batcher[Lease, bool] = Batcher(endings.end, linger=lambda: ENDING_SECONDS)
        self._followers: Batcher[str, Sequence[Step]] = Batcher(self._later_steps)
        self.tasks: set[asyncio.Task[None]] = set()
        self.done = 0
        """How many subjects were taken up and let go of."""

    async def take_up(self, leases: Sequence[Lease]) -> None:
        """Begin the due dockets of one claim and start their lanes; each subject ends by itself.

        One claim is taken up after the other, so that the first one's lanes start as early as can
        be. What has to be planned again, which takes calls, is waited for by nobody else.
        """
        ids = [lease.subject_id for lease in leases]
        try:
            with self._precedence.ahead():  # until its lanes are known it may be the most urgent
                async with self._database.unit() as unit:
                    again = await self._beginner.begin(unit, ids)
                    stale = {row.subject_id for row in again}
                    ready = [x for x in leases if x.subject_id not in stale]
                    lanes = await self._loaded(unit, ready)
        except Exception as error:  # noqa: BLE001 - one subject ends nobody else's work
            self.spawn(self._give_back(leases, error))
            return
        if ready:
            self.spawn(self._run_lanes(ready, lanes))
        if again:
            rest = [x for x in leases if x.subject_id in stale]
            self.spawn(self._take_up_again(rest, again))

    async def _take_up_again(self, leases: Sequence[Lease], rows: Sequence[Docket]) -> None:
        """Plan dockets again, begin them and run their lanes."""
        try:
            with self._precedence.ahead():
                await self._beginner.plan_again(rows)
                async with self._database.unit() as unit:
                    lanes = await self._loaded(unit, leases)
        except Exception as error:  # noqa: BLE001 - one subject ends nobody else's work
            await self._give_back(leases, error)
            return
        await self._run_lanes(leases, lanes)

    async def _run_lanes(
        self, leases: Sequence[Lease], lanes: Mapping[str, Mapping[str, Lane]]
    ) -> None:
        await asyncio.gather(*(self._subject(x, lanes.get(x.subject_id, {})) for x in leases))

    def spawn(self, work: Coroutine[None, None, None]) -> None:
        """Go on with something beside everything else; at the end it is waited for."""
        task = asyncio.create_task(work)
        self.tasks.add(task)
        task.add_done_callback(self.tasks.discard)

    async def _loaded(
        self, unit: UnitOfWork, leases: Sequence[Lease]
    ) -> dict[str, dict[str, Lane]]:
        """The first lanes of some subjects, by subject and account.

        Of whose first step anywhere is a cut-off only that is loaded: everything else waits for it.
        """
        ids = [lease.subject_id for lease in leases]
        steps = list(await unit.dockets.open_steps(ids, Phase.SECURE))
        cut = {s.subject_id for s in steps}
        if others := [i for i in ids if i not in cut]:
            steps += await unit.dockets.open_steps(others)
        return await self._made(unit, leases, steps)

    async def _made(
        self, unit: UnitOfWork, leases: Sequence[Lease], steps: Sequence[Step]
    ) -> dict[str, dict[str, Lane]]:
        """Lanes for some steps, by subject and account."""
        epochs = {lease.subject_id: lease.epoch for lease in leases}
        accounts = await unit.accounts.some({s.account_id for s in steps})
        applications = await load_applications(unit)
        touched = {s.application_id for s in steps}
        if any(self._sharing.is_new(applications[a]) for a in touched):
            await self._sharing.share(unit, {a: applications[a] for a in touched})
        grouped: dict[tuple[str, str], list[Step]] = {}
        for step in steps:
            grouped.setdefault((step.subject_id, step.account_id), []).append(step)
        lanes: dict[str, dict[str, Lane]] = {}
        for (subject_id, account_id), mine in grouped.items():
            application = applications[mine[0].application_id]
            account = accounts.get(account_id)
            lane = Lane(self._tools, application, epochs[subject_id], mine, account)
            lanes.setdefault(subject_id, {})[account_id] = lane
        return lanes

    async def _subject(self, lease: Lease, lanes: Mapping[str, Lane]) -> None:
        """Run a subject's lanes side by side, then end what has ended."""
        outcome = await self._side_by_side(lease, (x.run() for x in lanes.values()))
        try:
            if outcome is None and any(x.cuts for x in lanes.values()):
                outcome = await self._follow(lease, lanes)
            if outcome is LeaseLost:
                await self._held.hand_back(lease)
                self._hint()
            elif outcome is None:  # else the lease runs out, and whoever is there takes it up
                await self._enders.submit(lease)
        except Exception as error:  # noqa: BLE001 - one subject ends nobody else's work
            log.warning("end failed", subject=lease.subject_id, error=str(error))
        finally:
            self._held.let_go([lease])
            self.done += 1

    async def _side_by_side(
        self, lease: Lease, runs: Iterable[Awaitable[None]]
    ) -> type[BaseException] | None:
        """Run lanes; what went wrong in any of them, a lost lease before all else."""
        results = await asyncio.gather(*runs, return_exceptions=True)
        wrong: type[BaseException] | None = None
        for result in results:
            if isinstance(result, LeaseLost):
                log.info("lease lost", subject=lease.subject_id)
                wrong = LeaseLost
            elif isinstance(result, BaseException):
                log.error("lane failed", subject=lease.subject_id, error=repr(result))
                wrong = wrong or type(result)
        return wrong

    async def _follow(self, lease: Lease, lanes: Mapping[str, Lane]) -> type[BaseException] | None:
        """What comes after cut-offs, once those of everybody are through."""
        await self._precedence.wait()
        grouped: dict[str, list[Step]] = {}
        for step in await self._followers.submit(lease.subject_id):
            grouped.setdefault(step.account_id, []).append(step)
        new = [s for a, mine in grouped.items() if a not in lanes for s in mine]
        runs = [lanes[a].go_on(s) for a, s in grouped.items() if a in lanes and lanes[a].open]
        if new:
            async with self._database.unit() as unit:
                made = await self._made(unit, [lease], new)
            runs += [lane.run() for lane in made[lease.subject_id].values()]
        return await self._side_by_side(lease, runs)

    async def _later_steps(self, subject_ids: Sequence[str]) -> Sequence[Sequence[Step]]:
        async with self._database.unit() as unit:
            steps = await unit.dockets.open_steps(subject_ids)
        found: dict[str, list[Step]] = {}
        for step in steps:
            found.setdefault(step.subject_id, []).append(step)
        return [found.get(i, []) for i in subject_ids]

    async def _give_back(self, leases: Sequence[Lease], error: Exception) -> None:
        """After a failure of our own: let the leases run out, so that nothing spins."""
        log.warning("portion failed", subjects=len(leases), error=str(error), exc_info=error)
        await asyncio.sleep(1.0)
        self._held.let_go(leases)
