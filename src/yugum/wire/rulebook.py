"""A rules document into the core's rules; apart from the models, so that the client loads quickly."""

from __future__ import annotations

from yugum.core.people import FILTER_ATTRIBUTES
from yugum.core.roles import Given, Role, Rules
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter
from yugum.wire.rules import RulesDocument


def rules_from(document: RulesDocument, version: int) -> Rules:
    """The core's rules.

    Raises:
        InvalidInput: a condition cannot be read; the place names the role.
    """
    roles = []
    for name, role in document.roles.items():
        try:
            when = parse_filter(role.when, FILTER_ATTRIBUTES)
        except InvalidInput as error:
            raise InvalidInput(
                error.message, place=f"roles.{name}.when", remedy=error.remedy
            ) from error
        given: list[Given] = []
        for gives in role.gives:
            given.append(Given(gives.application, "account"))
            given += [Given(gives.application, "entitlement", e) for e in gives.entitlements]
            given += [Given(gives.application, "seat", s) for s in gives.seats]
        roles.append(Role(name, when, role.when, tuple(given)))
    return Rules(version, tuple(roles))
