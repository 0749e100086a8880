"""Signing in as an operator who was given a one-time link."""

from __future__ import annotations

from yugum.client import Client
from yugum.wire import operators as wop

PASSWORD = "four words make it long"


def session_of(client: Client, url: str, login: str) -> Client:
    """A session of an operator, who has set a password in it."""
    link = client.operators.link(login).link
    session = Client.by_link(url, link.rsplit("#", 1)[1])
    session.sessions.set_password(PASSWORD)
    return session


def token_of(client: Client, url: str, login: str, scope: str = "administrator") -> str:
    """A token that an operator makes after signing in by a one-time link."""
    with session_of(client, url, login) as session:
        new = wop.NewToken(name=f"test {scope}", scope=scope, days=1, password=PASSWORD)
        return session.tokens.add(new).token
