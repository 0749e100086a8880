"""Places of a simulated application that hold text somebody typed: recipients, schedules, escalations."""

from __future__ import annotations

from typing import Any

from aiohttp import web

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
SHOWN = ("id", "kind", "place", "text", "effect", "contact", "writable")


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
        for op, path, value in operations(await json_of(request)):
            if op != "replace" or path != "text" or not isinstance(value, str):
                raise ScimProblem(400, "Only the text can be replaced.", "mutability")
            if not setting["writable"]:
                raise ScimProblem(403, "This is changed in the application itself.", "")
            if setting["text"] != value:
                self.store.effect("setting.changed", "", f"{setting['place']}: {value}")
                setting["text"] = value
                self.store.put("settings", setting)
        return reply(self.render_setting(setting), version=setting["version"])
