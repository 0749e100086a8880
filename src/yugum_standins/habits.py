"""Habits of other people's SCIM servers, put on a simulated application one at a time.

Each is allowed by the standard, or wide-spread although it is not; a connector has to bear them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import orjson
from aiohttp import web

from yugum_standins.scim_wire import MEDIA


@dataclass(slots=True)
class Answer:
    """An answer on its way out; ``path`` is what was asked for."""

    method: str
    path: str
    host: str
    status: int
    body: Any
    headers: dict[str, str] = field(default_factory=dict)


def _resources(body: Any) -> list[dict[str, Any]]:
    """The resources in an answer: one, or those of a list."""
    if not isinstance(body, dict):
        return []
    listed = body.get("Resources")
    return listed if isinstance(listed, list) else [body]


def _of(kind: str, body: Any) -> list[dict[str, Any]]:
    return [r for r in _resources(body) if r.get("meta", {}).get("resourceType") == kind]


def active_as_text(answer: Answer) -> None:
    """``"active": "True"``."""
    for user in _of("User", answer.body):
        user["active"] = str(user["active"])


def made_with_200(answer: Answer) -> None:
    """A resource that was made is answered 200."""
    answer.status = 200 if answer.status == 201 else answer.status


def made_without_body(answer: Answer) -> None:
    """A resource that was made is not shown; where it is stands in Location (RFC 7644 3.3)."""
    if answer.status == 201 and "/Users" in answer.path:
        answer.headers["Location"] = f"{answer.host}{answer.path}/{answer.body['id']}"
        answer.body = None


def deleted_with_200(answer: Answer) -> None:
    """What is gone is answered 200 with an empty object."""
    if answer.method == "DELETE" and answer.status == 204:
        answer.status, answer.body = 200, {}


def changed_without_body(answer: Answer) -> None:
    """A PATCH or PUT is answered 204."""
    if answer.method in ("PATCH", "PUT") and answer.status == 200:
        answer.status, answer.body = 204, None


def members_in_groups(answer: Answer) -> None:
    """Membership is seen in groups only."""
    for user in _of("User", answer.body):
        user.pop("groups", None)


def members_in_users(answer: Answer) -> None:
    """Membership is seen in users only."""
    for group in _of("Group", answer.body):
        group.pop("members", None)


def absolute_references(answer: Answer) -> None:
    """References are absolute addresses, and types are said."""
    for user in _of("User", answer.body):
        for group in user.get("groups", ()):
            group |= {"$ref": f"{answer.host}/scim/v2/Groups/{group['value']}", "type": "direct"}
    for group in _of("Group", answer.body):
        for member in group.get("members", ()):
            member |= {"$ref": f"{answer.host}/scim/v2/Users/{member['value']}", "type": "User"}


def no_versions(answer: Answer) -> None:
    """There are neither ETags nor versions."""
    answer.headers.pop("ETag", None)
    for resource in _resources(answer.body):
        resource.get("meta", {}).pop("version", None)


def small_pages(answer: Answer) -> None:
    """Three to a page, whatever was asked for."""
    listed = answer.body.get("Resources") if isinstance(answer.body, dict) else None
    if isinstance(listed, list) and len(listed) > 3 and answer.path.endswith(("Users", "Groups")):
        answer.body["Resources"] = listed[:3]
        answer.body["itemsPerPage"] = 3


def numbers_as_text(answer: Answer) -> None:
    """``"totalResults": "12"``; status codes and counts are texts."""
    if isinstance(answer.body, dict):
        for name in ("totalResults", "startIndex", "itemsPerPage"):
            if name in answer.body:
                answer.body[name] = str(answer.body[name])


def nulls(answer: Answer) -> None:
    """What is empty is null, an empty list of resources too."""
    if isinstance(answer.body, dict) and answer.body.get("Resources") == []:
        answer.body["Resources"] = None
    for resource in (*_of("User", answer.body), *_of("Group", answer.body)):
        for name in ("emails", "phoneNumbers", "addresses", "members", "groups", "externalId"):
            resource.setdefault(name, None)


HABITS: Mapping[str, Callable[[Answer], None]] = {
    habit.__name__: habit
    for habit in (
        active_as_text,
        made_with_200,
        made_without_body,
        deleted_with_200,
        changed_without_body,
        members_in_groups,
        members_in_users,
        absolute_references,
        no_versions,
        small_pages,
        numbers_as_text,
        nulls,
    )
}


def with_habit(name: str, request: web.Request, response: web.Response) -> web.Response:
    """An answer as a server with that habit would give it."""
    raw = response.body if isinstance(response.body, bytes) else b""
    answer = Answer(
        request.method,
        request.path,
        f"http://{request.host}",
        response.status,
        orjson.loads(raw) if raw else None,
        {k: v for k, v in response.headers.items() if k in ("ETag", "Location")},
    )
    HABITS[name](answer)
    body = b"" if answer.body is None else orjson.dumps(answer.body)
    kind = MEDIA if body else "text/plain"
    return web.Response(body=body, status=answer.status, headers=answer.headers, content_type=kind)
