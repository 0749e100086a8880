"""Errors as application/problem+json (RFC 9457), with the status of their class."""

from __future__ import annotations

import math
from http import HTTPStatus
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from yugum import errors
from yugum.api.strict import methods_at
from yugum.wire.common import Problem

log = structlog.get_logger("yugum.api")
MEDIA = "application/problem+json"

RESPONSES: dict[int | str, dict[str, Any]] = {
    status: {"model": Problem, "content": {MEDIA: {}}}
    for status in (400, 401, 403, 404, 405, 409, 412, 413, 422, 429, 502, 503)
}


def reply(problem: Problem, headers: dict[str, str] | None = None) -> JSONResponse:
    return JSONResponse(
        problem.model_dump(), status_code=problem.status, media_type=MEDIA, headers=headers
    )


def problem_of(error: errors.YugumError) -> Problem:
    return Problem(
        type=f"urn:yugum:problem:{error.code}",
        title=error.code.replace("-", " ").capitalize(),
        status=error.status,
        detail=error.message,
        code=error.code,
        remedy=error.remedy,
        place=error.place,
        retryable=error.retryable,
    )


def install(app: FastAPI) -> None:
    """Every error of the service leaves as a problem."""

    @app.exception_handler(errors.YugumError)
    async def ours(_: Request, error: errors.YugumError) -> JSONResponse:
        headers = {}
        if error.retry_after is not None:
            headers["Retry-After"] = str(math.ceil(error.retry_after))
        return reply(problem_of(error), headers)

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(
            str(p) for p in first["loc"] if p not in ("body", "query", "path", "[key]")
        )
        more = len(error.errors()) - 1
        text = f"{place or 'The request'}: {first['msg']}" + (f" (and {more} more)" if more else "")
        status = 400 if first["type"] == "json_invalid" else 422
        return reply(plain(status, "invalid-input", text, place))

    @app.exception_handler(HTTPException)
    async def http(request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == HTTPStatus.METHOD_NOT_ALLOWED:
            return not_for(request)
        codes = {404: "not-found", 413: "too-large"}
        code = codes.get(error.status_code, "http")
        problem = plain(error.status_code, code, str(error.detail), "")
        return reply(problem, dict(error.headers or {}))

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        log.error("unexpected", path=request.url.path, error=repr(error), exc_info=error)
        return reply(plain(500, "unexpected", "Something went wrong here; it was logged.", ""))


def not_for(request: Request) -> JSONResponse:
    """That an address is there, though not for this method (RFC 9110 15.5.6)."""
    allowed = ", ".join(methods_at(request))
    text = f"{request.method} is not for {request.url.path}; {allowed} is."
    problem = plain(405, "method-not-allowed", text, "")
    return reply(problem, {"Allow": allowed})


def plain(status: int, code: str, detail: str, place: str) -> Problem:
    return Problem(
        type=f"urn:yugum:problem:{code}",
        title=code.replace("-", " ").capitalize(),
        status=status,
        detail=detail,
        code=code,
        place=place,
    )
