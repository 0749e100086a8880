"""The FastAPI application."""

from __future__ import annotations

import asyncio
import os
from collections.abc import AsyncIterator
from contextlib import AbstractAsyncContextManager, asynccontextmanager, nullcontext
from ipaddress import ip_address
from pathlib import Path

import structlog
from fastapi import FastAPI, Request, Response
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Gauge, generate_latest
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import PathLike
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from yugum import __version__
from yugum.api import (
    accounts,
    allocations,
    applications,
    approvals,
    audit,
    credentials,
    day,
    dockets,
    equipment,
    exports,
    findings,
    groups,
    guide,
    handover,
    operators,
    orders,
    people,
    people_files,
    plans,
    problems,
    questions,
    records,
    references,
    reports,
    reservations,
    rules,
    seat_reports,
    seats,
    shared,
    standing,
    status,
    takeovers,
    tasks,
    views,
)
from yugum.api.auth import Source, Viewer, authenticate
from yugum.api.description import describe
from yugum.api.limits import BodyLimit
from yugum.api.strict import methods_at
from yugum.engine.services import Services
from yugum.ports.views import Installation

log = structlog.get_logger("yugum.api")
ROUTERS = (
    operators.session,
    operators.router,
    operators.integrations,
    operators.tokens,
    people.router,
    people.decisions,
    plans.router,
    dockets.router,
    applications.router,
    accounts.router,
    credentials.accounts,
    credentials.issuing,
    credentials.credentials,
    allocations.router,
    seat_reports.router,
    reservations.router,
    questions.router,
    questions.links,
    takeovers.router,
    takeovers.links,
    orders.router,
    seats.router,
    records.router,
    reports.router,
    rules.router,
    rules.roles,
    rules.names,
    approvals.router,
    approvals.links,
    approvals.mails,
    findings.router,
    standing.router,
    audit.router,
    day.router,
    status.clock,
    status.router,
    shared.router,
    equipment.router,
    people_files.router,
    groups.router,
    handover.board,
    handover.router,
    handover.of_person,
    references.router,
    tasks.router,
    views.router,
    views.changes,
    exports.router,
    guide.router,
)
CONSOLE = Path(__file__).parent / "console"
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HEADERS = [
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
]

STRICT_TRANSPORT = (b"strict-transport-security", b"max-age=31536000")
"""RFC 6797; where people reach the service by https."""


class SecurityHeaders:
    """Adds the headers to every response, and keeps API replies out of caches."""

    def __init__(self, app: ASGIApp, *, https: bool) -> None:
        self._app = app
        self._headers = [*HEADERS, *([STRICT_TRANSPORT] if https else [])]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                own = {name for name, _ in message["headers"]}
                added = [h for h in self._headers if h[0] not in own]
                message["headers"] = [*message["headers"], *added]
                if scope["path"].startswith("/api/"):
                    message["headers"].append((b"cache-control", b"no-store"))
            await send(message)

        await self._app(scope, receive, with_headers)


class Answering:
    """Tells long work in this process that somebody was answered; a stream never is."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        try:
            await self._app(scope, receive, send)
        finally:
            if scope["type"] == "http":
                services: Services = scope["app"].state.services
                services.courtesy.answered()


def create_app(
    services: Services,
    installation: Installation,
    public_url: str,
    background: AbstractAsyncContextManager[None] | None = None,
) -> FastAPI:
    """The service as an ASGI application.

    ``background`` is an async context manager that is open while the service runs (the worker
    inside, for example).
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        # It takes a while, and the first call that needs it would hold up all the others.
        described = asyncio.create_task(asyncio.to_thread(app.openapi))
        async with background or nullcontext():
            yield
        await described

    app = FastAPI(
        title="Yugum",
        version=__version__,
        description="Joiner, mover and leaver work for application accounts.",
        openapi_url="/api/v1/openapi.json",
        docs_url=None,
        redoc_url=None,
        lifespan=lifespan,
        responses=problems.RESPONSES,
    )
    app.state.services = services
    app.state.installation = installation
    app.state.public_url = public_url
    problems.install(app)
    for router in ROUTERS:
        app.include_router(router, prefix="/api/v1")
    describe(app, ROUTERS, "/api/v1")
    _health(app, services)
    _console(app)
    app.add_middleware(BodyLimit)
    app.add_middleware(Answering)
    app.add_middleware(SecurityHeaders, https=public_url.startswith("https://"))
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    return app


def _health(app: FastAPI, services: Services) -> None:
    """That it lives is for anybody; whether it can work, for this machine; all else for a token."""

    @app.get("/healthz", include_in_schema=False)
    async def healthz() -> dict[str, str]:
        return {"status": "ok"}

    @app.get("/readyz", include_in_schema=False)
    async def readyz(request: Request, source: Source) -> Response:
        if not ip_address(source).is_loopback:
            await authenticate(request)
        try:
            await services.overview.ping()
        except Exception as error:  # noqa: BLE001 - whatever is wrong, the answer is "not ready"
            log.warning("not ready", error=type(error).__name__)
            return JSONResponse({"status": "not ready"}, 503)
        return JSONResponse({"status": "ready"})

    @app.get("/metrics", include_in_schema=False)
    async def metrics(_: Viewer) -> Response:
        registry = CollectorRegistry()
        health = await services.overview.health(whole=True)
        counts = health.counts
        people_gauge = Gauge("yugum_people", "People by state", ["state"], registry=registry)
        for state, count in counts.states.items():
            people_gauge.labels(state.value).set(count)
        for name, count in (
            ("dockets", counts.figures.dockets),
            ("waiting_seats", counts.figures.waiting_seats),
            ("accounts", counts.figures.accounts),
            ("applications", counts.figures.applications),
        ):
            Gauge(f"yugum_{name}", f"Number of {name}", registry=registry).set(count)
        Gauge("yugum_subjects_working", "Subjects due or leased", registry=registry).set(
            health.working
        )
        return Response(generate_latest(registry), media_type=CONTENT_TYPE_LATEST)


class Hashed(StaticFiles):
    """Files whose names carry a digest of what is in them: nobody has to ask for one again."""

    def file_response(
        self, full_path: PathLike, stat_result: os.stat_result, scope: Scope, status_code: int = 200
    ) -> Response:
        response = super().file_response(full_path, stat_result, scope, status_code)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"  # RFC 8246
        return response


def _console(app: FastAPI) -> None:
    """The built console: its files, and its one page for every other address."""
    if (CONSOLE / "assets").is_dir():
        app.mount("/assets", Hashed(directory=CONSOLE / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str, request: Request) -> Response:
        if path.startswith(("api/", "scim/")):
            if methods_at(request):
                return problems.not_for(request)
            return problems.reply(
                problems.plain(404, "not-found", f"There is nothing at /{path}.", "")
            )
        index = CONSOLE / "index.html"
        if not index.exists():
            return Response("The console has not been built: npm run build.", 503)
        if path == "favicon.svg" and (CONSOLE / path).exists():
            return FileResponse(CONSOLE / path)
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
