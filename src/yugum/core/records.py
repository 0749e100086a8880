"""The record of what dockets changed: lines for a table or a file, and ways in for a sheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, fields
from datetime import UTC, datetime

from yugum.core.actions.registry import ACTIONS
from yugum.core.dockets import DocketDetail, Outcome, StepDetail


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordLine:
    """One thing that was done, or left out, to one account; moments in UTC, ISO 8601."""

    docket: str
    person: str
    number: str
    application: str
    login: str
    what: str
    item: str
    before: str
    after: str
    outcome: str
    at: str
    because: str
    asked_by: str
    agreed_by: str
    verified: str


def lines_of(
    docket: DocketDetail,
    number: str,
    employee_number: str,
    logins: Mapping[str, str],
    agreed: Sequence[str],
) -> list[RecordLine]:
    """The lines of one docket; ``number`` is as people write it, ``agreed`` who gave approvals."""
    return [
        _line(docket, step, number, employee_number, logins.get(step.account_id, ""), agreed)
        for step in docket.steps
    ]


def _line(
    docket: DocketDetail,
    step: StepDetail,
    number: str,
    employee_number: str,
    login: str,
    agreed: Sequence[str],
) -> RecordLine:
    receipt, words = step.receipt, ACTIONS[step.action].words
    done = receipt is not None and receipt.outcome is not Outcome.BY_HAND
    before = after = verified = ""
    if receipt is not None:
        before, after = receipt.found.told(), receipt.seen.told()
        verified = "read back" if done and receipt.seen else "by hand"
    problem = step.problem.text if step.problem else ""
    return RecordLine(
        docket=number,
        person=docket.subject_name,
        number=employee_number,
        application=step.application_name,
        login=login,
        what=words.past if done else step.action.value.replace("_", " "),
        item=step.item,
        before=before if done and before else step.before,
        after=after if done and after else step.after,
        outcome=receipt.outcome.value if receipt else f"{step.state.value}: {problem}".rstrip(": "),
        at=_moment(receipt.at if receipt else None),
        because=step.reason,
        asked_by=docket.author,
        agreed_by=", ".join(agreed),
        verified=verified,
    )


def _moment(value: datetime | None) -> str:
    return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ") if value else ""


def as_csv(lines: Iterable[RecordLine]) -> str:
    """CSV (RFC 4180); a cell that a spreadsheet would run as a formula is led by an apostrophe."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow([f.name for f in fields(RecordLine)])
    for line in lines:
        writer.writerow([csv_cell(str(v)) for v in asdict(line).values()])
    return buffer.getvalue()


def csv_cell(text: str) -> str:
    """A cell; one that a spreadsheet would run as a formula is led by an apostrophe."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


@dataclass(frozen=True, slots=True, kw_only=True)
class WayIn:
    """One account of somebody, for the sheet: what it opens, and whom to call about it."""

    application: str
    login: str
    state: str
    ways: str
    contact: str
