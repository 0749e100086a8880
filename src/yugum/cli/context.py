"""Where the service is and who asks: options, environment, or the state folder of a demo."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import click

from yugum.cli.output import Output
from yugum.client import Client
from yugum.errors import ConfigError
from yugum.settings import default_state

HERE = Path(".state")
"""The demo's folder when the command is called from a checkout."""


@dataclass(slots=True)
class Context:
    url: str
    token: str
    state: Path | None
    form: str
    columns: tuple[str, ...] = ()
    _client: Client | None = None
    _zone: str = ""

    def client(self) -> Client:
        if self._client is None:
            if not (self.url and self.token):
                self._from_state()
            self._client = Client(self.url, self.token)
            click.get_current_context().call_on_close(self._client.close)
        return self._client

    def address(self) -> str:
        """Where the service is; no token is needed to know that."""
        if not self.url:
            self._from_state()
        return self.url

    def _from_state(self) -> None:
        for path in self._candidates():
            if path.exists():
                document = json.loads(path.read_text())
                self.url = self.url or document["url"]
                self.token = self.token or document["token"]
                return
        raise ConfigError(
            "I do not know where Yugum runs or who you are.",
            remedy="Sign in (yugum login), set YUGUM_URL and YUGUM_TOKEN, or name a demo's folder with --state.",
        )

    def _candidates(self) -> list[Path]:
        """The folder that was named, else what a demo left behind in the usual places."""
        if self.state is not None:
            return [self.state / "client.json"]
        pointer = HERE / "demo"
        named = [Path(pointer.read_text().strip()) / "client.json"] if pointer.exists() else []
        return [*named, HERE / "client.json", default_state() / "client.json"]

    def output(self) -> Output:
        return Output(self.form, self.zone(), self.columns)

    def zone(self) -> str:
        if not self._zone:
            self._zone = self.client().clock.show().zone
        return self._zone


pass_context = click.make_pass_decorator(Context)
