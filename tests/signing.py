"""Signing in as an operator who was given a one-time link."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from yugum.client import Client
from yugum.wire import operators as wop

PASSWORD = "four words make it long"


@contextmanager
def for_now(client: Client, login: str, role: str, **more: str) -> Iterator[wop.OperatorRow]:
    """An operator who is one as long as this lasts: others count who administrates."""
    known = {o.login: o for o in client.operators.all()}
    if login not in known:
        new = {"login": login, "name": login.title(), "role": role, **more}
        client.operators.add(wop.NewOperator.model_validate(new))
        known = {o.login: o for o in client.operators.all()}
    row = known[login]
    client.operators.change(row.id, wop.OperatorChange(role=role, active=True))
    try:
        yield row
    finally:
        client.operators.change(row.id, wop.OperatorChange(active=False))


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
