"""Runs one simulated application: ``yugum-standin --name "Crew rosters" --port 9001 …``."""

from __future__ import annotations

import asyncio
import random
import time
import uuid
from pathlib import Path
from typing import Any

import click
import orjson
import uvloop
from aiohttp import web

from yugum.cluster import die_with_parent
from yugum_standins import first_sign_in
from yugum_standins.habits import HABITS, with_habit
from yugum_standins.keys import whose_key
from yugum_standins.scim import Provider
from yugum_standins.scim_wire import MESSAGE, ScimProblem, Traits, reply
from yugum_standins.state import BusinessClock, Store

FAULTS = {
    "latency_ms": 0,  # every answer takes so much longer
    "down": 0,  # connections are dropped before anything is done
    "error_rate": 0,  # share of requests answered 503 before anything is done
    "drop_rate": 0,  # share of requests whose connection is dropped before anything is done
    "lose_reply_rate": 0,  # share of changes that are made and whose reply is lost
    "busy": 0,  # so many requests to come are answered 429
    "stale_seconds": 0,  # a change is not shown for so long
    "read_only": 0,  # changes are refused for good
    "no_settings": 0,  # nobody may read the places with text in them
    "rate": 0,  # so many requests a second, the others are answered 429
    "seed": 7,  # of the shares' random numbers
}
"""Every fault of the panel with its resting value. Beside them ``reject``: a text no change may hold, and
``habit``: the name of one of `HABITS`."""


class Panel:
    """The stand-in's own controls: faults, the log of effects, and signing in as a user would."""

    def __init__(self, store: Store, name: str, clock: BusinessClock) -> None:
        self.store = store
        self.clock = clock
        self.name = name
        self.faults: dict[str, float] = dict(FAULTS)
        self.reject = ""
        self.habit = ""
        self.random = random.Random(7)
        self.tokens = 0.0
        self.filled = time.monotonic()
        self.requests = 0
        self.trace: list[tuple[float, str, str, str]] | None = None

    def routes(self) -> list[web.RouteDef]:
        return [
            web.get("/panel/health", self.health),
            web.put("/panel/faults", self.set_faults),
            web.get("/panel/log", self.log),
            web.put("/panel/trace", self.start_trace),
            web.get("/panel/trace", self.get_trace),
            web.post("/panel/sign-in", self.sign_in),
            web.post("/panel/accept", self.accept),
            web.post("/panel/duties", self.do_duty),
            web.post("/panel/mail", self.take_mail),
            web.post("/panel/items", self.add_item),
            web.post("/panel/settings", self.add_setting),
            web.post("/panel/ways", self.add_way),
            web.post("/panel/use-key", self.use_key),
        ]

    async def health(self, _: web.Request) -> web.Response:
        body = {
            "name": self.name,
            "ok": True,
            "requests": self.requests,
            "users": len(self.store.docs["users"]),
            "faults": self.faults,
        }
        return web.json_response(body)

    async def set_faults(self, request: web.Request) -> web.Response:
        wanted = await request.json()
        unknown = set(wanted) - {*self.faults, "reject", "habit"}
        if wanted.get("habit", "") not in ("", *HABITS):
            raise ScimProblem(400, f"There is no habit {wanted['habit']}.")
        if unknown:
            raise ScimProblem(400, f"Unknown faults: {', '.join(sorted(unknown))}.")
        self.reject = wanted.pop("reject", self.reject)
        self.habit = wanted.pop("habit", self.habit)
        self.faults |= wanted
        self.store.stale_seconds = self.faults["stale_seconds"]
        if "seed" in wanted:
            self.random = random.Random(int(wanted["seed"]))
        return web.json_response({**self.faults, "reject": self.reject})

    def over_rate(self) -> bool:
        """A bucket of one second's requests (token bucket)."""
        now, rate = time.monotonic(), self.faults["rate"]
        self.tokens = min(rate, self.tokens + (now - self.filled) * rate)
        self.filled = now
        if self.tokens < 1:
            return True
        self.tokens -= 1
        return False

    def chance(self, name: str) -> bool:
        share = self.faults[name]
        return bool(share) and self.random.random() < share

    async def start_trace(self, _: web.Request) -> web.Response:
        """From now on write down every request, so that a measurement can replay it."""
        self.trace = []
        return web.json_response({})

    async def get_trace(self, _: web.Request) -> web.Response:
        found, self.trace = self.trace or [], None
        return web.Response(body=orjson.dumps(found), content_type="application/json")

    async def log(self, request: web.Request) -> web.Response:
        after = int(request.query.get("after", "0"))
        return web.Response(
            body=orjson.dumps(list(self.store.log(after))), content_type="application/json"
        )

    async def add_way(self, request: web.Request) -> web.Response:
        """A further way in that a user makes: an app password, an SSH key, a trusted ``device``."""
        asked = await request.json()
        user = self.store.docs["users"][asked["user"]]
        name = "devices" if asked["kind"] == "device" else "waysIn"
        user.setdefault(name, []).append({"kind": asked["kind"], "id": str(uuid.uuid4())})
        self.store.put("users", user)
        return web.json_response({"ok": True})

    async def take_mail(self, request: web.Request) -> web.Response:
        """Deliver a mail: a suspended user's is refused; where a user forwards, it goes there."""
        name = (await request.json())["userName"]
        user = next((u for u in self.store.docs["users"].values() if u["userName"] == name), None)
        if user is None or not user["active"]:
            return web.json_response({"accepted": False}, status=422)
        to = user.get("settings", {}).get("forward", "") or user.get("mail", "") or name
        return web.json_response({"accepted": True, "to": to})

    async def add_item(self, request: web.Request) -> web.Response:
        """Something a person makes in the application: ``userName``, ``kind``, ``name``."""
        body = await request.json()
        owner = self.store.by_name[body["userName"].lower()]
        item = {"id": str(uuid.uuid4()), "kind": body["kind"], "name": body["name"], "owner": owner}
        self.store.put("items", item)
        self.store.items_of.setdefault(owner, set()).add(item["id"])
        return web.json_response(item, status=201)

    async def add_setting(self, request: web.Request) -> web.Response:
        """A place with text in it: ``kind``, ``place``, ``text``, ``effect``, ``writable``; the ``secret`` of a key."""
        return web.json_response(self.store.add_setting(await request.json()), status=201)

    async def use_key(self, request: web.Request) -> web.Response:
        """What a program meets that comes with a key, its ``secret``: 200 and whose it is, or 403."""
        body, now = await request.json(), await self.clock.now()
        login = whose_key(self.store, str(body.get("secret", "")), now)
        return web.json_response({"login": login}, status=200 if login else 403)

    async def sign_in(self, request: web.Request) -> web.Response:
        """What a person's own sign-in meets: 200 with a session, or 403."""
        body = await request.json()
        key = self.store.by_name.get(str(body.get("userName", "")).lower())
        user = self.store.docs["users"].get(key or "")
        good = user is not None and user["active"] and user.get("password") == body.get("password")
        if user is None or not good:
            return web.json_response({"signedIn": False}, status=403)
        user["sessions"].append({"id": f"s{len(user['sessions']) + 1}"})
        self.store.put("users", user)
        return web.json_response({"signedIn": True, "duties": user.get("duties", [])})

    async def accept(self, request: web.Request) -> web.Response:
        """What somebody does who was invited: ``userName``, and the ``password`` they choose."""
        body, now = await request.json(), await self.clock.now()
        user = self.store.docs["users"].get(self.store.by_name.get(body["userName"].lower(), ""))
        if user is None or not first_sign_in.accept(self.store, user, body["password"], now):
            return web.json_response({"accepted": False}, status=403)
        return web.json_response({"accepted": True})

    async def do_duty(self, request: web.Request) -> web.Response:
        """What somebody does at the first sign-in: ``userName``, ``duty``."""
        body = await request.json()
        user = self.store.docs["users"].get(self.store.by_name.get(body["userName"].lower(), ""))
        if user is None or not first_sign_in.do(self.store, user, body["duty"]):
            return web.json_response({"done": False}, status=404)
        return web.json_response({"done": True})


def application(
    store: Store,
    clock: BusinessClock,
    *,
    name: str,
    token: str,
    traits: Traits,
) -> web.Application:
    """The stand-in as an aiohttp application."""
    panel = Panel(store, name, clock)

    @web.middleware
    async def guard(request: web.Request, handler: Any) -> web.StreamResponse:
        try:
            if request.headers.get("Authorization") != f"Bearer {token}":
                raise ScimProblem(401, "A bearer token is required.")
            if request.path.startswith("/scim"):
                panel.requests += 1
                if panel.trace is not None:
                    sent = (await request.read()).decode()
                    panel.trace.append((time.time(), request.method, request.path_qs, sent))
                await _suffer(panel, request)
            response: web.StreamResponse = await handler(request)
            changed = request.method != "GET" and request.path.startswith("/scim")
            if changed and response.status < 400 and panel.chance("lose_reply_rate"):
                _drop(request)
            if panel.habit and isinstance(response, web.Response) and "/scim/" in request.path:
                return with_habit(panel.habit, request, response)
            return response
        except ScimProblem as problem:
            body: dict[str, Any] = {
                "schemas": [MESSAGE + "Error"],
                "status": str(problem.status),
                "detail": problem.detail,
            }
            if problem.scim_type:
                body["scimType"] = problem.scim_type
            answer = reply(body, problem.status)
            if problem.status == 429:
                answer.headers["Retry-After"] = "1"
            return answer

    app = web.Application(middlewares=[guard])
    provider = Provider(store, clock, traits)
    app.add_routes([*panel.routes(), *provider.routes()])
    return app


async def _suffer(panel: Panel, request: web.Request) -> None:
    if panel.faults["latency_ms"]:
        await asyncio.sleep(panel.faults["latency_ms"] / 1000)
    if panel.faults["down"] or panel.chance("drop_rate"):
        _drop(request)
    if panel.faults["busy"] > 0:
        panel.faults["busy"] -= 1
        raise ScimProblem(429, "Too many requests.")
    if panel.faults["rate"] and panel.over_rate():
        raise ScimProblem(429, "Too many requests.")
    if panel.chance("error_rate"):
        raise ScimProblem(503, "a fault by order")
    if panel.faults["no_settings"] and "/Settings" in request.path:
        raise ScimProblem(403, "These are nobody's to read.")
    if request.method != "GET":
        if panel.faults["read_only"]:
            raise ScimProblem(403, "This application is read-only just now.")
        if panel.reject and panel.reject in (await request.read()).decode():
            raise ScimProblem(400, f"The value {panel.reject} is not accepted.", "invalidValue")


def _drop(request: web.Request) -> None:
    """Cut the connection; the one who asked gets no answer."""
    if request.transport is not None:
        request.transport.close()
    raise ScimProblem(503, "down")


@click.command()
@click.option("--name", required=True)
@click.option("--port", type=int, required=True)
@click.option("--token", envvar="YUGUM_STANDIN_TOKEN", required=True)
@click.option("--data", type=click.Path(path_type=Path), default=None)
@click.option("--seed", type=click.Path(path_type=Path, exists=True), default=None)
@click.option("--window-days", type=int, default=30)
@click.option("--clock-url", envvar="YUGUM_CLOCK_URL", default="")
@click.option("--with-parent", is_flag=True, help="End when the parent process ends.")
@click.option("--plain", is_flag=True, help="Standard SCIM only, without our extension.")
@click.option("--traits", "more", default="{}", help="Further traits of the application, as JSON.")
def main(  # noqa: PLR0913 - options of a command
    name: str,
    port: int,
    token: str,
    data: Path | None,
    seed: Path | None,
    window_days: int,
    clock_url: str,
    with_parent: bool,
    plain: bool,
    more: str,
) -> None:
    """Run one simulated application on loopback until told to stop."""
    if with_parent:
        die_with_parent()
    store = Store(data)
    if store.empty and seed is not None:
        store.seed(orjson.loads(seed.read_bytes()))
    app = application(
        store,
        BusinessClock(clock_url),
        name=name,
        token=token,
        traits=Traits(**{"window_days": window_days, "extended": not plain, **orjson.loads(more)}),
    )
    uvloop.install()
    web.run_app(app, host="127.0.0.1", port=port, print=None, access_log=None)


if __name__ == "__main__":
    main()
