"""A worker: claims due subjects under leases, runs their lanes, ends their dockets.

Any number of workers on any number of machines do this side by side; the lease is the only truth
about who works on what.
"""

from __future__ import annotations

import asyncio
import os
import signal
import time
from collections.abc import Awaitable, Callable, Coroutine, Iterable, Mapping, Sequence
from dataclasses import asdict
from typing import Any

import structlog

from yugum.core.actions import Phase
from yugum.core.applications import Application
from yugum.core.dockets import Step
from yugum.engine.approvals import Approvals
from yugum.engine.audit import Sealer
from yugum.engine.batching import Batcher
from yugum.engine.begin import Beginner
from yugum.engine.context import load_applications, load_rules
from yugum.engine.events import make_event
from yugum.engine.journal import Journal
from yugum.engine.lanes import Lane, LaneTools
from yugum.engine.mails import Mails, notify
from yugum.engine.obligations import follow_rules, renew_obligations
from yugum.engine.permits import Permits
from yugum.engine.precedence import Lookback, Precedence
from yugum.engine.readings import Readings
from yugum.engine.schedule import tick
from yugum.engine.tasks import Tasks
from yugum.errors import LeaseLost
from yugum.ports import (
    Clock,
    Connectors,
    Database,
    DocketRow,
    Lease,
    Row,
    Signer,
    UnitOfWork,
    Vault,
)
from yugum.settings import Settings

log = structlog.get_logger("yugum.worker")

CROWD_SECONDS = 0.08
BRIEF_SECONDS = 0.01
"""How long intents are gathered while more cut-offs wait than there are permits: a transaction for
one or two of them costs as much as for twenty."""
READ_SECONDS = 5.0
MAIL_SECONDS = 1.0
CUTTING_SECONDS = 0.25
"""How often workers tell each other of cut-offs in hand; what they said is good for four times that."""
GROWTH = 2
"""How much more is claimed after a portion that was full: the first calls go out early, and the
next portion is loaded by the time the calls of the one before are made."""
SLICE_SECONDS = 3.0
"""How long a worker's share of an application's permits is good for."""
ENDING_SECONDS = 0.1
"""How long ended subjects are collected: nobody waits for this, and cut-offs need the machine."""


class Worker:
    """Runs until its stop event is set; ``hint`` makes it look for work at once."""

    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        vault: Vault,
        signer: Signer,
        settings: Settings,
        name: str,
        mails: Mails,
        approvals: Approvals,
    ) -> None:
        self.name = name
        self._database = database
        self._vault = vault
        self._settings = settings
        self._clock = clock
        self._connectors = connectors
        self._precedence = Precedence()
        self._lookback = Lookback()
        self._journal = Journal(database, clock, f"worker {name}", self._linger, self._brief)
        self._mails = mails
        self._approvals = approvals
        self._beginner = Beginner(database, connectors, clock, f"worker {name}", approvals)
        self._readings = Readings(database, connectors, clock)
        self._owners = Tasks(database, clock)
        self._sealer = Sealer(database, signer)
        self._enders: Batcher[Lease, bool] = Batcher(self._end, linger=lambda: ENDING_SECONDS)
        self._followers: Batcher[str, Sequence[Step]] = Batcher(self._later_steps)
        self._permits: dict[str, Permits] = {}
        self._applications: dict[str, Application] = {}
        self._stop_row: Row | None = None
        self._good_until: dict[tuple[str, int], float] = {}
        self._portion_size = settings.claim
        self._hinted = asyncio.Event()
        self._intents = 0
        self._sealed = 0.0
        self._tasks: set[asyncio.Task[None]] = set()
        self.subjects_done = 0
        self._tools = LaneTools(
            database=database,
            connectors=connectors,
            clock=clock,
            vault=vault,
            journal=self._journal,
            permits=self._permits_of,
            precedence=self._precedence,
            lookback=self._lookback,
            check=self._check,
            retry_base=settings.retry_base_seconds,
            on_intent=self._count_intent,
            stopped=self._stopped,
            pause=self._pause,
            ceiling=self._ceiling,
        )

    def _linger(self) -> float:
        """With more lanes than permits a step may wait for its row: others use the time."""
        crowd = self._precedence.count > 2 * self._settings.concurrency
        return CROWD_SECONDS if crowd else 0.0

    def _brief(self) -> float:
        """With many cut-offs waiting for a permit, others use those while intents are gathered."""
        crowd = self._lookback.left > 4 * self._settings.concurrency
        return BRIEF_SECONDS if crowd else 0.0

    def hint(self) -> None:
        """Something may be due."""
        self._hinted.set()

    async def run(self, stop: asyncio.Event) -> None:
        """Work until ``stop``; then finish the steps in hand and give the leases back."""
        loops = [
            asyncio.create_task(self._every(self._settings.tick_seconds, self._tick, stop)),
            asyncio.create_task(self._every(self._settings.lease_seconds / 4, self._renew, stop)),
            asyncio.create_task(self._every(1.0, self._seal, stop)),
            asyncio.create_task(self._every(READ_SECONDS, self._read, stop)),
            asyncio.create_task(self._every(SLICE_SECONDS / 3, self._share, stop)),
            asyncio.create_task(self._every(CUTTING_SECONDS, self._give_way, stop)),
            asyncio.create_task(self._every(MAIL_SECONDS, self._mail, stop)),
            asyncio.create_task(self._every(1.0, self._follow_rules, stop)),
        ]
        try:
            await self._pump(stop)
            if self._tasks:
                await asyncio.wait(self._tasks, timeout=self._settings.call_timeout)
            await self._leave()
        finally:
            for task in (*loops, *self._tasks):
                task.cancel()
            await asyncio.gather(*loops, *self._tasks, return_exceptions=True)

    async def _every(self, seconds: float, call: Callable[[], object], stop: asyncio.Event) -> None:
        while not stop.is_set():
            try:
                await call()  # type: ignore[misc]
            except Exception as error:  # a database away for a moment must not end the worker
                log.warning("loop failed", call=call.__name__, error=str(error))
            await _wait(stop, seconds)

    async def _read(self) -> None:
        await self._readings.read_due(f"worker {self.name}")

    async def _follow_rules(self) -> None:
        while not self._precedence.count and await follow_rules(
            self._database, await self._clock.now()
        ):
            await asyncio.sleep(0)

    async def _mail(self) -> None:
        if self._good_until and self._precedence.count:
            return  # somebody is being cut off: mail can wait
        await self._mails.tell_credentials()
        await self._mails.deliver()

    async def _tick(self) -> None:
        now = await self._clock.now()
        await self._owners.press(now)
        await self._approvals.press(now)
        if await tick(self._database, now, self._mails.remind):
            self.hint()

    async def _seal(self) -> None:
        """Seal when there is nothing to cut off; under steady work every ten seconds."""
        if self._good_until and time.monotonic() - self._sealed < 10:
            return
        await self._sealer.seal_all()
        self._sealed = time.monotonic()

    async def _pump(self, stop: asyncio.Event) -> None:
        while not stop.is_set():
            self._hinted.clear()
            try:
                more = await self._claim()
            except Exception as error:
                log.warning("claim failed", error=str(error))
                more = False
                await _wait(stop, 1.0)
            if not more:
                hinted = asyncio.create_task(self._hinted.wait())
                stopping = asyncio.create_task(stop.wait())
                await asyncio.wait(
                    {hinted, stopping},
                    timeout=self._settings.tick_seconds,
                    return_when=asyncio.FIRST_COMPLETED,
                )
                hinted.cancel()
                stopping.cancel()

    async def _claim(self) -> bool:
        """Claim a portion of what is due; whether there is likely to be more."""
        room = self._settings.lanes - len(self._good_until)
        full = room <= 0  # of bulk work perhaps: somebody who leaves is taken in all the same
        if full and room <= -self._settings.lanes:
            await asyncio.sleep(0.05)
            return True
        asked = time.monotonic()
        seconds = self._settings.lease_seconds
        limit = self._settings.claim if full else min(room, self._portion_size)
        async with self._database.unit() as unit:
            leases = await unit.leases.claim(self.name, limit, seconds, most_urgent=full)
        if full and not leases:
            await asyncio.sleep(0.05)
            return True
        for lease in leases:
            self._good_until[(lease.subject_id, lease.epoch)] = asked + seconds
        if leases:
            await self._take_up(leases)
        more = len(leases) == limit
        if more and limit == self._settings.claim:
            self._spawn(self._call_others())
        grown = min(self._portion_size * GROWTH, self._settings.lanes)
        self._portion_size = grown if more else self._settings.claim
        return more

    async def _renew(self) -> None:
        if not self._good_until:
            return
        asked = time.monotonic()
        seconds = self._settings.lease_seconds
        async with self._database.unit() as unit:
            held = [subject_id for subject_id, _ in self._good_until]
            renewed = await unit.leases.renew(self.name, held, seconds)
        for lease in renewed:
            key = (lease.subject_id, lease.epoch)
            if key in self._good_until:
                self._good_until[key] = asked + seconds

    def _check(self, subject_id: str, epoch: int, timeout: float) -> None:
        """No call starts unless the lease outlives its timeout."""
        good = self._good_until.get((subject_id, epoch), 0.0)
        if time.monotonic() + min(timeout, self._settings.lease_seconds / 2) > good:
            raise LeaseLost(f"The lease on {subject_id} does not last for another call.")

    def _permits_of(self, application_id: str) -> Permits:
        return self._permits[application_id]

    async def _share(self, applications: Mapping[str, Application] | None = None) -> None:
        """Renew this worker's shares of the applications it calls, and see who has stopped what."""
        if applications is not None:
            self._applications |= applications
        async with self._database.unit() as unit:
            self._stop_row = await unit.gates.stopped()
            if applications is None and not self._good_until:
                return
            shares = await unit.gates.share(self.name, list(self._applications), SLICE_SECONDS)
        for application_id, share in shares.items():
            profile = self._applications[application_id].profile
            count = max(1, self._settings.concurrency // share.workers)
            rate = profile.calls_per_second / share.workers
            permits = self._permits.get(application_id)
            if permits is None:
                permits = self._permits[application_id] = Permits(count, rate)
            permits.share(count, rate)
            if share.paused:
                permits.pause(share.paused)

    async def _call_others(self) -> None:
        """There is more than one portion: the others may come and help."""
        try:
            async with self._database.unit() as unit:
                await unit.hint()
        except Exception as error:  # they find it by themselves, a little later
            log.warning("hint failed", error=str(error))

    async def _give_way(self) -> None:
        """Tell the others of cut-offs in hand, and hear of theirs: nothing else starts meanwhile."""
        mine = self._precedence.coming_through
        if not (mine or self._precedence.holds_back):
            return
        async with self._database.unit() as unit:
            seconds = 4 * CUTTING_SECONDS if mine else 0.0
            theirs = await unit.gates.cutting(self.name, seconds)
        self._precedence.elsewhere(theirs)

    async def _leave(self) -> None:
        async with self._database.unit() as unit:
            await unit.gates.leave(self.name)

    def _stopped(self) -> str:
        """Why everything but cut-offs is stopped; empty while work goes on."""
        row = self._stop_row
        return f"{row['author']} stopped everything but cut-offs: {row['reason']}" if row else ""

    async def _pause(self, application_id: str, seconds: float) -> None:
        """Tell all workers that an application asked to slow down."""
        permits = self._permits[application_id]
        if permits.paused >= seconds - 0.5:
            return  # told already
        permits.pause(seconds)
        async with self._database.unit() as unit:
            await unit.gates.pause(application_id, seconds)

    async def _ceiling(self, application: Application) -> bool:
        ceiling = application.profile.ceiling_per_hour
        if not ceiling:
            return True
        async with self._database.unit() as unit:
            return await unit.gates.take_of_ceiling(application.id, ceiling)

    def _count_intent(self) -> None:
        """For crash tests: die right after the n-th intent is durable, as a power cut would."""
        self._intents += 1
        if self._intents == self._settings.kill_after_intents:
            os.kill(os.getpid(), signal.SIGKILL)

    async def _take_up(self, leases: Sequence[Lease]) -> None:
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
        except Exception as error:
            self._spawn(self._give_back(leases, error))
            return
        if ready:
            self._spawn(self._run_lanes(ready, lanes))
        if again:
            rest = [x for x in leases if x.subject_id in stale]
            self._spawn(self._take_up_again(rest, again))

    async def _take_up_again(self, leases: Sequence[Lease], rows: Sequence[DocketRow]) -> None:
        """Plan dockets again, begin them and run their lanes."""
        try:
            with self._precedence.ahead():
                await self._beginner.plan_again(rows)
                async with self._database.unit() as unit:
                    lanes = await self._loaded(unit, leases)
        except Exception as error:
            await self._give_back(leases, error)
            return
        await self._run_lanes(leases, lanes)

    async def _run_lanes(
        self, leases: Sequence[Lease], lanes: Mapping[str, Mapping[str, Lane]]
    ) -> None:
        await asyncio.gather(*(self._subject(x, lanes.get(x.subject_id, {})) for x in leases))

    def _spawn(self, work: Coroutine[Any, Any, None]) -> None:
        """Go on with something beside everything else; at the end it is waited for."""
        task = asyncio.create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

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
        if any(self._applications.get(a) != applications[a] for a in touched):
            await self._share({a: applications[a] for a in touched})
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
                await self._hand_back(lease)
            elif outcome is None:  # else the lease runs out, and whoever is there takes it up
                await self._enders.submit(lease)
        except Exception as error:
            log.warning("end failed", subject=lease.subject_id, error=str(error))
        finally:
            self._good_until.pop((lease.subject_id, lease.epoch), None)
            self.subjects_done += 1

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

    async def _hand_back(self, lease: Lease) -> None:
        """The lease did not last for another call: the subject is due again at once.

        Its steps wait for no moment of their own; merely released it would be nobody's for ever. If
        another worker has it by now, this changes nothing but that it looks once more.
        """
        async with self._database.unit() as unit:
            await unit.leases.release([lease])
            await unit.leases.wake([lease.subject_id], priority=1)
        self.hint()

    async def _give_back(self, leases: Sequence[Lease], error: Exception) -> None:
        """After a failure of our own: let the leases run out, so that nothing spins."""
        log.warning("portion failed", subjects=len(leases), error=str(error), exc_info=error)
        await asyncio.sleep(1.0)
        for lease in leases:
            self._good_until.pop((lease.subject_id, lease.epoch), None)

    async def _end(self, leases: Sequence[Lease]) -> Sequence[bool]:
        """End finished dockets, renew what is owed later, and release the leases."""
        now = await self._clock.now()
        ids = [lease.subject_id for lease in leases]
        async with self._database.unit() as unit:
            ended = await unit.dockets.finish(ids, now)
            finished = [row.subject_id for row in ended]
            if finished:
                rules = await load_rules(unit)
                if any(n.at == "done" for n in rules.notices):
                    rows = [asdict(r) for r in ended if not r.cause.get("confidential")]
                    await notify(unit, rows, "done", rules, self._vault, now)
                await renew_obligations(unit, finished, now)
                await unit.audit.add(
                    [
                        make_event(
                            now,
                            f"worker {self.name}",
                            "docket.done",
                            r.subject_id,
                            {"verb": r.verb},
                            r.id,
                        )
                        for r in ended
                    ]
                )
            await unit.leases.release(leases)
            if await unit.leases.wake_due(now):
                self.hint()
        return [True] * len(leases)


async def _wait(stop: asyncio.Event, seconds: float) -> None:
    try:
        await asyncio.wait_for(stop.wait(), seconds)
    except TimeoutError:
        return
