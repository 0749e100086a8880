"""What an id stands for, said as people say it: whose account where, which license of what, whose hold."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress

from yugum.client import Client
from yugum.errors import Ambiguous, NotFound


def account_id(client: Client, said: str) -> str:
    """An account by its id, or as WHO/APPLICATION where they have one account there.

    Raises:
        NotFound: they have none there.
        Ambiguous: they have several.
    """
    who, slash, application = said.rpartition("/")
    if not slash:
        return said
    found = [
        a
        for a in client.accounts.all(who=who, application=application)
        if a.state not in ("purged", "gone")
    ]
    return _only([(a.id, f"{a.login} ({a.state})") for a in found], said, "account")


def account_ids(client: Client, said: Sequence[str]) -> list[str]:
    return [account_id(client, one) for one in said]


def pool_id(client: Client, said: str) -> str:
    """A pool by its id, or as APPLICATION/LICENSE.

    Raises:
        NotFound: there is no such pool.
    """
    application, slash, license = said.partition("/")
    if not slash:
        return said
    found = [
        p
        for p in client.seats.all()
        if p.license.lower() == license.lower()
        and application.lower() in (p.application_id.lower(), p.application_name.lower())
    ]
    return _only([(p.id, p.license) for p in found], said, "pool")


def hold_id(client: Client, said: str) -> str:
    """A decision by its id, or the one hold on somebody (login or number) or on an application.

    Raises:
        Ambiguous: there are several holds on them.
    """
    holds = list(client.decisions.holds())
    if any(h.id == said for h in holds):
        return said
    names = {said.lower()}
    with suppress(NotFound):
        names.add(client.people.show(said).id)
    found = [
        h
        for h in holds
        if names & {h.name.lower(), h.person_id or "", (h.application_id or "").lower()}
    ]
    return _only([(h.id, h.reason) for h in found], said, "hold") if found else said


def _only(found: Sequence[tuple[str, str]], said: str, what: str) -> str:
    if not found:
        raise NotFound(f"There is no {what} {said}.", place=what, remedy="See the list of them.")
    if len(found) > 1:
        listed = "; ".join(f"{told}: {one}" for one, told in found[:5])
        raise Ambiguous(
            f"{said} fits several: {listed}.", place=what, remedy="Name the one you mean by its id."
        )
    return found[0][0]
