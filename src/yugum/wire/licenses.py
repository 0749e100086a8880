"""What the rules say of licenses, read and held against each other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated

from pydantic import Field

from yugum.core.licenses import Carries, Cheaper, License, Licenses, WhenEmpty, in_circle
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter
from yugum.wire.part import Days, Name, Part


class LicenseDocument(Part):
    """How a license is given; quantities, terms and prices are of its pool (``yugum seats``)."""

    when_empty: WhenEmpty = Field(
        WhenEmpty.WAIT,
        description="Where no seat is free: wait in line, none at all, or one too many.",
    )
    persons_only: bool = Field(False, description="For named persons only, no shared account.")
    who: str = Field(
        "", max_length=4000, description="Who may have a seat: a filter like those of roles."
    )
    priority: list[Annotated[str, Field(min_length=1, max_length=4000)]] = Field(
        [],
        description="Filters, those served first before; then who begins first, then who came first.",
    )
    requires: list[Name] = Field(
        [], description="Licenses of the application one must have before."
    )
    contains: list[Name] = Field([], description="Licenses that a seat of this one brings along.")
    instead_of: list[Name] = Field([], description="Licenses of which one does as well as this.")
    cheaper: dict[Name, Annotated[str, Field(min_length=1, max_length=4000)]] = Field(
        {}, description="Licenses that do for those of a filter: whose seat could be swapped."
    )
    carries: list[Carries] = Field(
        [],
        description="A leaver's seat stays while their mail goes on, or until what they own is handed over.",
    )
    groups: list[Name] = Field(
        [], description="Groups that go with a seat; either without the other is a finding."
    )
    unused_days: Days = Field(60, description="Unused for so long it is one to reclaim.")
    never_used_days: Days = Field(14, description="Never used so long after it was taken, too.")
    ask_days: Days = Field(
        0,
        description="Whoever does not use it is asked by mail, and has so long to answer; 0: not.",
    )


Document = Mapping[str, Mapping[str, LicenseDocument]]
Found = tuple[tuple[str | int, ...], InvalidInput]
OTHERS = ("requires", "contains", "instead_of")


def licenses_in(document: Document, attributes: Sequence[str]) -> Licenses:
    """Licenses by application and name, of a document without problems."""
    return {
        (application_id, name): _license(said, attributes)
        for application_id, licenses in document.items()
        for name, said in licenses.items()
    }


def _license(said: LicenseDocument, attributes: Sequence[str]) -> License:
    return License(
        when_empty=said.when_empty,
        persons_only=said.persons_only,
        who=parse_filter(said.who, attributes) if said.who else None,
        who_text=said.who,
        priority=tuple(parse_filter(p, attributes) for p in said.priority),
        requires=tuple(said.requires),
        contains=tuple(said.contains),
        instead_of=tuple(said.instead_of),
        cheaper=tuple(Cheaper(n, parse_filter(t, attributes)) for n, t in said.cheaper.items()),
        carries=frozenset(said.carries),
        groups=tuple(said.groups),
        unused_days=said.unused_days,
        never_used_days=said.never_used_days,
        ask_days=said.ask_days,
    )


def license_problems(document: Document, attributes: Sequence[str]) -> Iterator[Found]:
    """Filters that cannot be read, and licenses that require or contain themselves, each with its place."""
    for application_id, licenses in document.items():
        for name, said in licenses.items():
            place = ("licenses", application_id, name)
            texts = [("who", said.who)] if said.who else []
            filters: list[tuple[tuple[str | int, ...], str]] = [((n,), text) for n, text in texts]
            filters += [(("priority", n), p) for n, p in enumerate(said.priority)]
            filters += [(("cheaper", n), text) for n, text in said.cheaper.items()]
            for part, text in filters:
                try:
                    parse_filter(text, attributes)
                except InvalidInput as error:
                    yield (*place, *part), error
            for relation in ("requires", "contains"):
                others = {n: tuple(getattr(one, relation)) for n, one in licenses.items()}
                if in_circle(name, others):
                    text = f"{name} {relation} itself."
                    yield (*place, relation), InvalidInput(text, remedy="Leave one of them out.")
            if both := {*said.requires} & {*said.contains}:
                text = f"{name} both requires and contains {min(both)}."
                yield (*place, "requires"), InvalidInput(text, remedy="Leave it out of one.")
