"""Records of what dockets did, and the sheet for the day on which Yugum is down."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict
from typing import Any

from yugum.core.accounts import AccountState
from yugum.core.people import full_name
from yugum.core.records import RecordLine, as_csv, as_html, cut_off_sheet, lines_of
from yugum.engine.veils import veil_before
from yugum.errors import InvalidInput
from yugum.ports import Clock, Database, UnitOfWork

FORMS = {"json": "application/json", "csv": "text/csv", "html": "text/html"}
DOCKETS = 500


class Records:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def of_docket(
        self, name: str, form: str, named: Callable[[int], str], role: str, *, batch: bool
    ) -> str | list[dict[str, Any]]:
        """Everything a docket (or all confirmed with it) changed, in a form: json, csv, html."""
        if form not in FORMS:
            raise InvalidInput(f"'{form}' is no form.", place="form", remedy="Use json, csv, html.")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await unit.dockets.by_name(name)
            first = await unit.dockets.one(found.id)
            rows = [first]
            if batch and first["batch_id"]:
                page = await unit.dockets.page(batch_id=first["batch_id"], limit=DOCKETS)
                others = [r["id"] for r in page.items if r["id"] != found.id]
                rows += [await unit.dockets.one(i) for i in others]
            veil = await veil_before(unit, role, {r["subject_id"] for r in rows}, now)
            rows = [veil.over(dict(r), r["subject_id"]) for r in rows]
            lines = [line for row in rows for line in await _lines(unit, row, named)]
        if form == "json":
            return [asdict(line) for line in lines]
        if form == "csv":
            return as_csv(lines)
        title = (
            f"Record of {len(rows)} dockets"
            if len(rows) > 1
            else f"Record of {lines[0].docket}"
            if lines
            else "Record"
        )
        facts = [
            f"{first['verb']}, asked for by {first['author']}. {first['reason']} {first['reference']}",
            f"Printed {now:%Y-%m-%d %H:%M} UTC.",
        ]
        return as_html(title, facts, lines)

    async def sheet(self, who: Sequence[str]) -> str:
        """Where some people get in, and whom to call, to be printed beforehand."""
        now = await self._clock.now()
        people = []
        async with self._database.unit() as unit:
            applications = await unit.applications.all()
            for name in who:
                person = await unit.people.resolve(name)
                known = await unit.accounts.known([person.id])
                ways = []
                for account in known.accounts.get(person.id, ()):
                    if account.state is AccountState.PURGED:
                        continue
                    application = applications[account.application_id]
                    parts = [
                        f"{n} {word}"
                        for n, word in ((account.sessions, "sessions"), (account.keys, "keys"))
                        if n
                    ]
                    ways.append(
                        {
                            "application": application.name,
                            "login": account.login,
                            "state": account.state.value,
                            "ways": ", ".join(parts) or "password",
                            "contact": application.contact,
                        }
                    )
                title = f"{full_name(person)} (no. {person.employee_number}, {person.department})"
                people.append((title, ways))
        return cut_off_sheet(f"Cut-off sheet, as seen on {now:%Y-%m-%d %H:%M} UTC", people)


async def _lines(unit: UnitOfWork, row: Any, named: Callable[[int], str]) -> list[RecordLine]:
    accounts = await unit.accounts.some({s["account_id"] for s in row["steps"]})
    logins = {i: a.login for i, a in accounts.items()}
    page = await unit.approvals.page("", row["id"], None, 50)
    agreed = [a["name"] for r in page.items for a in r["answers"] if a["agrees"]]
    people = await unit.people.many([row["subject_id"]])
    number = people[row["subject_id"]][0].employee_number if people else ""
    return lines_of({**row, "employee_number": number}, named(row["number"]), logins, agreed)
