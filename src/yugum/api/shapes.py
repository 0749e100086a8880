"""Rows and core objects as wire models."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any, TypeVar

from fastapi import Request

from yugum.core.actions import ACTIONS, Action
from yugum.core.applications import Application, Deletion, effective_deletion
from yugum.core.lifeline import upcoming
from yugum.ports import ListPage
from yugum.wire import dockets as wd
from yugum.wire import people as wp
from yugum.wire.common import Named, Page

T = TypeVar("T")


def number(request: Request, value: int | str) -> str:
    """A docket's number as people write it: ``MS-0321``."""
    prefix = request.app.state.installation["prefix"]
    return f"{prefix}-{int(value):04d}"


def page_of(page: ListPage, make: Callable[[Mapping[str, Any]], T]) -> Page[T]:
    return Page(items=[make(row) for row in page.items], next=page.next, total=page.total)


def docket_row(request: Request, row: Mapping[str, Any]) -> wd.DocketRow:
    return wd.DocketRow.model_validate({**row, "number": number(request, row["number"])})


def docket_view(request: Request, row: Mapping[str, Any]) -> wd.DocketView:
    """A docket with steps; the time of its cut-off and what cannot come back are told first."""
    document = row["document"] or {}
    steps = [_step(s) for s in row["steps"]]
    return wd.DocketView.model_validate(
        {
            **row,
            "number": number(request, row["number"]),
            "summary": document.get("summary", []),
            "cautions": document.get("cautions", []),
            "stays": document.get("stays", []),
            "fidelity": document.get("fidelity", []),
            "cut_off_ms": _cut_off_ms(row),
            "irreversible": _irreversible(row),
            "steps": steps,
        }
    )


def _cut_off_ms(row: Mapping[str, Any]) -> float | None:
    """From the docket's start to the last cut-off, machine time; None until all are done."""
    cuts = [s for s in row["steps"] if s["action"] == Action.CUT_OFF]
    times = [s["receipt_machine_at"] for s in cuts if s["receipt_machine_at"]]
    if not cuts or len(times) < len(cuts) or not row["machine_started"]:
        return None
    last: datetime = max(times)
    took: float = (last - row["machine_started"]).total_seconds() * 1000
    return round(took, 1)


def _irreversible(row: Mapping[str, Any]) -> wd.NextIrreversible | None:
    steps = [s for s in row["steps"] if ACTIONS[Action(s["action"])].irreversible]
    if not steps:
        return None
    return wd.NextIrreversible(at=row["due_at"], text=f"{steps[0]['application_name']}: purged")


def _step(row: Mapping[str, Any]) -> dict[str, Any]:
    receipt = None
    if row["outcome"]:
        receipt = {
            "outcome": row["outcome"],
            "found": row["receipt_found"],
            "did": row["did"],
            "seen": row["seen"],
            "at": row["receipt_at"],
            "took_ms": row["took_ms"],
        }
    return {**row, "receipt": receipt}


def window_text(application: Application) -> str:
    """``30 days``, ``parked 30 days`` or ``no window``."""
    match effective_deletion(application):
        case Deletion.FINAL:
            return "no window"
        case Deletion.PARK:
            return f"parked {application.profile.window_days} days"
        case _:
            return f"{application.profile.window_days} days"


def person_view(request: Request, shown: Mapping[str, Any]) -> wp.PersonView:
    person = shown["person"]
    accounts = [_account(line) for line in shown["accounts"]]
    coming = [
        wp.ComingLine(
            application_id=c["application"].id,
            application_name=c["application"].name,
            application_kind=c["application"].kind,
            bars=[wp.Bar.model_validate(b) for b in c["bars"]],
        )
        for c in shown["coming"]
    ]
    lanes = [(line["application"], line["bars"]) for line in (*shown["accounts"], *shown["coming"])]
    return wp.PersonView(
        **{
            f: getattr(person, f)
            for f in (
                "id",
                "user_name",
                "display_name",
                "given_name",
                "family_name",
                "employee_number",
                "user_type",
                "department",
                "title",
                "site",
                "time_zone",
                "mail",
                "outside_mail",
                "starts",
                "last_working_day",
                "access_ends",
                "contract_ends",
                "absent_from",
                "absent_until",
            )
        },
        state=shown["state"],
        rev=shown["rev"],
        now=shown["now"],
        manager=Named.model_validate(shown["manager"]) if shown["manager"] else None,
        successor=Named.model_validate(shown["successor"]) if shown["successor"] else None,
        roles=[wp.RoleLine.model_validate(r) for r in shown["roles"]],
        accounts=accounts,
        coming=coming,
        next=[
            wp.Step(at=u.at, text=u.text, because=u.because) for u in upcoming(lanes, shown["now"])
        ],
        seats=[wp.SeatLine.model_validate(s) for s in shown["seats"]],
        decisions=[wp.DecisionLine.model_validate(d) for d in shown["decisions"]],
        dockets=[
            wp.PersonDocket.model_validate({**d, "number": number(request, d["number"])})
            for d in shown["dockets"]
        ],
        facts=[wp.FactLine.model_validate(f) for f in shown["facts"]],
    )


def _account(line: Mapping[str, Any]) -> wp.AccountLine:
    account, application = line["account"], line["application"]
    owned: dict[str, int] = {}
    for asset in account.assets:
        owned[asset.kind] = owned.get(asset.kind, 0) + 1
    return wp.AccountLine(
        id=account.id,
        application_id=application.id,
        application_name=application.name,
        application_kind=application.kind,
        window=window_text(application),
        login=account.login,
        state=account.state.value,
        sessions=account.sessions,
        keys=account.keys,
        recoverable_until=account.recoverable_until,
        seen_at=account.seen_at,
        owned=owned,
        holdings=[wp.Holding.model_validate(h) for h in line["holdings"]],
        bars=[wp.Bar.model_validate(b) for b in line["bars"]],
    )
