"""Records of what dockets did, and the sheet for the day on which Yugum is down."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from enum import StrEnum

from yugum.core.accounts import Account, AccountState
from yugum.core.dockets import DocketDetail
from yugum.core.operators import OperatorRole
from yugum.core.people import full_name
from yugum.core.records import RecordLine, WayIn, as_csv, lines_of
from yugum.core.veils import Veil
from yugum.core.wording import plural
from yugum.engine.veils import veil_before
from yugum.engine.whom import people_named
from yugum.pages import record_page, sheet_page
from yugum.ports.clock import Clock
from yugum.ports.dockets import ChosenDockets
from yugum.ports.units import Database, UnitOfWork

DOCKETS = 500


class RecordForm(StrEnum):
    """As what a record is had."""

    JSON = "json"
    CSV = "csv"
    HTML = "html"


class Records:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def of_docket(
        self, name: str, named: Callable[[int], str], role: OperatorRole, *, batch: bool
    ) -> tuple[DocketDetail, Sequence[RecordLine]]:
        """Everything a docket (or all confirmed with it) changed, without veiled names."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await unit.dockets.by_name(name)
            first = await unit.dockets.one(found.id)
            dockets = [first]
            if batch and first.batch_id:
                page = await unit.dockets.page(
                    ChosenDockets(batch_id=first.batch_id), limit=DOCKETS
                )
                others = [d.id for d in page.items if d.id != found.id]
                dockets += [await unit.dockets.one(i) for i in others]
            veil = await veil_before(unit, role, {d.subject_id for d in dockets}, now)
            lines = [
                _veiled(line, veil, docket.subject_id)
                for docket in dockets
                for line in await _lines(unit, docket, named)
            ]
            first = replace(
                first,
                reason=veil.hide(first.reason, first.subject_id),
                reference=veil.hide(first.reference, first.subject_id),
            )
            return first, lines

    async def page_of(self, first: DocketDetail, lines: Sequence[RecordLine]) -> str:
        """The record as a page to print."""
        now = await self._clock.now()
        count = len({line.docket for line in lines})
        title = f"Record of {count} dockets"
        if count <= 1:
            title = f"Record of {lines[0].docket}" if lines else "Record"
        facts = [
            f"{first.verb.value}, asked for by {first.author}. {first.reason} {first.reference}",
            f"Printed {now:%Y-%m-%d %H:%M} UTC.",
        ]
        return record_page(title, facts, lines)

    def table_of(self, lines: Sequence[RecordLine]) -> str:
        """The record as CSV (RFC 4180)."""
        return as_csv(lines)

    async def sheet(self, who: Sequence[str]) -> str:
        """Where some people get in, and whom to call, to be printed beforehand."""
        now = await self._clock.now()
        people = []
        async with self._database.unit() as unit:
            applications = await unit.applications.all()
            named = await people_named(unit, who)
            known = await unit.accounts.known([p.id for p in named.values()])
            for person in named.values():
                ways = []
                for account in known.accounts.get(person.id, ()):
                    if account.state is AccountState.PURGED:
                        continue
                    application = applications[account.application_id]
                    ways.append(
                        WayIn(
                            application=application.name,
                            login=account.login,
                            state=account.state.value,
                            ways=_ways(account),
                            contact=application.contact,
                        )
                    )
                title = f"{full_name(person)} (no. {person.employee_number}, {person.department})"
                people.append((title, ways))
        return sheet_page(f"Cut-off sheet, as seen on {now:%Y-%m-%d %H:%M} UTC", people)


def _ways(account: Account) -> str:
    counted = ((account.sessions, "session"), (account.keys, "key"))
    return ", ".join(plural(n, word) for n, word in counted if n) or "password"


def _veiled(line: RecordLine, veil: Veil, subject_id: str) -> RecordLine:
    """A line without the subject's former names."""
    return replace(
        line, **{f.name: veil.hide(getattr(line, f.name), subject_id) for f in fields(line)}
    )


async def _lines(
    unit: UnitOfWork, docket: DocketDetail, named: Callable[[int], str]
) -> list[RecordLine]:
    accounts = await unit.accounts.some({s.account_id for s in docket.steps})
    logins = {i: a.login for i, a in accounts.items()}
    page = await unit.approvals.page(None, docket.id, None, 50)
    agreed = [a.name for approval in page.items for a in approval.answers if a.agrees]
    people = await unit.people.many([docket.subject_id])
    number = next((p.employee_number for p, _ in people.values()), "")
    return lines_of(docket, named(docket.number), number, logins, agreed)
