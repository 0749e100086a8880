"""A worker: claims due subjects under leases, runs their lanes, ends their dockets.

Any number of workers on any number of machines do this side by side; the lease is the only truth
about who works on what.
"""

from __future__ import annotations

import asyncio
import os
import signal
import time
from collections.abc import Awaitable, Callable

import structlog

from yugum.engine.approvals import Approvals
from yugum.engine.audit import Sealer
from yugum.engine.finding_days import count_today
from yugum.engine.forecasts import Forecasts
from yugum.engine.mails import Mails
from yugum.engine.questions import Questions
from yugum.engine.readings import Readings
from yugum.engine.schedule import tick, tidy
from yugum.engine.standing import look, sweep
from yugum.engine.takeovers import Takeovers
from yugum.engine.tasks import Tasks
from yugum.engine.work.begin import Beginner
from yugum.engine.work.claims import SeatDesk
from yugum.engine.work.endings import Endings
from yugum.engine.work.held import HeldLeases
from yugum.engine.work.journal import Journal
from yugum.engine.work.precedence import Lookback, Precedence
from yugum.engine.work.sharing import CUTTING_SECONDS, SLICE_SECONDS, Sharing
from yugum.engine.work.subjects import Subjects
from yugum.engine.work.tools import LaneTools
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.services import Signer, Vault
from yugum.ports.units import Database
from yugum.settings import Settings

log = structlog.get_logger("yugum.worker")

CROWD_SECONDS = 0.08
BRIEF_SECONDS = 0.01
"""How long intents are gathered while more cut-offs wait than there are permits: a transaction for
one or two of them costs as much as for twenty."""
READ_SECONDS = 5.0
MAIL_SECONDS = 1.0
TIDY_SECONDS = 600.0
LOOK_SECONDS = 0.25
WAIT_SECONDS = 15.0
"""How long what is owed may lag while people are being cut off."""
GROWTH = 2
"""How much more is claimed after a portion that was full: the first calls go out early, and the
next portion is loaded by the time the calls of the one before are made."""


class Worker:
    """Runs until its stop event is set; ``hint`` makes it look for work at once."""

    def __init__(  # noqa: PLR0913 - what a worker works with
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
        readings: Readings,
        questions: Questions,
        takeovers: Takeovers,
        forecasts: Forecasts,
    ) -> None:
        self.name = name
        actor = f"worker {name}"
        self._database = database
        self._settings = settings
        self._clock = clock
        self._precedence = Precedence()
        self._lookback = Lookback()
        self._mails = mails
        self._approvals = approvals
        self._readings = readings
        self._questions = questions
        self._takeovers = takeovers
        self._forecasts = forecasts
        self._owners = Tasks(database, clock)
        self._sealer = Sealer(database, signer)
        self._held = HeldLeases(database, name, settings.lease_seconds)
        self._sharing = Sharing(database, name, settings.concurrency, self._precedence)
        tools = LaneTools(
            database=database,
            connectors=connectors,
            clock=clock,
            vault=vault,
            journal=Journal(database, clock, actor, self._linger, self._brief),
            desk=SeatDesk(database, clock),
            permits=self._sharing.permits_of,
            precedence=self._precedence,
            lookback=self._lookback,
            check=self._held.check,
            retry_base=settings.retry_base_seconds,
            on_intent=self._count_intent,
            stopped=self._sharing.stopped,
            pause=self._sharing.pause,
            ceiling=self._sharing.ceiling,
        )
        beginner = Beginner(database, connectors, clock, actor, approvals)
        endings = Endings(database, clock, vault, actor, self.hint)
        self._subjects = Subjects(
            database, tools, self._sharing, beginner, endings, self._held, self.hint
        )
        self._portion_size = settings.claim
        self._hinted = asyncio.Event()
        self._marked = asyncio.Event()
        self._intents = 0
        self._sealed = self._looked = 0.0

    @property
    def subjects_done(self) -> int:
        """How many subjects were taken up and let go of."""
        return self._subjects.done

    def _linger(self) -> float:
        """With more lanes than permits a step may wait for its row: others use the time."""
        crowd = self._precedence.count > 2 * self._settings.concurrency
        return CROWD_SECONDS if crowd else 0.0

    def _brief(self) -> float:
        """With many cut-offs waiting for a permit, others use those while intents are gathered."""
        crowd = self._lookback.left > 4 * self._settings.concurrency
        return BRIEF_SECONDS if crowd else 0.0

    def hint(self) -> None:
        """Something may be due, or have changed."""
        self._hinted.set()
        self._marked.set()

    async def run(self, stop: asyncio.Event) -> None:
        """Work until ``stop``; then finish the steps in hand and give the leases back."""
        every = self._every
        loops = [
            asyncio.create_task(every(self._settings.tick_seconds, self._tick, stop)),
            asyncio.create_task(every(self._settings.tick_seconds, self._escalate, stop)),
            asyncio.create_task(every(self._settings.tick_seconds, self._remind, stop)),
            asyncio.create_task(every(TIDY_SECONDS, self._tidy, stop)),
            asyncio.create_task(every(self._settings.lease_seconds / 4, self._held.renew, stop)),
            asyncio.create_task(every(1.0, self._seal, stop)),
            asyncio.create_task(every(READ_SECONDS, self._read, stop)),
            asyncio.create_task(every(SLICE_SECONDS / 3, self._share, stop)),
            asyncio.create_task(every(CUTTING_SECONDS, self._sharing.give_way, stop)),
            asyncio.create_task(every(MAIL_SECONDS, self._mail, stop)),
            asyncio.create_task(self._watch(stop)),
        ]
        try:
            await self._pump(stop)
            if self._subjects.tasks:
                await asyncio.wait(self._subjects.tasks, timeout=self._settings.call_timeout)
            await self._sharing.leave()
        finally:
            running = (*loops, *self._subjects.tasks)
            for task in running:
                task.cancel()
            await asyncio.gather(*running, return_exceptions=True)

    async def _every(
        self, seconds: float, call: Callable[[], Awaitable[None]], stop: asyncio.Event
    ) -> None:
        while not stop.is_set():
            try:
                await call()
            except Exception as error:  # noqa: BLE001 - a database away for a moment must not end the worker
                log.warning("loop failed", call=call.__name__, error=str(error))
            await _wait(stop, seconds)

    async def _share(self) -> None:
        await self._sharing.renew(bool(self._held))

    async def _read(self) -> None:
        await self._readings.read_due(f"worker {self.name}")

    async def _watch(self, stop: asyncio.Event) -> None:
        """Look at whoever changed, a little later or when told so."""
        while not stop.is_set():
            self._marked.clear()
            try:
                await self._look()
            except Exception as error:  # noqa: BLE001 - a database away for a moment must not end the worker
                log.warning("loop failed", call="look", error=str(error))
                await _wait(stop, 1.0)
            await _wait(self._marked, LOOK_SECONDS)

    async def _look(self) -> None:
        """Bring in step what is owed by whoever changed; it gives way to cut-offs for a while."""
        if self._precedence.count and time.monotonic() - self._looked < WAIT_SECONDS:
            return
        while await look(self._database, self._clock) or await sweep(self._database):
            self._looked = time.monotonic()
            if self._precedence.count:
                return
        self._looked = time.monotonic()
        async with self._database.unit() as unit:
            if await unit.leases.wake_due(await self._clock.now(unit)):
                self.hint()

    async def _mail(self) -> None:
        if self._held and self._precedence.count:
            return  # somebody is being cut off: mail can wait
        await self._mails.tell_credentials()
        await self._mails.deliver()

    async def _escalate(self) -> None:
        await self._owners.escalate(await self._clock.now())

    async def _remind(self) -> None:
        await self._approvals.remind_or_expire(await self._clock.now())
        await self._takeovers.tell()

    async def _tidy(self) -> None:
        await tidy(self._database, self._settings, await self._clock.now())
        await self._questions.ask_all()
        await self._forecasts.keep_all()
        await count_today(self._database, await self._clock.now(), again=True)

    async def _tick(self) -> None:
        now = await self._clock.now()
        if await tick(self._database, now, self._mails.remind):
            self.hint()
        await count_today(self._database, now)

    async def _seal(self) -> None:
        """Seal when there is nothing to cut off; under steady work every ten seconds."""
        if self._held and time.monotonic() - self._sealed < 10:
            return
        await self._sealer.seal_all()
        self._sealed = time.monotonic()

    async def _pump(self, stop: asyncio.Event) -> None:
        while not stop.is_set():
            self._hinted.clear()
            try:
                more = await self._claim()
            except Exception as error:  # noqa: BLE001 - a database away for a moment ends no worker
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
        room = self._settings.lanes - len(self._held)
        full = room <= 0  # of bulk work perhaps: somebody who leaves is taken in all the same
        if full and room <= -self._settings.lanes:
            await asyncio.sleep(0.05)
            return True
        limit = self._settings.claim if full else min(room, self._portion_size)
        leases = await self._held.claim(limit, most_urgent=full)
        if full and not leases:
            await asyncio.sleep(0.05)
            return True
        if leases:
            await self._subjects.take_up(leases)
        more = len(leases) == limit
        if more and limit == self._settings.claim:
            self._subjects.spawn(self._call_others())
        grown = min(self._portion_size * GROWTH, self._settings.lanes)
        self._portion_size = grown if more else self._settings.claim
        return more

    async def _call_others(self) -> None:
        """There is more than one portion: the others may come and help."""
        try:
            async with self._database.unit() as unit:
                await unit.hint()
        except Exception as error:  # noqa: BLE001 - they find it by themselves, a little later
            log.warning("hint failed", error=str(error))

    def _count_intent(self) -> None:
        """For crash tests: die right after the n-th intent is durable, as a power cut would."""
        self._intents += 1
        if self._intents == self._settings.kill_after_intents:
            os.kill(os.getpid(), signal.SIGKILL)


async def _wait(stop: asyncio.Event, seconds: float) -> None:
    try:
        await asyncio.wait_for(stop.wait(), seconds)
    except TimeoutError:
        return
