"""A web hook of the organisation's own: the badge desk prints and locks badges.

It checks the signature (Standard Webhooks), keeps which run of a step was done for whom, and can be
told to misbehave at ``/panel/faults``: ``hang``, ``lie``, ``error``, ``garbage``.
"""

from __future__ import annotations

import asyncio
import json
import os
from pathlib import Path
from typing import Any

import click
from aiohttp import web
from standardwebhooks import Webhook, WebhookVerificationError

from yugum.cluster import die_with_parent


class Desk:
    def __init__(self, secret: str, data: Path | None) -> None:
        self._signer = Webhook(secret)
        self._data = data
        self.behaviour = ""
        self.calls: list[dict[str, Any]] = []
        self.runs: dict[str, dict[str, str]] = {}
        if data is not None and data.exists():
            self.runs = json.loads(data.read_text())

    async def hook(self, request: web.Request) -> web.Response:
        body = await request.text()
        try:
            self._signer.verify(body, dict(request.headers))
        except WebhookVerificationError as error:
            return web.json_response({"error": str(error)}, status=401)
        asked = json.loads(body)
        what, data = asked["type"], asked["data"]
        mine = self.runs.setdefault(data["key"], {})
        if self.behaviour == "hang":
            await asyncio.sleep(3600)
        if self.behaviour == "error":
            return web.json_response({"error": "the printer is on fire"}, status=500)
        if self.behaviour == "garbage":
            return web.Response(text="<html>badges</html>")
        if what == "step.look":
            return web.json_response({"runs": mine})
        self.calls.append(
            {
                "what": what,
                "id": request.headers["webhook-id"],
                "login": data["login"],
                "step": data.get("step", ""),
            }
        )
        if self.behaviour != "lie":
            if what == "step.run":
                mine[data["step"]] = data["run"]
            else:
                mine.pop(data["step"], None)
            if self._data is not None:
                self._data.write_text(json.dumps(self.runs))
        return web.json_response({"state": "done", "note": f"badge of {data['login']}"})

    async def health(self, _: web.Request) -> web.Response:
        return web.json_response({"ok": True})

    async def fault(self, request: web.Request) -> web.Response:
        self.behaviour = str((await request.json()).get("behaviour", ""))
        return web.json_response({"behaviour": self.behaviour})

    async def log(self, _: web.Request) -> web.Response:
        return web.json_response({"calls": self.calls, "runs": self.runs})


@click.command()
@click.option("--port", type=int, required=True)
@click.option("--data", type=click.Path(path_type=Path), default=None)
@click.option("--with-parent", is_flag=True)
def main(port: int, data: Path | None, with_parent: bool) -> None:
    """Run the desk; its signing secret stands in YUGUM_STANDIN_TOKEN."""
    if with_parent:
        die_with_parent()
    desk = Desk(os.environ["YUGUM_STANDIN_TOKEN"], data)
    app = web.Application()
    app.add_routes(
        [
            web.post("/hook", desk.hook),
            web.get("/panel/health", desk.health),
            web.put("/panel/faults", desk.fault),
            web.get("/panel/log", desk.log),
        ]
    )
    web.run_app(app, host="127.0.0.1", port=port, print=None, access_log=None)


if __name__ == "__main__":
    main()
