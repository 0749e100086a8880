"""A rules document into the core's rules; apart from the models, so that the client loads quickly."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from datetime import datetime, time
from typing import TypeVar

from yugum.core.accounts import HoldingKind
from yugum.core.actions import Phase
from yugum.core.applications import ProfileChange, SeatRule
from yugum.core.attributes import FIELDS as PATTERN_FIELDS
from yugum.core.attributes import PLACE as PATTERN_PLACE
from yugum.core.attributes import (
    SOLE,
    USUAL,
    Levels,
    Made,
    Mapped,
    Outside,
    OwnAttribute,
    OwnType,
    Shape,
    units_in,
)
from yugum.core.attributes import places as places_in
from yugum.core.conditions import EVERYONE, Condition
from yugum.core.names import FIELDS, PLACE, NameKind, NameRules, places
from yugum.core.offsets import WorkingHours, parse_days, parse_offset
from yugum.core.people import FILTER_ATTRIBUTES, OWN
from yugum.core.roles import (
    AS_USUAL,
    Approval,
    Delivery,
    Exclusion,
    Given,
    Notice,
    OwnStep,
    Procedure,
    Role,
    Rules,
)
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput
from yugum.wire.common import as_dataclass
from yugum.wire.filters import parse_filter
from yugum.wire.heirs import handover_in
from yugum.wire.licenses import license_problems, licenses_in
from yugum.wire.rules import (
    AccountsDocument,
    ApprovalMode,
    ProcedureDocument,
    RoleDocument,
    RulesDocument,
    WorkingHoursDocument,
)

Place = tuple[str | int, ...]
T = TypeVar("T")
Found = tuple[Place, InvalidInput]


def rules_from(document: RulesDocument, version: int, since: datetime | None = None) -> Rules:
    """The core's rules; ``since`` is when they were adopted.

    Raises:
        InvalidInput: a condition cannot be read or a name means nothing; the place says where.
    """
    for place, error in problems_in(document):
        raise InvalidInput(
            error.message, place=".".join(map(str, place)), remedy=error.remedy
        ) from error
    return Rules(
        version=version,
        since=since,
        working_hours=_working(document.working_hours),
        roles=tuple(
            _role(name, role, attributes_in(document)) for name, role in document.roles.items()
        ),
        names=NameRules(
            patterns=_patterns(document),
            domains=tuple(document.naming.domains),
            quarantine_days=document.naming.quarantine_days,
            length=document.naming.length,
        ),
        precedence=dict(document.settings),
        exclusions=tuple(_exclusions(document)),
        procedures={
            verb: _procedure(p, attributes_in(document)) for verb, p in _procedures(document)
        },
        approvals={
            name: Approval(
                name,
                tuple(a.by),
                a.mode is ApprovalMode.ALL,
                a.remind_hours,
                a.expire_hours,
                tuple(a.deputies),
            )
            for name, a in document.approvals.items()
        },
        notices=tuple(
            Notice(name, n.verb, n.at, tuple(n.to), n.subject, n.text)
            for name, n in document.notices.items()
        ),
        delivery=Delivery(tuple(document.credentials.to), document.credentials.valid_hours),
        profiles=_profiles(document),
        own={
            name: OwnAttribute(name, one.type, tuple(one.values))
            for name, one in document.attributes.items()
        },
        accounts={name: _mapped(said) for name, said in document.accounts.items()},
        licenses=licenses_in(document.licenses, attributes_in(document)),
        handover=handover_in(document.handover),
        orders_to=tuple(document.seats.orders_to),
        absence_frees_seats=document.seats.absence is SeatRule.FREED,
        adoption_ceiling=document.limits.adoption_takes_away,
        adoption_percent=document.limits.adoption_percent,
        adoption_people=document.limits.adoption_people,
        grace_hours=document.limits.grace_hours,
        guards=dict(document.guards),
    )


def _exclusions(document: RulesDocument) -> Iterator[Exclusion]:
    for name, x in document.exclusive.items():
        yield Exclusion(name, tuple(pair for e in x.entitlements for pair in e.items()))


def _patterns(document: RulesDocument) -> Mapping[NameKind, tuple[str, ...]]:
    naming = document.naming
    return {
        NameKind.LOGIN: tuple(naming.login),
        NameKind.MAIL: tuple(naming.mail),
        NameKind.ALIAS: tuple(naming.alias),
        NameKind.DISPLAY_NAME: tuple(naming.display_name),
        NameKind.HOME: tuple(naming.home),
    }


def _procedures(document: RulesDocument) -> Iterator[tuple[Verb, ProcedureDocument]]:
    said = document.procedures
    yield Verb.JOINER, said.joiner
    yield Verb.MOVER, said.mover
    yield Verb.LEAVER, said.leaver
    yield Verb.RETURNER, said.returner
    yield Verb.ABSENCE, said.absence
    yield Verb.RENAME, said.rename
    yield Verb.EXTENSION, said.extension


def _profiles(document: RulesDocument) -> Mapping[str, ProfileChange]:
    """What the rules say over the applications' own profiles, by application."""
    found = {
        name: ProfileChange(
            deletion=w.deletion,
            window_days=w.window_days,
            close_after_days=w.close_after_days,
        )
        for name, w in document.windows.items()
    }
    for name, said in document.profiles.items():
        change = as_dataclass(said, ProfileChange)
        found[name] = change.over(found[name]) if name in found else change
    return found


def _mapped(said: AccountsDocument) -> Mapped:
    named = {
        name: Made(
            USUAL.get(name, "") if one.of is None else one.of,
            one.keep or said.keep,
            one.outside or said.outside,
            Shape(one.longest, tuple(one.values)),
        )
        for name, one in said.attributes.items()
    }
    levels = {
        name: Levels(tuple(one.offers), tuple(one.administrators), one.approval)
        for name, one in said.levels.items()
    }
    units = {name: tuple(offered) for name, offered in said.units.items()}
    return Mapped(said.keep, said.outside, named, levels, units)


def attributes_in(document: RulesDocument) -> tuple[str, ...]:
    """What conditions may name: attributes of people, the organisation's own among them."""
    return (*FILTER_ATTRIBUTES, *(f"{OWN}{name}" for name in document.attributes))


def _role(name: str, role: RoleDocument, attributes: Sequence[str]) -> Role:
    given: list[Given] = []
    for gives in role.gives:
        given.append(Given(gives.application, HoldingKind.ACCOUNT))
        given += [Given(gives.application, HoldingKind.ENTITLEMENT, e) for e in gives.entitlements]
        given += [Given(gives.application, HoldingKind.SEAT, s) for s in gives.seats]
        given += [
            Given(gives.application, HoldingKind.SETTING, k, v) for k, v in gives.settings.items()
        ]
    when = parse_filter(role.when, attributes)
    return Role(name, when, role.when, tuple(given), role.overlap_days, role.approval, role.changes)


def _procedure(document: ProcedureDocument, attributes: Sequence[str]) -> Procedure:
    return Procedure(
        approval=document.approval,
        urgent_afterwards=document.urgent_afterwards,
        steps=tuple(
            OwnStep(
                s.name,
                s.application,
                Phase(s.phase.value.replace("_", " ")),
                _when(s.when, attributes),
                s.undo,
                parse_offset(s.at) if s.at else None,
                _when(s.wait_for, attributes),
            )
            for s in document.steps
        ),
        alias_days=document.alias_days,
        reports_to=document.reports_to,
        remind_days=tuple(document.remind_days),
        longest_days=document.longest_days,
    )


def _working(document: WorkingHoursDocument) -> WorkingHours:
    begins, ends = time.fromisoformat(document.begins), time.fromisoformat(document.ends)
    if begins >= ends:
        raise InvalidInput("The working day ends before it begins.", remedy="Swap the two.")
    shifts = {site: time.fromisoformat(ends) for site, ends in document.shifts.items()}
    return WorkingHours(begins, ends, parse_days(document.days), shifts)


def _when(text: str, attributes: Sequence[str]) -> Condition:
    return parse_filter(text, attributes) if text else EVERYONE


ONLY_OF = {
    "alias_days": Verb.RENAME,
    "reports_to": Verb.LEAVER,
    "remind_days": Verb.EXTENSION,
    "longest_days": Verb.EXTENSION,
}
"""What is said of one procedure and means nothing to another."""


def problems_in(document: RulesDocument) -> Iterator[Found]:
    """What is wrong inside a document of the right form, each with its place in it."""
    attributes = attributes_in(document)
    yield from _attributes(document)
    for name, role in document.roles.items():
        yield from _condition(("roles", name, "when"), role.when, attributes)
        yield from _named(("roles", name, "approval"), role.approval, document.approvals)
    for verb, procedure in _procedures(document):
        place: Place = ("procedures", verb.value)
        yield from _named((*place, "approval"), procedure.approval, document.approvals)
        for name, only in ONLY_OF.items():
            if verb is not only and getattr(procedure, name):
                text = f"{name} is nothing that a {verb.value} has."
                remedy = f"Write it under procedures.{only.value}."
                yield (*place, name), InvalidInput(text, remedy=remedy)
        for index, step in enumerate(procedure.steps):
            for field, text in (("when", step.when), ("wait_for", step.wait_for)):
                if text:
                    yield from _condition((*place, "steps", index, field), text, attributes)
            if step.at:
                yield from _tried((*place, "steps", index, "at"), parse_offset, step.at)
    yield from license_problems(document.licenses, attributes)
    yield from _tried(("working_hours",), _working, document.working_hours)
    for kind, patterns in _patterns(document).items():
        for index, pattern in enumerate(patterns):
            yield from _pattern(("naming", kind.value, index), pattern, document.naming.domains)


def _attributes(document: RulesDocument) -> Iterator[Found]:
    """What is wrong with attributes of the organisation's own, and with those of accounts."""
    for name, one in document.attributes.items():
        place: Place = ("attributes", name, "values")
        if (one.type is OwnType.ONE_OF) != bool(one.values):
            text = "One of a list needs its values, and nothing else has any."
            yield place, InvalidInput(text, remedy="Write type: one_of with values, or neither.")
    fields = (*PATTERN_FIELDS, *(f"{OWN}{name}" for name in document.attributes))
    for application, said in document.accounts.items():
        if said.outside is Outside.TAKE_OVER:
            text = "What is taken over is said of single attributes."
            place = ("accounts", application, "outside")
            yield place, InvalidInput(text, remedy="Write it under attributes.")
        for name, made in _mapped(said).named.items():
            place = ("accounts", application, "attributes", name)
            unknown = [p for p in places_in(made.of) if p not in fields]
            if unknown:
                text = f"'{unknown[0]}' is nothing that a pattern can name."
                yield (*place, "of"), InvalidInput(text, remedy=f"Use: {', '.join(fields)}.")
            elif set("{}") & set(PATTERN_PLACE.sub("", made.of)):
                text = f"'{made.of}' has a brace too many or too few."
                yield (*place, "of"), InvalidInput(text, remedy="Write {given}, or {given:1}.")
            if made.outside is Outside.TAKE_OVER and made.of not in SOLE:
                text = f"'{made.of}' is not one field of the person, which could be taken over."
                yield (
                    (*place, "outside"),
                    InvalidInput(text, remedy=f"Take over only: {', '.join(SOLE)}."),
                )
    yield from _taken_over_once(document)
    yield from _levels(document)


def _levels(document: RulesDocument) -> Iterator[Found]:
    """What is wrong with levels and units, and with what roles give of them."""
    mapped = {name: _mapped(said) for name, said in document.accounts.items()}
    for application, said in document.accounts.items():
        for name, one in said.levels.items():
            place: Place = ("accounts", application, "levels", name)
            if strange := sorted({*one.administrators} - {*one.offers}):
                text = f"'{strange[0]}' is none of the levels."
                remedy = f"Use: {', '.join(one.offers)}."
                yield (*place, "administrators"), InvalidInput(text, remedy=remedy)
            yield from _named((*place, "approval"), one.approval, document.approvals)
            if name in said.units:
                text = f"'{name}' holds either a level or units."
                yield place, InvalidInput(text, remedy="Keep one of the two.")
        for name, units in said.units.items():
            if comma := next((u for u in units if units_in(u) != [u]), ""):
                text = f"'{comma}' is no name of a unit: commas stand between them."
                place = ("accounts", application, "units", name)
                yield place, InvalidInput(text, remedy="Write each as an entry of its own.")
        for name in sorted({*said.levels, *said.units} & {*said.attributes}):
            text = f"{name} is given by roles; a pattern would give it as well."
            place = ("accounts", application, "attributes", name)
            yield place, InvalidInput(text, remedy="Take one of the two out.")
    for role, gives in document.roles.items():
        for index, part in enumerate(gives.gives):
            known = mapped.get(part.application, AS_USUAL)
            for name, value in part.settings.items():
                if "{" not in value and (strange_one := known.unknown(name, value)):
                    place = ("roles", role, "gives", index, "settings", name)
                    text = f"{part.application} offers no {name} '{strange_one}'."
                    remedy = f"Use: {', '.join(known.offered(name))}."
                    yield place, InvalidInput(text, remedy=remedy)


def _taken_over_once(document: RulesDocument) -> Iterator[Found]:
    """One field of people follows one application: two would overwrite each other for ever."""
    follows: dict[str, str] = {}
    for application, said in document.accounts.items():
        for name, one in _mapped(said).named.items():
            if one.outside is not Outside.TAKE_OVER or one.of not in SOLE:
                continue
            other = follows.setdefault(one.of, application)
            if other != application:
                text = f"{one.of} is taken over from {other} already."
                place = ("accounts", application, "attributes", name, "outside")
                yield place, InvalidInput(text, remedy="Say put_back or ask in one of the two.")


def _condition(place: Place, text: str, attributes: Sequence[str]) -> Iterator[Found]:
    yield from _tried(place, lambda given: parse_filter(given, attributes), text)


def _tried(place: Place, reader: Callable[[T], object], given: T) -> Iterator[Found]:
    try:
        reader(given)
    except InvalidInput as error:
        yield place, error


def _named(place: Place, name: str, known: Collection[str]) -> Iterator[Found]:
    if name and name not in known:
        listed = ", ".join(sorted(known)) or "none; add one under approvals"
        yield place, InvalidInput(f"There is no approval {name}.", remedy=f"Known are: {listed}.")


def _pattern(place: Place, pattern: str, domains: Sequence[str]) -> Iterator[Found]:
    unknown = [p for p in places(pattern) if p not in FIELDS]
    if unknown:
        yield (
            place,
            InvalidInput(
                f"'{unknown[0]}' is no field of a name.", remedy=f"Use: {', '.join(FIELDS)}."
            ),
        )
    elif "{" in PLACE.sub("", pattern) or "}" in PLACE.sub("", pattern):
        yield (
            place,
            InvalidInput(
                f"'{pattern}' has a brace too many or too few.",
                remedy="Write {given}, {given:1} or {given|family}.",
            ),
        )
    elif "mail_domain" in places(pattern) and not domains:
        yield (
            place,
            InvalidInput(
                "The pattern uses mail_domain, but no domain is named.",
                remedy="Add naming.domains.",
            ),
        )
