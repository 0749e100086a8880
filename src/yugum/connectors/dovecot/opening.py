"""How a mail store is opened: what it is signed in with, and the calendars that belong to its mailboxes."""

from __future__ import annotations

from pydantic import ValidationError

from yugum.connectors.caldav import Attached, Options
from yugum.connectors.dovecot.connector import DovecotConnector, Secret
from yugum.errors import InvalidInput
from yugum.ports.connectors import Connector, ConnectorSpec

OPTIONS = frozenset(
    {"domain", "sieve", "master", "starttls", "calendars", "calendars_user", "smtp"}
)


def connect(spec: ConnectorSpec) -> Connector:
    """The connector's entry point; ``spec.url`` is doveadm's, ``spec.secret`` a `Secret` in JSON.

    Raises:
        InvalidInput: the secret is not such a document, or an option is missing.
    """
    try:
        secret = Secret.model_validate_json(spec.secret)
    except ValidationError:
        raise InvalidInput(
            f"The secret of {spec.name} is not complete.",
            place="secret",
            remedy='Give JSON: {"database": URL, "doveadm": KEY, "master": PASSWORD}; for calendars also "calendars".',
        ) from None  # it quotes what it does not understand
    if unknown := sorted(set(spec.options) - OPTIONS):
        raise InvalidInput(
            f"A mail store has no option {unknown[0]}.",
            place=f"options.{unknown[0]}",
            remedy=f"Use: {', '.join(sorted(OPTIONS))}.",
        )
    for option in ("domain", "sieve", "master"):
        if not spec.options.get(option):
            raise InvalidInput(
                f"{spec.name} lacks the option {option}.",
                place="options",
                remedy="Give domain, sieve (host:port) and master (the master user's name).",
            )
    store = DovecotConnector(spec, secret)
    calendars = Options.of(spec)
    if calendars is not None and not secret.calendars:
        raise InvalidInput(
            f"The secret of {spec.name} lacks the password of {calendars.user}.",
            place="secret",
            remedy='Give it as "calendars".',
        )
    return store if calendars is None else Attached(store, spec, calendars, secret.calendars)
