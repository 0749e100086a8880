"""The processes: the service with or without a worker inside, a worker alone."""

from __future__ import annotations

import asyncio
import contextlib
import gc
import logging
import os
import signal
import socket
import sys
from collections.abc import AsyncIterator, Iterable, Mapping
from contextlib import asynccontextmanager
from typing import Any

import structlog
import uvicorn
import uvloop

from yugum.bootstrap import House, makes_database, open_house, with_database
from yugum.cluster import die_with_parent, free_port
from yugum.core.operators import OperatorRole
from yugum.engine.audit import verify
from yugum.errors import ConfigError
from yugum.ports.views import Installation
from yugum.settings import Settings
from yugum.worker.run import work


def settings_from(overrides: Mapping[str, Any]) -> Settings:
    """Settings from the environment, with what the command line says on top."""
    return Settings(**{k: v for k, v in overrides.items() if v is not None})


def verify_export(lines: Iterable[str], key: str) -> int:
    return verify(lines, key)


def calm_collector() -> None:
    """What start-up made stays; collecting it again and again would cost a tenth of the machine."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)


def set_up_logging(settings: Settings) -> None:
    renderer: Any = structlog.dev.ConsoleRenderer(colors=sys.stderr.isatty())
    if settings.log_json:
        renderer = structlog.processors.JSONRenderer()
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            renderer,
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
    )
    logging.basicConfig(level=logging.WARNING, stream=sys.stderr)


def run_service(overrides: Mapping[str, Any], *, with_parent: bool) -> None:
    """Run the HTTP service until SIGINT or SIGTERM."""
    if with_parent:
        die_with_parent()
    # Also before the server listens to signals, and when it hands one on after it has stopped.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    settings = settings_from(overrides)
    set_up_logging(settings)
    if makes_database(settings):
        print(f"Making a database in {settings.state} (only at the first start).", flush=True)
    settings, cluster = with_database(settings)
    try:
        uvloop.run(_serve(settings))
    except KeyboardInterrupt:
        pass
    finally:
        if cluster is not None:
            cluster.stop()


async def _serve(settings: Settings) -> None:
    from yugum.api.app import create_app  # a worker needs none of it

    port = settings.port
    if not settings.public_url:
        port = free_port(settings.port)
    url = settings.public_url or f"http://{settings.host}:{port}"
    async with open_house(settings) as house:
        installation = await _installation(house)
        link = await _first_administrator(house, url)
        background = _worker_inside(house) if settings.worker_inside else None
        app = create_app(house.services, installation, url, background)
        server = _Server(
            uvicorn.Config(
                app,
                host=settings.host,
                port=port,
                log_level="warning",
                access_log=False,
                proxy_headers=bool(settings.proxies),
                forwarded_allow_ips=settings.proxies or None,
                server_header=False,
                timeout_graceful_shutdown=3,
            )
        )
        server.url, server.link = url, link
        calm_collector()
        await server.serve()


class _Server(uvicorn.Server):
    """Says where it is once it listens there: whoever reads it can connect."""

    url = ""
    link = ""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets=sockets)
        if self.started:
            if self.link:
                print(f"Sign in once with: {self.link}", flush=True)
            print(f"Yugum is at {self.url}", flush=True)


async def _installation(house: House) -> Installation:
    settings = house.settings
    async with house.database.unit() as unit:
        found = await unit.views.installation()
        if found is None:
            found = Installation(
                organisation=settings.organisation,
                prefix=settings.prefix,
                zone=settings.zone,
                demo=False,
            )
            await unit.views.found(found)
    return found


async def _first_administrator(house: House, url: str) -> str:
    """In an empty installation: the one-time link of an administrator, which is printed, never logged."""
    async with house.database.unit() as unit:
        if await unit.operators.count():
            return ""
    _, token = await house.services.operators.add(
        "admin", "Administrator", OperatorRole.ADMINISTRATOR, "installation"
    )
    return f"{url}/welcome#{token}"


def link_here(overrides: Mapping[str, Any], login: str) -> str:
    """A one-time sign-in link made in the database itself, beside a service that may run or not.

    Raises:
        ConfigError: the key file cannot be read: only who may read it may do this.
        NotFound: there is no operator of that login.
    """
    settings = settings_from(overrides)
    if not os.access(settings.key_file, os.R_OK):
        raise ConfigError(
            f"The key file {settings.key_file} cannot be read.",
            remedy="Name the service's folder with --state-folder, on its machine, as its user.",
        )
    settings, cluster = with_database(settings)
    try:
        return uvloop.run(_link_here(settings, login))
    finally:
        if cluster is not None:
            cluster.stop()


async def _link_here(settings: Settings, login: str) -> str:
    async with open_house(settings) as house:
        token = await house.services.operators.link(login, "command on the server")
    return f"{settings.console_url}/welcome#{token}"


@asynccontextmanager
async def _worker_inside(house: House) -> AsyncIterator[None]:
    stop = asyncio.Event()
    task = asyncio.create_task(work(house.worker(), house.settings.database_url, stop))
    try:
        yield
    finally:
        stop.set()
        with contextlib.suppress(asyncio.CancelledError):
            await task


def run_worker(overrides: Mapping[str, Any], *, with_parent: bool) -> None:
    """Run a worker until SIGINT or SIGTERM."""
    if with_parent:
        die_with_parent()
    settings = settings_from(overrides)
    set_up_logging(settings)
    settings, cluster = with_database(settings)
    try:
        uvloop.run(_work(settings))
    finally:
        if cluster is not None:
            cluster.stop()


async def _work(settings: Settings) -> None:
    stop = asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(number, stop.set)
    async with open_house(settings) as house:
        worker = house.worker()
        calm_collector()
        print(f"worker {worker.name} is ready", flush=True)
        await work(worker, settings.database_url, stop)
