"""What an operator asks for: the verb, whom, when, with which changes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from yugum.core.allocations import SeatTurn
from yugum.core.applications import Duty
from yugum.core.entry import Doubted
from yugum.core.facts import Fields
from yugum.core.verbs import Measure, Quick, Verb

MOST_AT_ONCE = 500
"""People in one request."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Terms:
    """What of a leaver's plan is one person's own, as typed."""

    at: str = ""
    since: str = ""
    last_day: str = ""
    contract_ends: str = ""
    successor: str = ""
    reference: str = ""
    reason: str = ""


NO_TERMS = Terms()


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRequest:
    """A verb for some people. ``at`` is as typed; ``changes`` are fields of a mover or a rename, not doubted
    where they are ``right``.

    ``since`` is when a late fact came true, ``overlap_days`` how long a mover keeps the roles that
    no longer apply (None: as the rules say), ``left_out`` steps that are not to be done:
    ``application/action/item`` each with a reason, ``duties`` what an ``action`` asks for. What is ``confidential`` keeps its
    ``reference`` and ``reason`` until it is fired, and why the guards known by then are overridden. A
    precaution is a ``measure`` with its ``ground`` and the day of its ``review``. A ``group`` of an
    ``application``, by name, is made (``new``) or changed as ``values`` say. Leavers of a ``file`` have
    terms of their own, ``each`` by id. Somebody looked at again is to have ``seats``, or none of them, ``until`` a
    moment.
    """

    verb: Verb
    who: tuple[str, ...] = ()
    at: str = ""
    until: str = ""
    changes: Fields = field(default_factory=dict)
    right: tuple[Doubted, ...] = ()
    since: str = ""
    overlap_days: int | None = None
    successor: str = ""
    docket: str = ""
    accounts: tuple[str, ...] = ()
    action: Quick | None = None
    duties: tuple[Duty, ...] = ()
    urgent: bool = False
    confidential: bool = False
    sensitive: bool = False
    left_out: Mapping[str, str] = field(default_factory=dict)
    last_day: str = ""
    contract_ends: str = ""
    reference: str = ""
    reason: str = ""
    override: str = ""
    measure: Measure | None = None
    ground: str = ""
    review: str = ""
    application: str = ""
    group: str = ""
    values: Mapping[str, str] = field(default_factory=dict)
    new: bool = False
    file: str = ""
    each: Mapping[str, Terms] = field(default_factory=dict)
    seats: Mapping[str, tuple[SeatTurn, ...]] = field(default_factory=dict)

    def of(self, person_id: str) -> PlanRequest:
        """The request as it is about one of its people."""
        own = self.each.get(person_id)
        if own is None:
            return self
        return replace(
            self,
            at=own.at,
            since=own.since,
            last_day=own.last_day,
            contract_ends=own.contract_ends,
            successor=own.successor,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class NewPerson:
    """A person to create; days as ISO 8601 or as typed, the manager by login, number or name.

    Fields that are ``right`` are not doubted. It is ``another`` one than who has the same number,
    address or names; it is to be taken in ``again`` though it was declined before. Of a ``birthday`` only a
    digest is kept.
    """

    user_name: str
    given_name: str = ""
    family_name: str = ""
    middle_name: str = ""
    honorific_prefix: str = ""
    honorific_suffix: str = ""
    nick_name: str = ""
    display_name: str = ""
    employee_number: str = ""
    user_type: str = ""
    department: str = ""
    division: str = ""
    organization: str = ""
    cost_center: str = ""
    title: str = ""
    site: str = ""
    manager: str = ""
    time_zone: str = ""
    preferred_language: str = ""
    locale: str = ""
    mail: str = ""
    outside_mail: str = ""
    phone: str = ""
    mobile: str = ""
    groups: str = ""
    own: Mapping[str, str] = field(default_factory=dict)
    starts: str = ""
    contract_ends: str = ""
    birthday: str = ""
    another: bool = False
    again: bool = False
    right: tuple[Doubted, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Somebody:
    """Fields of somebody who may not exist yet."""

    user_name: str = ""
    given_name: str = ""
    family_name: str = ""
    department: str = ""
    title: str = ""
    site: str = ""
    user_type: str = ""
    division: str = ""
    organization: str = ""
    cost_center: str = ""
    groups: str = ""
    own: Mapping[str, str] = field(default_factory=dict)
    mail: str = ""
