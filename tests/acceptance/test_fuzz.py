"""Whatever is sent, the service answers clearly: every call of its own description is tried.

Bodies are made from the published schemas and then spoiled in one place. On an empty service, so
that nothing is at stake.
"""

from __future__ import annotations

import copy
import json
import random
import shutil
from collections.abc import Iterator
from typing import Any

import httpx
import pytest

from tests.conftest import FAST, NOW, scratch
from yugum_standins.load import found
from yugum_standins.stage import Stage

ODD: list[Any] = [
    None,
    True,
    -1,
    0,
    10**30,
    1.5,
    "",
    " ",
    "\x00",
    "\ud800",
    "’ or 1=1 --",
    "%",
    "../../etc",
    "a" * 5000,
    "2031-02-30",
    "2031-13-01T00:00:00Z",
    [],
    [[]],
    {},
    {"": ""},
    ["x"] * 1200,
]


@pytest.fixture(scope="module")
def service() -> Iterator[httpx.Client]:
    folder = scratch()
    stage = Stage(folder, settings=FAST)
    stage.database()
    headers = {"Authorization": f"Bearer {found(stage, NOW)}"}
    stage.serve(0)
    with httpx.Client(base_url=stage.url, headers=headers, timeout=60) as client:
        yield client
    print((folder / "service.log").read_text()[-3000:])  # shown when a test fails
    stage.stop()
    shutil.rmtree(folder, ignore_errors=True)


class Maker:
    """Makes values of a schema of the description, plain ones first."""

    def __init__(self, document: dict[str, Any], dice: random.Random) -> None:
        self.schemas = document["components"]["schemas"]
        self.dice = dice

    def value(self, schema: dict[str, Any], depth: int = 0) -> Any:
        if "$ref" in schema:
            return self.value(self.schemas[schema["$ref"].rsplit("/", 1)[1]], depth)
        for choice in ("anyOf", "oneOf"):
            if choice in schema:
                return self.value(self.dice.choice(schema[choice]), depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return self.dice.choice(schema["enum"])
        match schema.get("type"):
            case "object":
                return self.object(schema, depth)
            case "array":
                items = schema.get("items", {})
                return [self.value(items, depth + 1)] if depth < 4 else []
            case "integer":
                return max(int(schema.get("minimum", 0)), 1)
            case "number":
                return 1.5
            case "boolean":
                return self.dice.random() < 0.5
            case "null":
                return None
            case _:
                shown = {"date-time": "2031-03-03T08:00:00Z", "date": "2031-03-03"}
                return shown.get(schema.get("format", ""), "word")

    def object(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        needed = set(schema.get("required", ()))
        return {
            name: self.value(inner, depth + 1)
            for name, inner in schema.get("properties", {}).items()
            if name in needed or (depth < 3 and self.dice.random() < 0.6)
        }

    def spoiled(self, body: Any) -> Any:
        """The same with one value, somewhere in it, turned into something odd."""
        body = copy.deepcopy(body)
        places: list[tuple[Any, Any]] = []

        def walk(node: Any) -> None:
            inner = node.items() if isinstance(node, dict) else enumerate(node)
            for key, value in list(inner):
                places.append((node, key))
                if isinstance(value, (dict, list)):
                    walk(value)

        if isinstance(body, (dict, list)):
            walk(body)
        if not places or self.dice.random() < 0.1:
            return self.dice.choice(ODD)
        node, key = self.dice.choice(places)
        node[key] = self.dice.choice(ODD)
        return body


def problem_of(reply: httpx.Response) -> dict[str, Any]:
    assert reply.headers["Content-Type"] == "application/problem+json", reply.text
    problem: dict[str, Any] = reply.json()
    assert problem["status"] == reply.status_code
    assert problem["code"]
    assert problem["detail"]
    return problem


@pytest.mark.parametrize("seed", range(3))
def test_whatever_is_sent_is_answered_clearly(service: httpx.Client, seed: int) -> None:
    document = service.get("/api/v1/openapi.json").json()
    dice = random.Random(seed)
    maker = Maker(document, dice)
    sent = 0
    for path, methods in sorted(document["paths"].items()):
        for method, described in methods.items():
            if "requestBody" not in described or path.endswith("/session/password"):
                continue
            schema = described["requestBody"]["content"].get("application/json", {}).get("schema")
            if schema is None:
                continue
            for _ in range(6):
                body = maker.spoiled(maker.value(schema))
                filled = path
                for parameter in described.get("parameters", ()):
                    if parameter["in"] == "path":
                        odd = dice.choice(["word", "%00", "x" * 300, "ä ö", "1"])
                        filled = filled.replace("{%s}" % parameter["name"], odd)  # noqa: UP031
                reply = service.request(
                    method.upper(),
                    filled,
                    content=json.dumps(body),
                    headers={"Content-Type": "application/json"},
                )
                sent += 1
                shown = (method, filled, json.dumps(body)[:300], reply.text[:300])
                assert reply.status_code < 500, shown
                if reply.status_code >= 400:
                    problem_of(reply)
    assert sent > 150


def test_odd_parameters_are_answered_clearly(service: httpx.Client) -> None:
    document = service.get("/api/v1/openapi.json").json()
    odd = ["", "\x00", "%%%", "-1", "99999999999999999999", "'", "ä" * 300, "[]", "null", "1e9"]
    for path, methods in sorted(document["paths"].items()):
        described = methods.get("get")
        if described is None or path.endswith(("/events", "/export", "/changes")):
            continue
        filled = path
        query = [p["name"] for p in described.get("parameters", ()) if p["in"] == "query"]
        for parameter in described.get("parameters", ()):
            if parameter["in"] == "path":
                filled = filled.replace("{%s}" % parameter["name"], "word")  # noqa: UP031
        for name in query:
            for value in odd:
                reply = service.get(filled, params={name: value})
                assert reply.status_code < 500, (filled, name, value, reply.text[:300])
                if reply.status_code >= 400:
                    problem_of(reply)


@pytest.mark.parametrize(
    ("content", "kind", "status"),
    [
        (b"", "application/json", 422),
        (b"{", "application/json", 400),
        (b"\xff\xfe", "application/json", 400),
        (b"[1, 2", "application/json", 400),
        (b"verb=leaver", "application/x-www-form-urlencoded", 422),
        (b'{"verb": "leaver", "who": ["x"]}', "text/plain", 422),
        (b"[" * 3000, "application/json", 400),
    ],
)
def test_a_body_that_is_none_is_refused(
    service: httpx.Client, content: bytes, kind: str, status: int
) -> None:
    reply = service.post("/api/v1/plans", content=content, headers={"Content-Type": kind})
    assert reply.status_code in (status, 400, 422), reply.text
    problem_of(reply)


def test_a_body_beyond_all_measure_is_refused(service: httpx.Client) -> None:
    people = [{"user_name": f"p{n}", "given_name": "x" * 1000} for n in range(600)]
    reply = service.post("/api/v1/people", json={"people": people})
    assert reply.status_code == 422
    assert "people" in problem_of(reply).get("place", "")
    kept = service.get("/api/v1/people", params={"q": "p599"}).json()["items"]
    assert kept == [], "nothing of it was taken"


def test_methods_and_paths_that_are_none(service: httpx.Client) -> None:
    assert service.request("PUT", "/api/v1/people").status_code == 405
    assert service.request("BREW", "/api/v1/people").status_code in (400, 405)
    assert service.get("/api/v1/nothing/at/all").status_code == 404
    assert service.get("/api/v2/people").status_code == 404
    for path in ("/api/v1/people/../../etc/passwd", "/..%2f..%2fetc/passwd"):
        reply = service.get(path)
        assert "root:" not in reply.text
