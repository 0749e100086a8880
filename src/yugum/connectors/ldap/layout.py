"""Where things stand in a directory and what its attributes are called: data, never an ``if``."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields

from bonsai import LDAPEntry, escape_attribute_value, escape_filter_exp

from yugum.core.applications import Capability
from yugum.errors import InvalidInput

PERSON = (
    "cn",
    "sn",
    "givenName",
    "displayName",
    "mail",
    "title",
    "employeeNumber",
    "employeeType",
    "departmentNumber",
    "l",
    "o",
    "telephoneNumber",
    "mobile",
    "preferredLanguage",
    "manager",
)
"""What an inetOrgPerson says of its person (RFC 2798 3, RFC 4519 3.12)."""
HOME = "homeDirectory"
"""Where an account for systems (RFC 2307) has its files; it is only changed where the rules say so."""
LARGEST = 2**31 - 1
"""What fits into every system's uid_t."""
PERMANENT = "000001010000Z"
"""pwdAccountLockedTime of an account that stays locked (draft-behera-ldap-password-policy 5.3.3)."""


CAPABILITIES = frozenset(
    {
        Capability.SUSPEND,
        Capability.ENTITLEMENTS,
        Capability.CREDENTIAL,
        Capability.MUST_CHANGE,
        Capability.DUTY_PASSWORD,
        Capability.SETTINGS,
        Capability.PURGE,
        Capability.RENAME,
        Capability.TRIAL,
        Capability.GROUPS,
        Capability.ASSETS,
        Capability.MENTIONS,
    }
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """One directory's layout; ``base`` and ``bind`` have no default.

    An attribute left empty means that the directory has nothing of the kind: the setting is then
    not offered and plans fall back.
    """

    base: str
    bind: str
    people: str = "ou=people"
    leavers: str = "ou=leavers"
    groups: str = "ou=groups"
    classes: str = "inetOrgPerson posixAccount"
    login: str = "uid"
    correlation: str = "yugumAccount"
    hidden: str = "yugumHidden"
    alias: str = "yugumAlias"
    mark: str = "description"
    primary_group: str = ""
    home: str = "/home"
    numbers: str = "100000-499999"
    ca_file: str = ""

    @classmethod
    def of(cls, options: Mapping[str, str]) -> Layout:
        known = {f.name for f in fields(cls)}
        if unknown := sorted(set(options) - known):
            raise InvalidInput(
                f"An LDAP application has no option {unknown[0]}.",
                place=f"options.{unknown[0]}",
                remedy=f"Use: {', '.join(sorted(known))}.",
            )
        missing = [n for n in ("base", "bind") if not options.get(n)]
        if missing:
            raise InvalidInput(
                f"An LDAP application needs the option {missing[0]}.",
                place=f"options.{missing[0]}",
                remedy="For example base=dc=example,dc=org and bind=cn=yugum,dc=example,dc=org.",
            )
        layout = cls(**options)
        low, high = layout.range
        if not 0 < low <= high <= LARGEST:
            raise InvalidInput(
                f"'{layout.numbers}' is no range of numbers for accounts.",
                place="options.numbers",
                remedy="For example numbers=100000-499999, outside of what the directory uses.",
            )
        return layout

    @property
    def range(self) -> tuple[int, int]:
        """The first and the last number for accounts that are made; 0, 0 when it cannot be read."""
        low, _, high = self.numbers.partition("-")
        if not (low.strip().isdecimal() and high.strip().isdecimal()):
            return 0, 0
        return int(low), int(high)

    def container(self, name: str) -> str:
        """The DN of the container called ``people`` or ``leavers``, or of any other below the base."""
        part = {"people": self.people, "leavers": self.leavers}.get(name, name)
        return f"{part},{self.base}"

    def container_name(self, dn: str) -> str:
        """What a container's DN is called in a setting; the reverse of ``container``."""
        for name in ("people", "leavers"):
            if dn.lower() == self.container(name).lower():
                return name
        return dn[: -len(self.base) - 1] if dn.lower().endswith(self.base.lower()) else dn

    def entry_dn(self, login: str, container: str = "people") -> str:
        return f"{self.login}={escape_attribute_value(login)},{self.container(container)}"

    def named(self, attribute: str, value: str) -> str:
        """A filter for one value, whatever is in it (RFC 4515 3)."""
        return f"({attribute}={escape_filter_exp(value)})"

    @property
    def accounts(self) -> str:
        first = self.classes.split()[0]
        return f"(objectClass={first})"

    @property
    def attributes(self) -> list[str]:
        """What a search for accounts asks for; operational attributes by name."""
        asked = [self.login, HOME, *PERSON]
        asked += [self.correlation, self.hidden, self.alias, self.mark]
        asked += ["uidNumber", "entryUUID", "memberOf", "pwdAccountLockedTime", "pwdReset"]
        return [a for a in asked if a]


def first(entry: LDAPEntry, name: str) -> str:
    """An attribute's first value as text; empty when there is none."""
    values = entry.get(name) if name else None
    return str(values[0]) if values else ""


def rdn_value(dn: str) -> str:
    """The value of a DN's first part, unescaped as far as plain names need it."""
    value, escaped = "", False
    for char in dn.partition("=")[2]:
        if escaped:
            value, escaped = value + char, False
        elif char == "\\":
            escaped = True
        elif char == ",":
            break
        else:
            value += char
    return value


def parent(dn: str) -> str:
    """The DN above; commas that are escaped belong to the first part."""
    escaped = False
    for index, char in enumerate(dn):
        if escaped:
            escaped = False
        elif char == "\\":
            escaped = True
        elif char == ",":
            return dn[index + 1 :]
    return ""
