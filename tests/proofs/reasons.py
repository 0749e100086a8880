"""Whether whoever is there holds a seat for a reason: what gives it is in force, or it is on its way back."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client import Client
from yugum.core.accounts import HoldingKind


def without_reason(client: Client, who: str) -> Iterator[str]:
    """Seats of somebody who works that nothing gives, and that no line of the standing difference tells."""
    person = client.people.show(who)
    if person.state.value != "active":
        return
    lines = client.names.explain(who).lines
    given = {(x.application_id, x.item) for x in lines if x.kind is HoldingKind.SEAT and x.wanted}
    told = {(r.application_id, r.item) for r in person.standing if r.kind == "seat"}
    for seat in person.seats:
        if seat.state == "held" and (seat.application_id, seat.license) not in given | told:
            yield f"{person.user_name}: {seat.license}"
