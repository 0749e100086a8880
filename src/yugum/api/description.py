"""What the description says of signing in: which ways there are, and where none is needed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from fastapi import APIRouter, FastAPI
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from yugum.api.auth import COOKIE, CSRF_HEADER, needs

SCHEMES: dict[str, Any] = {
    "token": {
        "type": "http",
        "scheme": "bearer",
        "description": "An API token (RFC 6750).",
    },
    "password": {
        "type": "http",
        "scheme": "basic",
        "description": "To read only: an API token as the password (RFC 7617), for calendar programs.",
    },
    "session": {"type": "apiKey", "in": "cookie", "name": COOKIE},
    "change": {
        "type": "apiKey",
        "in": "header",
        "name": CSRF_HEADER,
        "description": "With a session, on every change: the token that the session was begun with.",
    },
}
READING: list[dict[str, list[str]]] = [{"token": []}, {"password": []}, {"session": []}]
CHANGING: list[dict[str, list[str]]] = [{"token": []}, {"session": [], "change": []}]
CHECKS = needs.__module__
"""Where whoever asks is looked up: a call that leads there takes somebody who has signed in."""


def describe(app: FastAPI, routers: Iterable[APIRouter], prefix: str) -> None:
    """Declare in an application's description how its calls are signed in to."""
    plain = app.openapi
    opened = {
        (f"{prefix}{route.path}", method.lower())
        for router in routers
        for route in router.routes
        if isinstance(route, APIRoute) and not _asks(route.dependant)
        for method in route.methods or ()
    }

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = plain()
            document["components"]["securitySchemes"] = SCHEMES
            _name_properties(document)
            for path, methods in document["paths"].items():
                for method, operation in methods.items():
                    signed = READING if method == "get" else CHANGING
                    operation["security"] = [] if (path, method) in opened else signed
            app.openapi_schema = document
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]


def _name_properties(node: object) -> None:
    """Names of a mapping that have a pattern have it, all of them (JSON Schema 2020-12 10.3.2.4)."""
    if isinstance(node, dict):
        if len(node.get("patternProperties", ())) == 1 and "properties" not in node:
            ((pattern, values),) = node.pop("patternProperties").items()
            node |= {"propertyNames": {"pattern": pattern}, "additionalProperties": values}
        for inner in list(node.values()):
            _name_properties(inner)
    elif isinstance(node, list):
        for inner in node:
            _name_properties(inner)


def _asks(dependant: Dependant) -> bool:
    """Whether a call, or what it depends on, finds out who asks."""
    name = getattr(dependant.call, "__qualname__", "")
    module = getattr(dependant.call, "__module__", "")
    if module == CHECKS and (name.startswith(("needs.", "somebody.")) or name == "in_session"):
        return True
    return any(_asks(one) for one in dependant.dependencies)
