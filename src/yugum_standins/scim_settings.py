"""Places of a simulated application that hold text somebody typed: recipients, schedules, escalations, owners of keys."""

from __future__ import annotations

from typing import Any

from aiohttp import web

from yugum_standins.keys import replace_key
from yugum_standins.scim_wire import (
    OURS,
    Resources,
    ScimProblem,
    check_match,
    json_of,
    meta,
    operations,
    reply,
)

SETTING = OURS + "Setting"
SHOWN = ("id", "kind", "place", "text", "effect", "contact", "writable", "replaceable")
OF_KEYS = ("text", "secret", "oldUntil")


class SettingPages(Resources):
    """The routes below ``/Settings``."""

    def settings_routes(self) -> list[web.RouteDef]:
        return [
            web.get("/scim/v2/Settings", self.list_settings),
            web.get("/scim/v2/Settings/{id}", self.get_setting),
            web.patch("/scim/v2/Settings/{id}", self.patch_setting),
        ]

    def render_setting(self, setting: dict[str, Any]) -> dict[str, Any]:
        body = {name: setting[name] for name in SHOWN if name in setting}
        where = f"/Settings/{setting['id']}"
        return {"schemas": [SETTING], **body, "meta": meta("Setting", where, setting["version"])}

    async def list_settings(self, request: web.Request) -> web.Response:
        text = request.query.get("filter", "")
        found = list(self.store.docs["settings"].values())
        return self.listed(request, found, self.render_setting, text)

    async def get_setting(self, request: web.Request) -> web.Response:
        setting = self.find("settings", request.match_info["id"])
        return reply(self.render_setting(setting), version=setting["version"])

    async def patch_setting(self, request: web.Request) -> web.Response:
        setting = self.find("settings", request.match_info["id"])
        check_match(request, setting)
        asked = operations(await json_of(request))
        names = OF_KEYS if setting.get("replaceable") else ("text",)
        for op, path, value in asked:
            if op != "replace" or path not in names or not isinstance(value, str):
                raise ScimProblem(400, f"Only {', '.join(names)} can be replaced.", "mutability")
        said = {path: value for _, path, value in asked}
        if not setting["writable"]:
            raise ScimProblem(403, "This is changed in the application itself.", "")
        if setting.get("replaceable"):
            if said.keys() != {*OF_KEYS}:
                raise ScimProblem(400, f"A key needs {', '.join(OF_KEYS)}.", "invalidValue")
            try:
                replace_key(self.store, setting, said["text"], said["secret"], said["oldUntil"])
            except ValueError as error:
                raise ScimProblem(400, str(error), "invalidValue") from error
        elif (text := said.get("text")) is not None and setting["text"] != text:
            self.store.effect("setting.changed", "", f"{setting['place']}: {text}")
            setting["text"] = text
            self.store.put("settings", setting)
        return reply(self.render_setting(setting), version=setting["version"])
