"""Routes that refuse what they do not know, instead of passing over it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Coroutine
from typing import Any, get_origin

from fastapi import Request, Response
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from yugum.errors import InvalidInput

Handler = Callable[[Request], Coroutine[Any, Any, Response]]


class StrictRoute(APIRoute):
    """A route that knows its query parameters: others, and one said twice, are refused."""

    def get_route_handler(self) -> Handler:
        handler = super().get_route_handler()
        known = _parameters(self.dependant)

        async def handle(request: Request) -> Response:
            refuse_unknown(request, known)
            return await handler(request)

        return handle


def _parameters(dependant: Dependant) -> dict[str, bool]:
    """The query parameters of a route and of what it depends on, and which may be said repeatedly."""
    found = {p.alias: get_origin(p.field_info.annotation) is list for p in dependant.query_params}
    for one in dependant.dependencies:
        found |= _parameters(one)
    return found


def refuse_unknown(request: Request, known: dict[str, bool]) -> None:
    """Raises InvalidInput for a query parameter that is not among these, or is said twice."""
    for name, times in Counter(k for k, _ in request.query_params.multi_items()).items():
        if name not in known:
            listed = ", ".join(sorted(known)) or "none"
            raise InvalidInput(
                f"There is no query parameter {name[:60]!r} here.",
                place=name[:60],
                remedy=f"Those there are: {listed}.",
            )
        if times > 1 and not known[name]:
            raise InvalidInput(f"{name} is said {times} times.", place=name, remedy="Say it once.")


def methods_at(request: Request) -> list[str]:
    """The methods that the description names for an address."""
    paths: dict[str, dict[str, Any]] = request.app.openapi()["paths"]
    address = request.url.path
    if address in paths:  # rather than one that has a place for anything there
        return sorted(m.upper() for m in paths[address])
    found = {
        method.upper()
        for path, methods in paths.items()
        if re.fullmatch(re.sub(r"\\\{[^}]+\\\}", "[^/]+", re.escape(path)), address)
        for method in methods
    }
    return sorted(found)
