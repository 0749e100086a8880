"""What the owners of accounts have yet to do, as conditions on rows of ``accounts``."""

from __future__ import annotations

from collections.abc import Mapping

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY

from yugum.core.invitations import NOT_SENT, OPEN_DUTIES, SENT, ToDo
from yugum.storage import tables as t

INVITED_SQL = f"""(CASE WHEN accounts.state = 'active' AND accounts.settings->>'{SENT}' <> '{NOT_SENT}'
  THEN cast(accounts.settings->>'{SENT}' AS timestamptz) END)"""
"""The twin of ``invitations.invited_at``."""
DUTIES_SQL = f"coalesce(string_to_array(accounts.settings->>'{OPEN_DUTIES}', ' '), '{{}}')"

SHOWN = (
    sa.literal_column(INVITED_SQL, t.Moment).label("invited_at"),
    sa.literal_column(DUTIES_SQL, ARRAY(sa.Text)).label("duties"),
)
"""Columns of both, beside those of an account."""

TO_DO: Mapping[ToDo, sa.ColumnElement[bool]] = {
    ToDo.INVITATION: sa.literal_column(
        f"(jsonb_exists(accounts.settings, '{SENT}') AND {INVITED_SQL} IS NOT NULL)", sa.Boolean
    ),
    ToDo.DUTIES: sa.literal_column(f"jsonb_exists(accounts.settings, '{OPEN_DUTIES}')", sa.Boolean),
}
