"""What the rules document says of who takes over."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.heirs import DefaultHeir, HandoverRules
from yugum.wire.part import Name, Part


class DefaultHeirDocument(Part):
    """To whom things go that nobody chose anything for; without application or thing, all of them."""

    to: Name = Field(
        description="manager, managers-manager (each up the chain to somebody who can), or somebody by login."
    )
    application: Annotated[str, Field(max_length=60)] = ""
    thing: Annotated[str, Field(max_length=60)] = Field(
        "", description="A kind of thing as the application calls it: roster."
    )


class HandoverDocument(Part):
    defaults: list[DefaultHeirDocument] = Field(
        [],
        description="The first that fits counts; who cannot take over is passed over. Else the manager, up the chain.",
    )
    custodian: Annotated[str, Field(max_length=60)] = Field(
        "", description="Who takes what is open so many days after the end of access: a login."
    )
    custodian_days: Annotated[int, Field(ge=1, le=3650, strict=True)] = 30


def handover_in(said: HandoverDocument) -> HandoverRules:
    """The core's rules about who takes over."""
    return HandoverRules(
        defaults=tuple(DefaultHeir(d.to, d.application, d.thing) for d in said.defaults),
        custodian=said.custodian,
        custodian_days=said.custodian_days,
    )
