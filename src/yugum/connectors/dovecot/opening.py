"""How a mail store is opened: what it is signed in with, and the calendars that belong to its mailboxes."""

from __future__ import annotations

from pydantic import ValidationError

from yugum.connectors.caldav import Attached, Options
from yugum.connectors.dovecot.connector import DovecotConnector, Secret
from yugum.errors import InvalidInput
from yugum.ports.connectors import Connector, ConnectorSpec


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
            remedy='Give JSON: {"database": URL, "doveadm": KEY, "master": PASSWORD}.',
        ) from None  # it quotes what it does not understand
    for option in ("domain", "sieve", "master"):
        if not spec.options.get(option):
            raise InvalidInput(
                f"{spec.name} lacks the option {option}.",
                place="options",
                remedy="Give domain, sieve (host:port) and master (the master user's name).",
            )
    store = DovecotConnector(spec, secret)
    calendars = Options.of(spec)
    return store if calendars is None else Attached(store, spec, calendars, secret.calendars)
