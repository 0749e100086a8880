"""The record of what dockets changed: lines for a table, a file or a printed page."""

from __future__ import annotations

import csv
import html
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


STYLE = """body{font:13px/1.45 system-ui,sans-serif;color:#1d2729;margin:24px}
h1{font-size:19px}h2{font-size:15px;margin:18px 0 6px}table{border-collapse:collapse;width:100%}
th,td{text-align:left;vertical-align:top;border-bottom:1px solid #d9d4c7;padding:4px 8px 4px 0}
th{font-size:11px}p{margin:4px 0}.box{display:inline-block;width:13px;height:13px;border:1px solid}
@media print{body{margin:0}h2{break-after:avoid}tr{break-inside:avoid}}"""


def as_html(title: str, facts: Sequence[str], lines: Sequence[RecordLine]) -> str:
    """A page to print, with nothing loaded from elsewhere."""
    body = [f"<h1>{html.escape(title)}</h1>", *(f"<p>{html.escape(f)}</p>" for f in facts)]
    for person in dict.fromkeys((x.docket, x.person, x.number) for x in lines):
        mine = [x for x in lines if (x.docket, x.person, x.number) == person]
        body.append(f"<h2>{html.escape(f'{person[1]} (no. {person[2]}), docket {person[0]}')}</h2>")
        heads = ("Application", "Login", "What", "Before → after", "When (UTC)", "Why", "Verified")
        rows = [
            (
                x.application,
                x.login,
                f"{x.what} {x.item}",
                f"{x.before} → {x.after}",
                x.at or x.outcome,
                x.because,
                x.verified,
            )
            for x in mine
        ]
        body.append(_table(heads, rows))
    return _page(title, body)


def _table(heads: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    head = "".join(f"<th>{html.escape(h)}</th>" for h in heads)
    lines = "".join(
        "<tr>" + "".join(f"<td>{html.escape(c)}</td>" for c in row) + "</tr>" for row in rows
    )
    return f"<table><thead><tr>{head}</tr></thead><tbody>{lines}</tbody></table>"


def _page(title: str, body: Sequence[str]) -> str:
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{html.escape(title)}</title>"
        f"<style>{STYLE}</style><body>{''.join(body)}</body></html>\n"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class WayIn:
    """One account of somebody, for the sheet: what it opens, and whom to call about it."""

    application: str
    login: str
    state: str
    ways: str
    contact: str


def cut_off_sheet(title: str, people: Sequence[tuple[str, Sequence[WayIn]]]) -> str:
    """A page for the day Yugum is down: where each of some people gets in, and whom to call."""
    body = [f"<h1>{html.escape(title)}</h1>", "<p>Close each by hand and tick it off.</p>"]
    for name, ways in people:
        body.append(f"<h2>{html.escape(name)}</h2>")
        rows = "".join(
            "<tr><td><span class=box></span></td>"
            + "".join(f"<td>{html.escape(cell)}</td>" for cell in asdict(way).values())
            + "</tr>"
            for way in ways
        )
        head = (
            "<th></th><th>Application</th><th>Login</th><th>State</th><th>Ways in</th><th>Call</th>"
        )
        body.append(f"<table><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table>")
    return _page(title, body)
