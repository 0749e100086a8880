"""Slips with credentials, to be printed: one a page, the address in an envelope's window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

STYLE = """
@page { size: A4; margin: 0 }
body { margin: 0; font: 11pt/1.5 sans-serif }
.slip { position: relative; height: 296mm; break-after: page; overflow: hidden }
.window { position: absolute; left: 25mm; top: 48mm; width: 84mm; height: 36mm }
.from { font-size: 8pt; text-decoration: underline }
.text { position: absolute; left: 25mm; right: 25mm; top: 105mm }
dt { font-size: 9pt; margin-top: 5mm } dd { margin: 0; font: 16pt/1.4 monospace; overflow-wrap: anywhere }
.note { padding: 8mm; border-bottom: 1px solid } @media print { .note { display: none } }
"""
"""The window is where DIN 5008 (form B) and envelopes DL and C6/5 have it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """What one account's owner is given on paper."""

    name: str
    department: str
    site: str
    application: str
    login: str
    secret: str
    must_change: bool


def slips_page(organisation: str, slips: Sequence[Slip], without: Sequence[str]) -> str:
    """A page of HTML that prints one slip a sheet; who has none to print is told on the screen only."""
    note = ""
    if without:
        text = f"Nothing to print for {', '.join(without)}: opened already, or still being set."
        note = f'<p class="note">{escape(text)}</p>'
    pages = "".join(_slip(organisation, s) for s in slips)
    title = escape(f"{len(slips)} credentials")
    head = f'<meta charset="utf-8"><title>{title}</title><style>{STYLE}</style>'
    return f'<!doctype html><html lang="en"><head>{head}</head><body>{note}{pages}</body></html>'


def _slip(organisation: str, slip: Slip) -> str:
    lines = "<br>".join(escape(x) for x in (slip.name, slip.department, slip.site) if x)
    once = (
        "You are asked for a password of your own when you first sign in."
        if slip.must_change
        else ""
    )
    return (
        f'<section class="slip"><div class="window"><span class="from">{escape(organisation)}</span>'
        f'<br>{lines}</div><div class="text"><p>Your access to {escape(slip.application)}</p>'
        f"<dl><dt>Login</dt><dd>{escape(slip.login)}</dd><dt>Password</dt>"
        f"<dd>{escape(slip.secret)}</dd></dl><p>{once}</p></div></section>"
    )
