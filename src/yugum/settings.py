"""Typed configuration from the environment (``YUGUM_…``) and an optional ``yugum.env`` file."""

from __future__ import annotations

import os
from ipaddress import ip_network
from pathlib import Path

from pydantic import Field, field_validator
from pydantic_settings import BaseSettings, SettingsConfigDict


def default_state() -> Path:
    """Where state lies when nothing is said: root's must be reachable by user postgres."""
    if os.geteuid() == 0:
        return Path("/var/tmp/yugum")  # noqa: S108 - reachable by the user postgres
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "yugum"


class Settings(BaseSettings):
    """Settings of service, worker and CLI; each is documented in docs/reference/settings.md."""

    model_config = SettingsConfigDict(
        env_prefix="YUGUM_", env_file="yugum.env", extra="ignore", frozen=True
    )

    state: Path = Field(default_factory=default_state)
    database_url: str = ""
    host: str = "127.0.0.1"
    port: int = Field(default=8420, ge=0, le=65535)
    public_url: str = ""
    proxies: str = ""
    worker_inside: bool = True
    worker_name: str = ""
    concurrency: int = Field(default=16, ge=1, le=256)
    lanes: int = Field(default=1024, ge=1, le=8192)
    claim: int = Field(default=48, ge=1, le=1000)
    lease_seconds: float = Field(default=20.0, ge=2.0, le=600.0)
    call_timeout: float = Field(default=8.0, gt=0, le=120.0)
    tick_seconds: float = Field(default=1.0, gt=0, le=60.0)
    retry_base_seconds: float = Field(default=1.0, gt=0, le=60.0)
    session_hours: float = Field(default=10.0, gt=0, le=168.0)
    link_hours: float = Field(default=48.0, gt=0, le=720.0)
    smtp_url: str = ""
    mail_from: str = "Yugum <yugum@localhost>"
    script_folder: Path | None = None
    sign_in_attempts: int = Field(default=5, ge=1)
    sign_in_minutes: float = Field(default=15.0, gt=0)
    organisation: str = "Our organisation"
    prefix: str = Field(default="YG", pattern=r"^[A-Z]{1,6}$")
    zone: str = "UTC"
    log_json: bool = False
    kill_after_intents: int = Field(default=0, ge=0)

    @field_validator("proxies")
    @classmethod
    def _addresses(cls, value: str) -> str:
        for one in filter(None, (part.strip() for part in value.split(","))):
            ip_network(one)  # a name would be taken, and never match
        return value

    @property
    def console_url(self) -> str:
        """Where people open the console, and links in mails."""
        return self.public_url or f"http://{self.host}:{self.port}"

    @property
    def key_file(self) -> Path:
        return self.state / "keys.json"
