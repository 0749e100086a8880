"""What the rules document says of who takes over."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from yugum.core.heirs import AskRules, DefaultHeir, HandoverRules, Unanswered
from yugum.wire.part import Part


class DefaultHeirDocument(Part):
    """To whom things go that nobody chose anything for; without application or thing, all of them."""

    to: Annotated[str, Field(max_length=60)] = Field(
        "",
        description="manager, managers-manager (each up the chain to somebody who can), or somebody by login.",
    )
    role: Annotated[str, Field(max_length=60)] = Field(
        "",
        description="Instead: whoever has this role and is nearest, by department, then site, then login.",
    )
    application: Annotated[str, Field(max_length=60)] = ""
    thing: Annotated[str, Field(max_length=60)] = Field(
        "", description="A kind of thing as the application calls it: roster."
    )

    @model_validator(mode="after")
    def _somebody(self) -> Self:
        if bool(self.to) is bool(self.role):
            raise ValueError("to: say who takes over, by to or by role; one of the two")
        return self


class AskDocument(Part):
    """Whoever is to take something over is asked by mail whether they do; without this, nobody is asked."""

    ahead_days: Annotated[int, Field(ge=0, le=365, strict=True)] = Field(
        14, description="How long before somebody's access ends they are asked."
    )
    days: Annotated[int, Field(ge=1, le=365, strict=True)] = Field(
        5, description="How long they have to answer."
    )
    remind_days: Annotated[int, Field(ge=0, le=365, strict=True)] = Field(
        3, description="When they are reminded once; 0 is never."
    )
    unanswered: Unanswered = Field(
        Unanswered.TAKES,
        description="What silence comes to: takes (they take it over) or open (nobody does).",
    )

    @model_validator(mode="after")
    def _in_time(self) -> Self:
        if self.remind_days >= self.days:
            raise ValueError(
                "remind_days: a reminder comes before the time is over; say fewer days"
            )
        return self


class HandoverDocument(Part):
    defaults: list[DefaultHeirDocument] = Field(
        [],
        description="The first that fits counts; who cannot take over is passed over. Else the manager, up the chain.",
    )
    custodian: Annotated[str, Field(max_length=60)] = Field(
        "", description="Who takes what is open so many days after the end of access: a login."
    )
    custodian_days: Annotated[int, Field(ge=1, le=3650, strict=True)] = 30
    ask: AskDocument | None = Field(
        None, description="Nobody but the custodian takes anything over before they have agreed."
    )


def handover_in(said: HandoverDocument) -> HandoverRules:
    """The core's rules about who takes over."""
    return HandoverRules(
        defaults=tuple(DefaultHeir(d.to, d.application, d.thing, d.role) for d in said.defaults),
        custodian=said.custodian,
        custodian_days=said.custodian_days,
        ask=AskRules(
            ahead_days=said.ask.ahead_days,
            days=said.ask.days,
            remind_days=said.ask.remind_days,
            unanswered=said.ask.unanswered,
        )
        if said.ask
        else None,
    )
