"""Core objects as wire models."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

from fastapi import Request
from pydantic import BaseModel

from yugum.core.actions.registry import ACTIONS
from yugum.core.applications import Application, Deletion, effective_deletion
from yugum.core.decisions import Decision
from yugum.core.dockets import DocketDetail, DocketLine
from yugum.core.invitations import askable, duties_of, invited_at, takes_credential
from yugum.core.lines import waits_for
from yugum.core.people import Person, full_name, groups_in
from yugum.core.wording import numbered
from yugum.engine.people import PersonShown, ShownAccount
from yugum.errors import InvalidInput
from yugum.ports.decisions import PrecautionLine
from yugum.ports.pages import ListPage
from yugum.ports.standing import StandingLine
from yugum.ports.views import Installation
from yugum.wire import decisions as wx
from yugum.wire import dockets as wd
from yugum.wire import people as wp
from yugum.wire import standing as ws
from yugum.wire.common import Named, Page

M = TypeVar("M", bound=BaseModel)
S = TypeVar("S")


def installation(request: Request) -> Installation:
    """Whose installation answers."""
    found: Installation = request.app.state.installation
    return found


def number(request: Request, value: int) -> str:
    """A docket's number as people write it: ``MS-0321``."""
    return numbered(installation(request).prefix, value)


def shape(kind: type[M], source: object, **more: object) -> M:
    """A wire model of what ``source`` says by the same names, and ``more`` beside or instead."""
    names = _shared(kind, type(source)) - more.keys()
    said = {name: getattr(source, name) for name in names}
    return kind.model_validate({**said, **more}, from_attributes=True)


SHARED: dict[tuple[type, type], frozenset[str]] = {}


def _shared(kind: type[BaseModel], of: type[Any]) -> frozenset[str]:
    """The names that both have, which are asked for with every row."""
    found = SHARED.get((kind, of))
    if found is None:
        own = {f.name for f in fields(of)} if is_dataclass(of) else set()
        if issubclass(of, BaseModel):
            own |= of.model_fields.keys()
        found = frozenset(n for n in kind.model_fields if n in own or hasattr(of, n))
        SHARED[kind, of] = found
    return found


def page_of(page: ListPage[S], make: Callable[[S], M]) -> Page[M]:
    return Page(
        items=[make(line) for line in page.items], next=page.next, total=page.total, over=page.over
    )


def some_of(rows: Sequence[S], make: Callable[[S], M], cursor: str | None, limit: int) -> Page[M]:
    """A page of what was computed as a whole; the cursor is how many came before.

    Raises:
        InvalidInput: the cursor is not one of this list.
    """
    if cursor and not (cursor.isascii() and cursor.isdigit() and int(cursor) <= len(rows)):
        raise InvalidInput(
            "This cursor is not one of this list.", place="cursor", remedy="Start without a cursor."
        )
    begin = int(cursor or 0)
    end = begin + limit
    return Page(
        items=[make(row) for row in rows[begin:end]],
        next=str(end) if end < len(rows) else None,
        total=len(rows),
    )


def docket_row(request: Request, docket: DocketLine) -> wd.DocketRow:
    return shape(wd.DocketRow, docket, number=number(request, docket.number))


def docket_view(
    request: Request, docket: DocketDetail, *, begins_now: bool = False
) -> wd.DocketView:
    """A docket with steps; the time of its cut-off and what cannot come back are told first."""
    notes = docket.notes
    return shape(
        wd.DocketView,
        docket,
        number=number(request, docket.number),
        begins_now=begins_now,
        summary=notes.summary,
        cautions=notes.cautions,
        stays=notes.stays,
        fidelity=notes.fidelity,
        irreversible=_irreversible(docket),
    )


def _irreversible(docket: DocketDetail) -> wd.NextIrreversible | None:
    steps = [s for s in docket.steps if ACTIONS[s.action].irreversible]
    if not steps:
        return None
    return wd.NextIrreversible(at=docket.due_at, text=f"{steps[0].application_name}: purged")


def decision_view(decision: Decision) -> wx.DecisionView:
    return shape(wx.DecisionView, decision, ends_at=decision.ends)


def precaution_row(request: Request, line: PrecautionLine) -> wx.PrecautionRow:
    shown = number(request, line.number) if line.number else None
    return shape(wx.PrecautionRow, line, number=shown)


def window_text(application: Application) -> str:
    """``30 days``, ``parked 30 days`` or ``no window``."""
    match effective_deletion(application):
        case Deletion.FINAL:
            return "no window"
        case Deletion.PARK:
            return f"parked {application.profile.window_days} days"
        case _:
            return f"{application.profile.window_days} days"


def person_view(request: Request, shown: PersonShown) -> wp.PersonView:
    return shape(
        wp.PersonView,
        shown.person,
        groups=groups_in(shown.person.groups),
        own=dict(shown.person.own),
        state=shown.state,
        rev=shown.rev,
        now=shown.now,
        manager=_named(shown.manager),
        successor=_named(shown.successor),
        roles=[wp.RoleLine(name=r.name, when=r.when_text) for r in shown.roles],
        accounts=[_account(line) for line in shown.accounts],
        coming=[
            wp.ComingLine(
                application_id=c.application.id,
                application_name=c.application.name,
                application_kind=c.application.kind,
                bars=[wp.Bar.model_validate(b) for b in c.bars],
            )
            for c in shown.coming
        ],
        next=[
            shape(wp.Step, u, docket=None if u.docket is None else number(request, u.docket))
            for u in shown.next
        ],
        standing=[standing_row(request, line) for line in shown.standing],
        seats=shown.seats,
        decisions=shown.decisions,
        dockets=[
            shape(wp.PersonDocket, d, number=number(request, d.number)) for d in shown.dockets
        ],
        facts=shown.facts,
    )


def _named(person: Person | None) -> Named | None:
    return Named(id=person.id, name=full_name(person)) if person else None


def _account(line: ShownAccount) -> wp.AccountLine:
    account, application = line.account, line.application
    owned: dict[str, int] = {}
    for asset in account.assets if account else ():
        owned[asset.kind] = owned.get(asset.kind, 0) + 1
    return shape(
        wp.AccountLine,
        account,
        locked=line.locked,
        invited_at=invited_at(account) if account else None,
        duties=list(duties_of(account)) if account else [],
        askable=askable(account, application) if account else [],
        takes_credential=account is not None and takes_credential(account, application),
        application_name=application.name,
        application_kind=application.kind,
        window=window_text(application),
        owned=owned,
        holdings=line.holdings,
        bars=line.bars,
    )


def standing_row(request: Request, line: StandingLine) -> ws.StandingRow:
    """A line of the standing difference, with what it waits for in words."""
    docket = None if line.number is None else number(request, line.number)
    return shape(ws.StandingRow, line, docket=docket, waits=waits_for(line.code))
