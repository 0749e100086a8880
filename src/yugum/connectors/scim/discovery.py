"""What a SCIM application says that it can do (RFC 7643 5, 6, 7)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from yugum.connectors.scim.groups import offered
from yugum.connectors.scim.resources import renames
from yugum.connectors.scim.words import ACCOUNT
from yugum.core.applications import Capability, Duty
from yugum.core.invitations import CAPABILITY

BASE = {
    Capability.SUSPEND,
    Capability.DELETE,
    Capability.PURGE,
    Capability.CREDENTIAL,
    Capability.RENAME,
}
BY_TYPE = {
    "Group": Capability.ENTITLEMENTS,
    "Seat": Capability.SEATS,
    "OwnedItem": Capability.ASSETS,
    "Setting": Capability.MENTIONS,
    "DeletedUser": Capability.RESTORE,
}
"""What comes with a type of resources."""


def offers(config: Mapping[str, Any], types: list[Any], schemas: Any) -> frozenset[Capability]:  # noqa: ANN401 - as it came
    """The capabilities that follow from an application's description of itself."""
    names = {r["name"] for r in types}
    extensions = {
        e["schema"] for r in types if r["name"] == "User" for e in r.get("schemaExtensions", [])
    }
    found = set(BASE) | {capability for name, capability in BY_TYPE.items() if name in names}
    if not config.get("changePassword", {}).get("supported", True):
        found.discard(Capability.CREDENTIAL)
    if not renames(schemas):
        found.discard(Capability.RENAME)
    if ACCOUNT in extensions:
        found |= {Capability.SESSIONS, Capability.KEYS, Capability.SETTINGS}
    if config.get(ACCOUNT, {}).get("archive"):
        found.add(Capability.ARCHIVE)
    if config.get(ACCOUNT, {}).get("devices"):
        found.add(Capability.DEVICES)
    if config.get(ACCOUNT, {}).get("copies"):
        found.add(Capability.COPY)
    if config.get(ACCOUNT, {}).get("invites"):
        found.add(Capability.INVITE)
    duties = set(config.get(ACCOUNT, {}).get("duties") or ())
    found |= {CAPABILITY[duty] for duty in Duty if duty.value in duties}
    if Duty.PASSWORD.value in duties:
        found.add(Capability.MUST_CHANGE)
    if offered(types):
        found.add(Capability.GROUPS)
    return frozenset(found)
