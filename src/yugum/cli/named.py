"""What an id stands for, said as people say it: whose account where, which license of what, whose hold."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress

from yugum.client import Client
from yugum.core.accounts import AccountState
from yugum.errors import Ambiguous, InvalidInput, NotFound


def account_id(client: Client, said: str) -> str:
    """An account by its id, or as WHO/APPLICATION where they have one account there.

    Raises:
        InvalidInput: one of both is left out.
        NotFound: they have none there.
        Ambiguous: they have several.
    """
    who, slash, application = said.rpartition("/")
    if not slash:
        return said
    if not who or not application:
        raise InvalidInput(f"{said} is no account.", place="account", remedy="Say WHO/APPLICATION.")
    every = client.accounts.all(who=who, application=application)
    found = [a for a in every if a.state != AccountState.PURGED]
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
