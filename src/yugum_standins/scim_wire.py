"""What all pages of a simulated SCIM application have in common (RFC 7644 3)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import orjson
from aiohttp import web
from scim2_models.path import Path as ScimPath

from yugum.core.conditions import Condition, fold, matches
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter
from yugum_standins.state import Store

GROUP = "urn:ietf:params:scim:schemas:core:2.0:Group"
OURS = "urn:yugum:scim:schemas:1.0:"
MESSAGE = "urn:ietf:params:scim:api:messages:2.0:"
MEDIA = "application/scim+json"


class ScimProblem(Exception):
    """An error reply (RFC 7644 3.12)."""

    def __init__(self, status: int, detail: str, scim_type: str = "") -> None:
        super().__init__(detail)
        self.status, self.detail, self.scim_type = status, detail, scim_type


def reply(body: Any, status: int = 200, version: int = 0) -> web.Response:
    raw = body if isinstance(body, bytes) else orjson.dumps(body)
    headers = {"ETag": f'W/"{version}"'} if version else {}
    return web.Response(body=raw, status=status, content_type=MEDIA, headers=headers)


@dataclass(frozen=True, slots=True, kw_only=True)
class Traits:
    """What makes one simulated application different from the others.

    ``window_days`` 0 deletes for good. ``seats_stay`` keeps a deleted user's seats until the purge;
    ``seats_return`` gives them back at a restore, even beyond what was bought. ``settings`` are
    names of further values a user has, ``settings_return`` whether a restore brings them back.
    ``patch``, ``filters`` and ``cursors`` say which parts of the standard are offered,
    ``archive`` whether users can be archived and have further ways in (``waysIn``: app passwords,
    SSH keys, certificates, consents); ``devices`` whether users have devices that are trusted
    without a second proof, which stay when everything else is closed; ``renames`` whether a user's name
    can be changed, ``limits`` how many characters some attributes take,
    ``levels`` the roles of which a user has one, ``invites`` whether new users are invited by mail and
    choose their password with the invitation, ``duties`` what can be asked for at the first sign-in.
    """

    window_days: int = 30
    extended: bool = True
    seats_stay: bool = False
    seats_return: bool = False
    settings: tuple[str, ...] = ()
    settings_return: bool = True
    patch: bool = True
    filters: bool = True
    cursors: bool = False
    archive: bool = False
    devices: bool = False
    renames: bool = True
    limits: Mapping[str, int] = field(default_factory=dict)
    levels: tuple[str, ...] = ()
    invites: bool = False
    duties: tuple[str, ...] = ()


class Resources:
    """One application's store and traits, and how its resources are found and listed."""

    store: Store
    traits: Traits

    def find(self, kind: str, key: str) -> dict[str, Any]:
        doc = self.store.docs[kind].get(key)
        if doc is None:
            raise ScimProblem(404, f"There is no such {kind.removesuffix('s')}.")
        return doc

    def listed(
        self, request: web.Request, docs: list[dict[str, Any]], render: Any, text: str
    ) -> web.Response:
        rendered = None
        if text and not self.traits.filters:
            raise ScimProblem(501, "Filters are not supported.", "")
        if text:
            try:
                condition = parse_filter(text, None)
            except InvalidInput as error:
                raise ScimProblem(400, error.message, "invalidFilter") from error
            rendered = [r for r in map(render, docs) if _matches(condition, r)]
        total = len(docs) if rendered is None else len(rendered)
        by_cursor = self.traits.cursors and "cursor" in request.query
        start = max(1, _number(request, "startIndex", 1))
        if by_cursor:
            start = max(1, int(request.query["cursor"] or "1"))
        count = max(0, min(1000, _number(request, "count", 100)))
        begin, end = start - 1, start - 1 + count
        page = [render(d) for d in docs[begin:end]] if rendered is None else rendered[begin:end]
        body = listing(page, total, start)
        if by_cursor and begin + len(page) < total:
            body["nextCursor"] = str(begin + len(page) + 1)
        return reply(body)


def _matches(condition: Condition, body: dict[str, Any]) -> bool:
    return matches(condition, _flat(body))


def _flat(body: dict[str, Any], prefix: str = "") -> dict[str, tuple[str, ...]]:
    values: dict[str, tuple[str, ...]] = {}
    for name, value in body.items():
        for one in value if isinstance(value, list) else [value]:
            if isinstance(one, dict):
                for inner, found in _flat(one, f"{prefix}{name}.").items():
                    values[inner] = (*values.get(inner, ()), *found)
            elif one not in (None, ""):
                text = str(one).lower() if isinstance(one, bool) else str(one)
                key = f"{prefix}{name}"
                values[key] = (*values.get(key, ()), fold(text))
    return values


def listing(resources: list[Any], total: int, start: int) -> dict[str, Any]:
    return {
        "schemas": [MESSAGE + "ListResponse"],
        "totalResults": total,
        "startIndex": start,
        "itemsPerPage": len(resources),
        "Resources": resources,
    }


def meta(kind: str, location: str, version: int) -> dict[str, str]:
    return {"resourceType": kind, "location": f"/scim/v2{location}", "version": f'W/"{version}"'}


def _number(request: web.Request, name: str, default: int) -> int:
    text = request.query.get(name, str(default))
    try:
        return int(text)
    except ValueError as error:
        raise ScimProblem(400, f"{name} is a number.", "invalidValue") from error


async def json_of(request: web.Request) -> dict[str, Any]:
    try:
        body = orjson.loads(await request.read())
    except orjson.JSONDecodeError as error:
        raise ScimProblem(400, "The body is not JSON.", "invalidSyntax") from error
    if not isinstance(body, dict):
        raise ScimProblem(400, "The body is not an object.", "invalidSyntax")
    return body


def operations(body: dict[str, Any]) -> list[tuple[str, str, Any]]:
    operations = body.get("Operations")
    if not isinstance(operations, list) or not operations:
        raise ScimProblem(400, "Operations are required.", "invalidSyntax")
    result = []
    for operation in operations:
        op = str(operation.get("op", "")).lower()
        if op not in ("add", "replace", "remove"):
            raise ScimProblem(400, f"op {op} is unknown.", "invalidSyntax")
        result.append((op, str(operation.get("path", "")), operation.get("value")))
    return result


def members_in(path: str, group: dict[str, Any], value: Any) -> list[str]:
    """Which members a removal names: by a value filter, by value, or all."""
    if path != "members":
        filter_text = str(ScimPath(path))[len("members[") : -1]
        condition = parse_filter(filter_text, None)
        return [m for m in list(group["members"]) if matches(condition, {"value": (fold(m),)})]
    if value:
        return [v["value"] for v in value]
    return list(group["members"])


def check_match(request: web.Request, doc: dict[str, Any]) -> None:
    wanted = request.headers.get("If-Match")
    if wanted and wanted not in ("*", f'W/"{doc["version"]}"'):
        raise ScimProblem(412, "The resource has changed.", "")
