"""Whose leaving is prepared in confidence: nobody is told of it before that docket has ended."""

from __future__ import annotations

import sqlalchemy as sa

from yugum.storage import tables as t

QUIET = sa.and_(
    t.dockets.c.verb == "leaver",
    t.dockets.c.ended_at.is_(None),
    t.dockets.c.cause["confidential"].as_boolean(),
)
"""That a docket is of such a leaving."""
