"""Attributes of accounts: what each is made of, whether it is kept in step, who is right about it.

An application says which attributes its accounts have (discovery); the organisation's rules say what
goes into them. Values are texts: days as ISO 8601, yes and no as words.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from yugum.core.conditions import fold
from yugum.core.people import OWN, Person, as_text, full_name

PLACE = re.compile(r"\{([a-z][a-z0-9_.|]*)(?::(\d+))?\}")


class OwnType(StrEnum):
    """What kind of value an attribute of the organisation's own has."""

    TEXT = "text"
    NUMBER = "number"
    DATE = "date"
    YES_NO = "yes_no"
    ONE_OF = "one_of"
    PERSON = "person"


@dataclass(frozen=True, slots=True)
class OwnAttribute:
    """An attribute of people that the rules declare; ``values`` are those of ``one_of``."""

    name: str
    type: OwnType
    values: tuple[str, ...] = ()


class Keep(StrEnum):
    """Whether an attribute is set when the account is made, or kept in step from then on."""

    ONCE = "once"
    IN_STEP = "in_step"


class Outside(StrEnum):
    """What becomes of a change that was made in the application."""

    PUT_BACK = "put_back"
    TAKE_OVER = "take_over"
    ASK = "ask"


MOST_TIMES = 3
"""How often a day one attribute of one account is put back; then somebody is asked."""


@dataclass(frozen=True, slots=True)
class Shape:
    """What an application takes in an attribute: 0 characters is any number, no values are any."""

    longest: int = 0
    values: tuple[str, ...] = ()

    def problem(self, value: str) -> str:
        """What speaks against a value; "" where nothing does."""
        if self.longest and len(value) > self.longest:
            return f"takes at most {self.longest} characters, '{value}' has {len(value)}"
        if self.values and value and fold(value) not in {fold(v) for v in self.values}:
            return f"takes only {', '.join(self.values)}, not '{value}'"
        return ""


@dataclass(frozen=True, slots=True)
class Made:
    """How the rules make an attribute: ``of`` is a pattern, "" leaves the attribute alone.

    ``shape`` is what the application takes, where it does not say so itself.
    """

    of: str
    keep: Keep = Keep.ONCE
    outside: Outside = Outside.PUT_BACK
    shape: Shape = field(default_factory=Shape)


@dataclass(frozen=True, slots=True)
class Levels:
    """The levels of an account, the lowest first; of several that are given the highest counts.

    ``administrators`` are those of whoever runs the application; to get one ``approval`` must be given.
    """

    offers: tuple[str, ...]
    administrators: tuple[str, ...] = ()
    approval: str = ""


@dataclass(frozen=True, slots=True)
class Mapped:
    """What the rules say of the attributes of one application's accounts.

    Those it has and that are not named are made as is usual, with this ``keep`` and ``outside``.
    ``levels`` and ``units`` name the attribute, or setting, that holds them; of the ``units`` an account
    serves all count that are given, separated by commas.
    """

    keep: Keep = Keep.ONCE
    outside: Outside = Outside.PUT_BACK
    named: Mapping[str, Made] = field(default_factory=dict)
    levels: Mapping[str, Levels] = field(default_factory=dict)
    units: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def merged(self, name: str, values: Iterable[str]) -> str | None:
        """One value out of those that are given for a level or for units; None of anything else."""
        if name in self.units:
            return ", ".join(sorted({u for value in values for u in units_in(value)}))
        if name not in self.levels:
            return None
        offers = self.levels[name].offers
        return max(values, key=lambda v: offers.index(v) if v in offers else -1)

    def unknown(self, name: str, value: str) -> str:
        """What of a level or of units the application does not offer; "" where all is."""
        if name in self.levels:
            return "" if value in ("", *self.levels[name].offers) else value
        offers = self.units.get(name, ())
        return next((u for u in units_in(value) if u not in offers), "") if offers else ""

    def offered(self, name: str) -> tuple[str, ...]:
        """The levels, or units, that there are."""
        return self.levels[name].offers if name in self.levels else self.units.get(name, ())


def units_in(value: str) -> list[str]:
    """The units in a value: separated by commas."""
    return [u for part in value.split(",") if (u := part.strip())]


USUAL: Mapping[str, str] = {
    # SCIM core and enterprise schema (RFC 7643 4.1, 4.3)
    "displayName": "{name}",
    "name.givenName": "{given}",
    "name.familyName": "{family}",
    "name.middleName": "{middle}",
    "name.honorificPrefix": "{prefix}",
    "name.honorificSuffix": "{suffix}",
    "nickName": "{nick}",
    "title": "{title}",
    "userType": "{user_type}",
    "preferredLanguage": "{language}",
    "locale": "{locale}",
    "timezone": "{time_zone}",
    "emails.work": "{mail}",
    "phoneNumbers.work": "{phone}",
    "phoneNumbers.mobile": "{mobile}",
    "addresses.work.locality": "{site}",
    "enterprise.employeeNumber": "{number}",
    "enterprise.costCenter": "{cost_center}",
    "enterprise.organization": "{organization}",
    "enterprise.division": "{division}",
    "enterprise.department": "{department}",
    "enterprise.manager": "{manager_id}",
    # inetOrgPerson (RFC 2798) and what it is made of (RFC 4519)
    "cn": "{name}",
    "sn": "{family|name}",
    "givenName": "{given}",
    "mail": "{mail}",
    "employeeNumber": "{number}",
    "employeeType": "{user_type}",
    "departmentNumber": "{department}",
    "l": "{site}",
    "o": "{organization}",
    "telephoneNumber": "{phone}",
    "mobile": "{mobile}",
    "manager": "{manager_login}",
    # a mail store and a database
    "realname": "{name}",
    "comment": "{name}, {title}, {department}",
}
"""What attributes are made of where the rules say nothing else, by the names connectors give."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Boss:
    """Somebody's manager as attributes name one; login and id are those in the application."""

    name: str = ""
    user_name: str = ""
    mail: str = ""
    login: str = ""
    external_id: str = ""

    def values(self) -> dict[str, str]:
        """What of a manager can be named in a pattern, by name."""
        return {
            "manager": self.user_name,
            "manager_name": self.name,
            "manager_mail": self.mail,
            "manager_login": self.login,
            "manager_id": self.external_id,
        }


NO_BOSS = Boss()
SOLE: Mapping[str, str] = {
    "{given}": "given_name",
    "{family}": "family_name",
    "{middle}": "middle_name",
    "{prefix}": "honorific_prefix",
    "{suffix}": "honorific_suffix",
    "{nick}": "nick_name",
    "{name}": "display_name",
    "{number}": "employee_number",
    "{mail}": "mail",
    "{phone}": "phone",
    "{mobile}": "mobile",
    "{title}": "title",
    "{department}": "department",
    "{division}": "division",
    "{organization}": "organization",
    "{cost_center}": "cost_center",
    "{site}": "site",
    "{user_type}": "user_type",
    "{language}": "preferred_language",
    "{locale}": "locale",
}
"""Patterns that are one field of the person, so that a change outside can be taken over."""


def places(pattern: str) -> Iterator[str]:
    """What a pattern names."""
    for match in PLACE.finditer(pattern):
        yield from match[1].split("|")


def values_of(person: Person) -> Mapping[str, str]:
    """What of a person can be named in a pattern, by name."""
    values = {
        "name": full_name(person),
        "given": person.given_name,
        "family": person.family_name,
        "middle": person.middle_name,
        "prefix": person.honorific_prefix,
        "suffix": person.honorific_suffix,
        "nick": person.nick_name,
        "login": person.user_name,
        "number": person.employee_number,
        "mail": person.mail,
        "outside_mail": person.outside_mail,
        "phone": person.phone,
        "mobile": person.mobile,
        "title": person.title,
        "department": person.department,
        "division": person.division,
        "organization": person.organization,
        "cost_center": person.cost_center,
        "site": person.site,
        "user_type": person.user_type,
        "language": person.preferred_language,
        "locale": person.locale,
        "time_zone": person.time_zone,
        "starts": as_text(person.starts),
        "contract_ends": as_text(person.contract_ends),
        "access_ends": as_text(person.access_ends),
    }
    return values | {f"{OWN}{name}": value for name, value in person.own}


PLAIN = frozenset(values_of(Person(id="", user_name="")))
"""What of it every person has."""
FIELDS = (*sorted(PLAIN), *NO_BOSS.values())
"""What a pattern may name, besides attributes of the organisation's own."""


def made_of(pattern: str, values: Mapping[str, str]) -> str:
    """A pattern with its places filled in; what is empty leaves nothing, not even its comma."""

    def fill(match: re.Match[str]) -> str:
        text = next((v for n in match[1].split("|") if (v := values.get(n, ""))), "")
        return text[: int(match[2])] if match[2] else text

    plain = PLACE.sub(fill, pattern)
    parts = [p.strip() for p in plain.split(",")] if "," in pattern else [plain]
    return ", ".join(" ".join(p.split()) for p in parts if p)


def checked(declared: Mapping[str, OwnAttribute], name: str, value: str) -> str:
    """What speaks against a value of an attribute of one's own; "" where nothing does."""
    one = declared.get(name)
    if one is None:
        listed = ", ".join(sorted(declared)) or "none"
        return f"no attribute {name} is declared in the rules; declared are: {listed}"
    if not value:
        return ""
    match one.type:
        case OwnType.NUMBER:
            return "" if re.fullmatch(r"-?\d{1,15}(\.\d{1,6})?", value) else "it is a number, as 12"
        case OwnType.DATE:
            try:
                date.fromisoformat(value)
            except ValueError:
                return "it is a day, as 2031-03-07"
        case OwnType.YES_NO if value not in ("yes", "no"):
            return "it is yes or no"
        case OwnType.ONE_OF if value not in one.values:
            return f"it is one of: {', '.join(one.values)}"
    return ""


@dataclass(frozen=True, slots=True)
class Recipe:
    """How one attribute that an application has is made; ``sole`` is the one place of a pattern that is it.

    ``of_boss`` says whether it names the manager's account, ``in_step`` whether it is kept so.
    """

    name: str
    made: Made
    sole: str
    of_boss: bool
    in_step: bool


def recipes(known: Iterable[str], mapped: Mapped) -> tuple[Recipe, ...]:
    """The recipes of all attributes that an application has, but of those that are left alone."""
    found = []
    for name, made in makes(known, mapped):
        if not made.of:
            continue
        match = PLACE.fullmatch(made.of)
        sole = match[1] if match and not match[2] and "|" not in match[1] else ""
        of_boss = not ACCOUNTS_OF_BOSS.isdisjoint(places(made.of))
        found.append(Recipe(name, made, sole, of_boss, made.keep is Keep.IN_STEP))
    return tuple(found)


def attributes_wanted(
    person: Person, boss: Boss, known: Iterable[Recipe]
) -> Iterator[tuple[str, str, Recipe]]:
    """The attributes an account of an application should have: name, value, and how it is made.

    Where the manager has no account there yet, what names it is left alone.
    """
    values = {**values_of(person), **boss.values()}
    no_account = person.manager_id is not None and not boss.external_id
    for one in known:
        if not (no_account and one.of_boss):
            yield (
                one.name,
                values.get(one.sole, "") if one.sole else made_of(one.made.of, values),
                one,
            )


def makes(known: Iterable[str], mapped: Mapped) -> Iterator[tuple[str, Made]]:
    """How each attribute that an application has is made."""
    for name in known:
        usual = Made(USUAL.get(name, ""), mapped.keep, mapped.outside)
        yield name, mapped.named.get(name, usual)


ACCOUNTS_OF_BOSS = frozenset({"manager_login", "manager_id"})
