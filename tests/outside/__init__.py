"""SCIM servers that are not ours, started for a test: each of a library that shares nothing with ours."""

from __future__ import annotations

import secrets
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx

from yugum.cluster import free_port

HERE = Path(__file__).parent
GROUPS = ("Deck", "Night duty")
KEPT = {
    "node": (
        "title",
        "name.familyName",
        "emails.work",
        "phoneNumbers.mobile",
        "addresses.work.locality",
        "enterprise.department",
    ),
    "django": ("name.familyName", "name.givenName"),
}
"""Attributes that each really keeps, whatever its schemas say."""


class Outside:
    """One of them, while a block lasts."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        self.token, self.port = secrets.token_urlsafe(12), free_port()
        self.url = f"http://127.0.0.1:{self.port}/scim/v2"
        self._headers = {"Authorization": f"Bearer {self.token}"}

    def __enter__(self) -> Outside:
        self._folder = Path(tempfile.mkdtemp(prefix="yugum-outside-"))
        words = {
            "node": ["node", str(HERE / "server.js"), str(self.port), self.token],
            "django": [
                sys.executable,
                "-m",
                "tests.outside.crew_office",
                str(self.port),
                self.token,
                str(self._folder / "users.db"),
            ],
        }[self.kind]
        self._process = subprocess.Popen(
            [*words, *GROUPS], stdin=subprocess.PIPE, cwd=HERE.parents[1]
        )
        for _ in range(200):
            try:
                httpx.get(f"{self.url}/Users", headers=self._headers)
                break
            except httpx.TransportError:
                time.sleep(0.1)
        return self

    def __exit__(self, *_: object) -> None:
        assert self._process.stdin is not None
        self._process.stdin.close()
        self._process.kill()
        self._process.wait()
        shutil.rmtree(self._folder, ignore_errors=True)

    def _all(self, kind: str) -> list[dict[str, Any]]:
        reply = httpx.get(f"{self.url}/{kind}?count=500", headers=self._headers)
        return list(reply.json()["Resources"])

    def user(self, login: str) -> dict[str, Any]:
        """What the server itself shows of somebody; nothing where it has no such user."""
        return next((u for u in self._all("Users") if u["userName"] == login), {})

    def groups(self, login: str) -> set[str]:
        """In which groups the server itself has somebody."""
        mine = self.user(login).get("id")
        return {
            g["displayName"]
            for g in self._all("Groups")
            if any(m["value"] == mine for m in g.get("members", ()))
        }
