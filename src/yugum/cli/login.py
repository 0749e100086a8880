"""Signing in the command line: a token of one's own, kept where only oneself can read it."""

from __future__ import annotations

import json
import os
import socket
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.operators import ROLES, signed_in, typed
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.errors import InvalidInput, YugumError
from yugum.settings import default_state
from yugum.wire import operators as wop


def _kept_at(context: Context) -> Path:
    return (context.state or default_state()) / "client.json"


def _kept(path: Path) -> dict[str, Any]:
    try:
        found = json.loads(path.read_text())
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


@click.command("login")
@click.argument("link", default="")
@click.option("--login", "name", default="", help="Who you are, if it is by your password.")
@click.option("--scope", type=ROLES, help="What it may do at most; as much as you if left out.")
@click.option("--days", type=click.IntRange(1, 3650), default=90, help="How long it is good.")
@pass_context
def login(context: Context, link: str, name: str, scope: str | None, days: int) -> None:
    """Sign in the command line, by the one-time LINK you were given or by --login and your password.

    A token of your own is made and kept in the state folder, readable by nobody else. With a link a new
    password is asked for. The token that was kept before is revoked.
    """
    path = _kept_at(context)
    before = _kept(path)
    if link:
        url, session, password = _by_link(link)
    else:
        url = context.url or before.get("url", "")
        if not url or not name:
            raise InvalidInput(
                "I do not know where Yugum is or who you are.",
                place="--url" if not url else "--login",
                remedy="yugum login LINK, or yugum --url URL login --login NAME.",
            )
        context.url = url
        session, password = signed_in(context, name)
    me = session.session().operator
    new = wop.NewToken(
        name=f"command line at {socket.gethostname()}"[:300],
        scope=OperatorRole(scope) if scope else OperatorRole(me.role),
        days=days,
        password=password,
    )
    made = session.tokens.add(new)
    _keep(path, {"url": url, "token": made.token, "id": made.id})
    if before.get("url") == url and before.get("id"):
        with suppress(YugumError):  # it is gone already, or somebody else's
            session.tokens.revoke(before["id"])
    session.sessions.sign_out()
    click.echo(f"You are {me.login} ({made.scopes[0]}) for {days} days; kept in {path}.")


def _by_link(link: str) -> tuple[str, Client, str]:
    found = urlsplit(link)
    if not found.scheme or not found.netloc or not found.fragment:
        raise InvalidInput(
            "This is not a sign-in link.",
            place="LINK",
            remedy="It ends in /welcome#…; put it into quotes, for # begins a comment.",
        )
    url = f"{found.scheme}://{found.netloc}"
    session = Client.by_link(url, found.fragment)
    click.get_current_context().call_on_close(session.close)
    password = typed("New password", twice=True)
    session.sessions.set_password(password)
    return url, session, password


def _keep(path: Path, document: dict[str, str]) -> None:
    """Readable by nobody else from its first byte on."""
    path.parent.mkdir(parents=True, exist_ok=True)
    fresh = path.with_suffix(".new")
    with suppress(FileNotFoundError):
        fresh.unlink()
    with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
        json.dump(document, out)
    fresh.replace(path)


@click.command("logout")
@click.option(
    "--forget", is_flag=True, help="Only forget the token here; it stays good till its end."
)
@pass_context
def logout(context: Context, forget: bool) -> None:
    """Revoke the token that is kept here, and forget it; your password is asked for."""
    path = _kept_at(context)
    kept = _kept(path)
    if "id" not in kept:
        raise InvalidInput(
            f"No sign-in is kept in {path}.", place="--state", remedy="See: yugum tokens list."
        )
    if not forget:
        context.url, context.token = kept["url"], kept["token"]
        session, _ = signed_in(context, "")
        session.tokens.revoke(kept["id"])
        session.sessions.sign_out()
    path.unlink()
    click.echo(
        "Signed out." if not forget else "Forgotten; it can be revoked: yugum tokens revoke."
    )
