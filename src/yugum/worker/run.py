"""The worker process: listens for hints on the queue and keeps the engine's worker going."""

from __future__ import annotations

import asyncio
from contextlib import suppress

import procrastinate
import structlog

from yugum.engine.work.worker import Worker
from yugum.storage.queue import QUEUE, TASK, make_app

PASS_ON_SECONDS = 0.05
"""A worker with a hint in hand takes no other: the next one, sent on because there is more to do than
it took, goes to somebody else."""

log = structlog.get_logger("yugum.worker")


async def work(worker: Worker, database_url: str, stop: asyncio.Event) -> None:
    """Run ``worker`` until ``stop``; a hint on the queue wakes it at once."""
    app = make_app(database_url)

    @app.task(name=TASK, queue=QUEUE)
    async def hinted() -> None:
        worker.hint()
        await asyncio.sleep(PASS_ON_SECONDS)

    listening = asyncio.create_task(_listen(app, worker.name, stop))
    try:
        await worker.run(stop)
    finally:
        listening.cancel()
        with suppress(asyncio.CancelledError):
            await listening


async def _listen(app: procrastinate.App, name: str, stop: asyncio.Event) -> None:
    """Take hints; without the queue the worker's own tick still finds everything."""
    while not stop.is_set():
        try:
            async with app.open_async():
                await app.run_worker_async(
                    queues=[QUEUE],
                    name=name,
                    concurrency=1,
                    delete_jobs="always",
                    install_signal_handlers=False,
                    fetch_job_polling_interval=5.0,
                )
        except asyncio.CancelledError:
            raise
        except Exception as error:  # noqa: BLE001 - a queue away for a moment ends no worker
            log.warning("queue lost", error=str(error))
            await asyncio.sleep(1.0)
