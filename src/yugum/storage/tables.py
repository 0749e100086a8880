"""Every table, in the order of dependence.

Moments are ``timestamptz``. Two kinds of time are kept apart by name: columns ending in ``_at`` are
business time (it may be simulated); ``wake_at``, ``lease_until``, ``retry_at``, ``machine_at``,
``expires`` and ``created`` are machine time. ``folded`` columns hold attribute values folded once by
``core.conditions.fold``.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

from yugum.core.findings import DELIVERED
from yugum.core.invitations import OPEN_DUTIES, SENT

metadata = sa.MetaData(
    naming_convention={
        "ix": "ix_%(table_name)s_%(column_0_N_name)s",
        "uq": "uq_%(table_name)s_%(column_0_N_name)s",
        "fk": "fk_%(table_name)s_%(column_0_name)s",
        "pk": "pk_%(table_name)s",
    }
)

Text, Int, Bool = sa.Text, sa.Integer, sa.Boolean
Moment = sa.DateTime(timezone=True)
Numbers = ARRAY(sa.Integer)


class Merged(StrEnum):
    """What becomes of a column that names a person when that person is merged into another."""

    MOVES = "moves"
    """It names the other from then on."""

    ONCE = "once"
    """So, unless the other has the same row already: a person is there once."""

    GOES = "goes"
    """The row goes and is made anew when it is needed."""


def _whose(
    name: str, merged: Merged, *more: Any, nullable: bool = False, **settings: Any
) -> sa.Column[str]:
    """A column that names a person; ``storage.merging`` reads what becomes of it."""
    info = {Merged: merged}
    return sa.Column(name, Text, *more, nullable=nullable, info=info, **settings)


def delivered_sql(login: str) -> str:
    """A condition on a ``login``: it is one that administrator accounts are delivered with."""
    return f"lower({login}) IN ({', '.join(repr(name) for name in DELIVERED)})"


def _id() -> sa.Column[str]:
    return sa.Column("id", Text, primary_key=True)


def _need(name: str, kind: Any, default: Any = None) -> sa.Column[Any]:
    return sa.Column(name, kind, nullable=False, server_default=default)


def _json(name: str, default: str = "{}") -> sa.Column[Any]:
    return _need(name, JSONB, sa.text(f"'{default}'::jsonb"))


def _machine_now(name: str = "created") -> sa.Column[Any]:
    return _need(name, Moment, sa.func.now())


installation = sa.Table(
    "installation",
    metadata,
    sa.Column("id", Int, sa.CheckConstraint("id = 1"), primary_key=True),
    _need("organisation", Text),
    _need("prefix", Text),
    _need("zone", Text),
    _need("demo", Bool, "false"),
    _machine_now(),
)

clock = sa.Table(
    "clock",
    metadata,
    sa.Column("id", Int, sa.CheckConstraint("id = 1"), primary_key=True),
    _need("simulated", Bool, "false"),
    sa.Column("now_at", Moment),
    sa.CheckConstraint("simulated = (now_at IS NOT NULL)", name="simulated_has_a_moment"),
)

operators = sa.Table(
    "operators",
    metadata,
    _id(),
    _need("login", Text),
    _need("name", Text),
    _need("role", Text),
    sa.Column("password_hash", Text),
    _whose("person_id", Merged.MOVES, nullable=True),
    _need("active", Bool, "true"),
    sa.Column("owner_id", Text, sa.ForeignKey("operators.id")),
    _machine_now(),
    sa.UniqueConstraint("login"),
    sa.Index("ix_operators_owner", "owner_id"),
)

views = sa.Table(
    "views",
    metadata,
    _id(),
    sa.Column(
        "operator_id", Text, sa.ForeignKey("operators.id", ondelete="CASCADE"), nullable=False
    ),
    _need("page", Text),
    _need("name", Text),
    sa.Column("query", JSONB, nullable=False),
    sa.Column("columns", ARRAY(Text), nullable=False),
    sa.Column("shared", Bool, nullable=False),
    _need("changed_at", Moment),
    sa.UniqueConstraint("operator_id", "page", "name"),
    sa.Index("ix_views_page", "page", "name", "id"),
)

starts = sa.Table(
    "starts",
    metadata,
    sa.Column(
        "operator_id", Text, sa.ForeignKey("operators.id", ondelete="CASCADE"), primary_key=True
    ),
    sa.Column(
        "view_id", Text, sa.ForeignKey("views.id", ondelete="CASCADE"), nullable=False, index=True
    ),
)

sessions = sa.Table(
    "sessions",
    metadata,
    sa.Column("hash", Text, primary_key=True),
    sa.Column("operator_id", Text, sa.ForeignKey("operators.id", ondelete="CASCADE")),
    _need("csrf", Text),
    _need("expires", Moment),
    _need("by_link", Bool, "false"),
    _machine_now(),
)

tokens = sa.Table(
    "tokens",
    metadata,
    _id(),
    _need("hash", Text),
    sa.Column("operator_id", Text, sa.ForeignKey("operators.id", ondelete="CASCADE")),
    _need("name", Text),
    _need("scopes", ARRAY(Text)),
    sa.Column("expires", Moment),
    sa.Column("last_used", Moment),
    _machine_now(),
    sa.UniqueConstraint("hash"),
)

sign_in_links = sa.Table(
    "sign_in_links",
    metadata,
    sa.Column("hash", Text, primary_key=True),
    sa.Column("operator_id", Text, sa.ForeignKey("operators.id", ondelete="CASCADE")),
    _need("expires", Moment),
    sa.Column("used", Moment),
)

sign_in_failures = sa.Table(
    "sign_in_failures",
    metadata,
    sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
    _need("key", Text),
    _machine_now(),
    sa.Index("ix_sign_in_failures_key_created", "key", "created"),
    sa.Index("ix_sign_in_failures_created", "created"),
)

idempotency = sa.Table(
    "idempotency",
    metadata,
    sa.Column("operator_id", Text, primary_key=True),
    sa.Column("key", Text, primary_key=True),
    _need("fingerprint", Text),
    sa.Column("status", Int),
    sa.Column("reply", JSONB),
    sa.Column("held_until", Moment),
    _machine_now(),
    sa.Index("ix_idempotency_created", "created"),
)

NAMES = ("family_name", "given_name", "id")
BEGINS = "coalesce(people.starts, '9999-12-31'::date)"
LEAVES = "coalesce(people.access_ends, '9999-12-31 00:00:00+00'::timestamptz)"
"""What people are sorted by: who has no such day comes last."""
OF_KIND: Mapping[str, Any] = {"postgresql_include": ["kind"]}
"""Lists of accounts leave out those of groups, and are counted from their indexes alone."""
USED = "coalesce(accounts.last_used, '0001-01-01 00:00:00+00'::timestamptz)"


def _of_row(expression: str) -> sa.TextClause:
    """An expression of a list as its index has it: without the table's name."""
    return sa.text(expression.replace("people.", "").replace("accounts.", ""))


people = sa.Table(
    "people",
    metadata,
    _id(),
    _need("user_name", Text),
    *(
        _need(name, Text, "")
        for name in (
            "given_name",
            "family_name",
            "middle_name",
            "honorific_prefix",
            "honorific_suffix",
            "nick_name",
            "display_name",
            "employee_number",
            "user_type",
            "department",
            "division",
            "organization",
            "cost_center",
            "title",
            "site",
        )
    ),
    _whose(
        "manager_id",
        Merged.MOVES,
        sa.ForeignKey("people.id", ondelete="SET NULL", deferrable=True, initially="DEFERRED"),
        nullable=True,
    ),
    _need("time_zone", Text, "UTC"),
    *(
        _need(name, Text, "")
        for name in (
            "preferred_language",
            "locale",
            "mail",
            "outside_mail",
            "phone",
            "mobile",
            "groups",
        )
    ),
    _json("own"),
    sa.Column("starts", sa.Date),
    sa.Column("last_working_day", sa.Date),
    sa.Column("access_ends", Moment),
    sa.Column("contract_ends", sa.Date),
    sa.Column("absent_from", Moment),
    sa.Column("absent_until", Moment),
    _need("rev", Int, "1"),
    _json("folded"),
    _need("search", Text, ""),
    sa.Column("open_end", Moment),
    _need("alike", sa.Boolean, "false"),
    sa.UniqueConstraint("user_name"),
    sa.Index("ix_people_open_end", "open_end"),
    sa.Index("ix_people_mail", sa.text("lower(mail)")),
    sa.Index("ix_people_alike", "id", postgresql_where=sa.text("alike")),
    sa.Index("ix_people_login", sa.text("lower(user_name)")),
    sa.Index("ix_people_face", sa.text("lower(display_name)"), "department"),
    # Whose account is it? Each of these names somebody.
    sa.Index("ix_people_employee_number", "employee_number", "id"),
    sa.Index("ix_people_outside_mail", "outside_mail"),
    sa.Index("ix_people_display_name", "display_name"),
    sa.Index("ix_people_family_name", "family_name", "given_name", "id"),
    sa.Index("ix_people_manager_id", "manager_id"),
    sa.Index("ix_people_access_ends", "access_ends"),
    sa.Index("ix_people_starts", "starts"),
    sa.Index(
        "ix_people_absent", "absent_from", postgresql_where=sa.text("absent_from IS NOT NULL")
    ),
    sa.Index("ix_people_department", sa.text("lower(department)"), *NAMES),
    sa.Index("ix_people_site", sa.text("lower(site)"), *NAMES),
    sa.Index("ix_people_user_type", sa.text("lower(user_type)"), *NAMES),
    sa.Index("ix_people_begins", _of_row(BEGINS), "id"),
    sa.Index("ix_people_leaves", _of_row(LEAVES), "id"),
    sa.Index(
        "ix_people_search",
        "search",
        postgresql_using="gin",
        postgresql_ops={"search": "gin_trgm_ops"},
    ),
)

declined = sa.Table(
    "declined",
    metadata,
    _id(),
    *(_need(name, Text, "") for name in ("user_name", "display_name", "employee_number")),
    _json("record"),
    _need("author", Text),
    _need("reason", Text, ""),
    sa.Column("docket_id", Text),
    _need("at", Moment),
    sa.Index("ix_declined_at", "at", "id"),
    sa.Index("ix_declined_number", "employee_number"),
    sa.Index("ix_declined_login", "user_name"),
)

facts = sa.Table(
    "facts",
    metadata,
    _id(),
    _whose("person_id", Merged.MOVES, sa.ForeignKey("people.id"), index=True),
    _need("effective_at", Moment),
    _need("known_at", Moment),
    _json("before"),
    _json("after"),
    _need("author", Text),
    _need("reason", Text, ""),
    sa.Column("docket_id", Text, index=True),
)

applications = sa.Table(
    "applications",
    metadata,
    _id(),
    _need("name", Text),
    _need("kind", Text),
    _json("profile"),
    _json("config"),
    sa.Column("secret", sa.LargeBinary),
    _need("contact", Text, ""),
    _need("owner", Text, ""),
    _json("capabilities", "[]"),
    _json("attributes"),
    _json("groups"),
    _json("nested"),
    sa.Column("seen_at", Moment),
    sa.Column("reading_at", Moment),
    _need("problem", Text, ""),
    _need("accounts_seen", Int, "0"),
    _need("trust", Text, "full"),
    sa.Column("paused_until", Moment),
    sa.Column("credential_ends", Moment),
    sa.Column("disconnected_at", Moment),
)

worker_shares = sa.Table(
    "worker_shares",
    metadata,
    sa.Column("worker", Text, primary_key=True),
    sa.Column("application_id", Text, primary_key=True),
    _need("until_at", Moment),
    sa.Index("ix_worker_shares_application", "application_id"),
)

worker_cutting = sa.Table(
    "worker_cutting",
    metadata,
    sa.Column("worker", Text, primary_key=True),
    _need("until_at", Moment),
)

ceilings = sa.Table(
    "ceilings",
    metadata,
    sa.Column("application_id", Text, primary_key=True),
    sa.Column("hour_at", Moment, primary_key=True),
    _need("taken", Int),
)

controls = sa.Table(
    "controls",
    metadata,
    sa.Column("name", Text, primary_key=True),
    _need("author", Text),
    _need("reason", Text, ""),
    sa.Column("since_at", Moment, server_default=sa.func.now(), nullable=False),
)

faces = sa.Table(
    "faces",  # a view
    sa.MetaData(),
    sa.Column("id", Text),
    sa.Column("rev", Int),
    *(sa.Column(name, Text) for name in ("display_name", "user_name", "employee_number")),
    *(sa.Column(name, Text) for name in ("title", "department", "site", "time_zone")),
)
"""What a docket is about: a person, or an account that is nobody's."""

tasks = sa.Table(
    "tasks",
    metadata,
    _id(),
    _need("step_id", Text, ""),
    _need("docket_id", Text),
    _need("application_id", Text),
    _whose("subject_id", Merged.MOVES),
    _need("account_id", Text),
    _need("action", Text),
    _need("item", Text, ""),
    _need("external_id", Text, ""),
    _need("login", Text, ""),
    _json("arguments"),
    _need("instructions", Text),
    _need("state", Text, "open"),
    _need("made_at", Moment),
    _need("due_at", Moment),
    sa.Column("reminded_at", Moment),
    sa.Column("escalated_at", Moment),
    sa.Column("ended_at", Moment),
    _need("ended_by", Text, ""),
    _need("evidence", Text, ""),
    sa.Index("ix_tasks_state", "state", "due_at", "id"),
    sa.Index("ix_tasks_account", "account_id"),
)

manual_accounts = sa.Table(
    "manual_accounts",
    metadata,
    sa.Column("application_id", Text, primary_key=True),
    sa.Column("external_id", Text, primary_key=True),
    _json("document"),
)

readings = sa.Table(
    "readings",
    metadata,
    _id(),
    sa.Column("application_id", Text, sa.ForeignKey("applications.id"), nullable=False),
    _need("mode", Text),
    _need("state", Text),
    _need("author", Text),
    _need("began_at", Moment),
    sa.Column("ended_at", Moment),
    _json("counts"),
    _need("problem", Text, ""),
    _machine_now("alive"),
    sa.Index("ix_readings_running", "id", postgresql_where=sa.text("state = 'running'")),
    sa.Index("ix_readings_application", "application_id", "began_at"),
)

reading_problems = sa.Table(
    "reading_problems",
    metadata,
    _id(),
    _need("application_id", Text),
    _need("external_id", Text),
    _need("login", Text, ""),
    _need("reason", Text),
    _need("at", Moment),
    sa.UniqueConstraint("application_id", "external_id"),
)

proposals = sa.Table(
    "proposals",
    metadata,
    sa.Column("account_id", Text, primary_key=True),
    _whose("person_id", Merged.GOES, primary_key=True),
    _need("rule", Text),
    _need("confidence", Int),
    _need("state", Text, "open"),
    _need("made_at", Moment),
    _need("decided_by", Text, ""),
    sa.Index("ix_proposals_state", "state", "confidence"),
)

deviations = sa.Table(
    "deviations",
    metadata,
    _id(),
    _need("application_id", Text),
    _need("account_id", Text),
    _need("kind", Text),
    _need("item", Text, ""),
    _need("was", Text, ""),
    _need("now_is", Text, ""),
    _need("seen_at", Moment),
    _need("state", Text, "open"),
    _need("decided_by", Text, ""),
    sa.Column("docket_id", Text),
    sa.Index("ix_deviations_state", "state", "application_id", "id"),
    sa.Index("ix_deviations_account", "account_id", "seen_at"),
    sa.Index(
        "uq_deviations_open",
        "account_id",
        "kind",
        "item",
        unique=True,
        postgresql_where=sa.text("state = 'open'"),
    ),
)

accounts = sa.Table(
    "accounts",
    metadata,
    _id(),
    sa.Column("application_id", Text, sa.ForeignKey("applications.id"), nullable=False),
    _whose("person_id", Merged.MOVES, sa.ForeignKey("people.id"), nullable=True),
    _need("kind", Text, "person"),
    _need("login", Text),
    _need("display_name", Text, ""),
    _need("external_id", Text),
    _need("state", Text),
    _need("entitlements", ARRAY(Text), "{}"),
    _need("seats", ARRAY(Text), "{}"),
    _need("sessions", Int, "0"),
    _need("keys", Int, "0"),
    _json("settings"),
    sa.Column("recoverable_until", Moment),
    sa.Column("restored_at", Moment),
    sa.Column("last_used", Moment),
    _need("employee_number", Text, ""),
    sa.Column("digest", sa.LargeBinary),
    sa.Column("seen_at", Moment),
    _need("rev", Int, "1"),
    sa.Column("owns", sa.Boolean, nullable=False, server_default=sa.false()),
    sa.UniqueConstraint("application_id", "external_id"),
    sa.Index(
        "ix_accounts_forward",
        sa.text("lower(settings ->> 'forward')"),
        postgresql_where=sa.text("settings ? 'forward'"),
    ),
    sa.Index("ix_accounts_person_id", "person_id", postgresql_include=["state"]),
    sa.Index("ix_accounts_list", "application_id", "login", "id", **OF_KIND),
    sa.Index("ix_accounts_state", "state", "application_id", "login", "id", **OF_KIND),
    sa.Index("ix_accounts_used", _of_row(USED), "id", **OF_KIND),
    sa.Index(
        "ix_accounts_login",
        sa.func.lower(sa.column("login")).label("name"),
        postgresql_ops={"name": "text_pattern_ops"},
        **OF_KIND,
    ),
    sa.Index(
        "ix_accounts_other",
        "kind",
        "application_id",
        "login",
        "id",
        postgresql_where=sa.text("kind <> 'person'"),
    ),
    sa.Index(
        "ix_accounts_groups",
        "application_id",
        "login",
        postgresql_where=sa.text("kind = 'group'"),
    ),
    sa.Index(
        "ix_accounts_window", "recoverable_until", postgresql_where=sa.text("state = 'deleted'")
    ),
    sa.Index(
        "ix_accounts_asleep",
        "last_used",
        "id",
        postgresql_include=["person_id"],
        postgresql_where=sa.text("state = 'active' AND kind = 'person' AND last_used IS NOT NULL"),
    ),
    sa.Index(
        "ix_accounts_nobody",
        "login",
        "id",
        postgresql_where=sa.text("person_id IS NULL AND state = 'active'"),
    ),
    sa.Index(
        "ix_accounts_owns",
        "login",
        "id",
        postgresql_where=sa.text("owns AND (state = 'suspended' OR person_id IS NULL)"),
    ),
    sa.Index(
        "ix_accounts_invited",
        "application_id",
        "login",
        "id",
        postgresql_where=sa.text(f"jsonb_exists(settings, '{SENT}')"),
    ),
    sa.Index(
        "ix_accounts_duties",
        "application_id",
        "login",
        "id",
        postgresql_where=sa.text(f"jsonb_exists(settings, '{OPEN_DUTIES}')"),
    ),
    sa.Index(
        "ix_accounts_delivered",
        "id",
        postgresql_where=sa.text(delivered_sql("login")),
    ),
)

tallies = sa.Table(
    "tallies",
    metadata,
    sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
    _need("application_id", Text),
    _need("state", Text),
    _need("more", sa.BigInteger),
)
"""How many accounts, groups apart, came to a state of an application or went; together, how many there are.

A trigger adds to it with each change, so that nobody waits for a figure of somebody else's.
"""

archived_accounts = sa.Table(
    "archived_accounts",
    metadata,
    _id(),
    _need("application_id", Text),
    _whose("person_id", Merged.MOVES, nullable=True),
    _need("login", Text),
    _need("display_name", Text, ""),
    _json("document"),
    _json("ledger", "[]"),
    sa.Index("ix_archived_accounts_application", "application_id", "login", "id"),
)
"""Accounts of applications that are not connected any more: the whole row, with what it held and why."""

assets = sa.Table(
    "assets",
    metadata,
    sa.Column("account_id", Text, sa.ForeignKey("accounts.id"), primary_key=True),
    sa.Column("external_id", Text, primary_key=True),
    _need("kind", Text),
    _need("name", Text),
    _need("container", Text, ""),
    sa.Index("ix_assets_external_id", "external_id"),
)

ledger = sa.Table(
    "ledger",
    metadata,
    sa.Column("account_id", Text, sa.ForeignKey("accounts.id"), primary_key=True),
    sa.Column("kind", Text, primary_key=True),
    sa.Column("item", Text, primary_key=True),
    _need("origin_kind", Text),
    _need("origin_name", Text, ""),
    _need("since_at", Moment),
)

history = sa.Table(
    "history",
    metadata,
    sa.Column("account_id", Text, primary_key=True),
    sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
    _need("kind", Text),
    _need("item", Text),
    _need("from_at", Moment),
    sa.Column("until_at", Moment),
    sa.Column("docket_id", Text),
    sa.Index(
        "uq_history_open",
        "account_id",
        "kind",
        "item",
        unique=True,
        postgresql_where=sa.text("until_at IS NULL"),
    ),
)

pools = sa.Table(
    "pools",
    metadata,
    _id(),
    sa.Column("application_id", Text, sa.ForeignKey("applications.id"), nullable=False),
    _need("license", Text),
    _need("bought", Int),
    sa.Column("price", sa.Numeric(14, 4)),
    _need("currency", Text, "EUR"),
    _need("period", Text, "month"),
    _need("unlimited", Bool, sa.false()),
    sa.Column("notice_days", Int),
    sa.Column("reported", Int),
    _need("maybe_over", Bool, sa.true()),  # never too few; put right with the terms
    sa.UniqueConstraint("application_id", "license"),
    sa.CheckConstraint("bought >= 0", name="bought_not_negative"),
)

purchases = sa.Table(
    "purchases",
    metadata,
    _id(),
    sa.Column("pool_id", Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False),
    _need("count", Int),
    sa.Column("begins", sa.Date),
    sa.Column("ends", sa.Date),
    _need("reference", Text, ""),
    sa.Index("ix_purchases_pool", "pool_id"),
    sa.CheckConstraint("count >= 0", name="count_not_negative"),
)
"""Seats bought together, for a term; ``pools.bought`` is how many of them there are now."""

orders = sa.Table(
    "orders",
    metadata,
    _id(),
    sa.Column("number", Int, sa.Identity(), nullable=False, unique=True),
    sa.Column("pool_id", Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False),
    _need("count", Int),
    _need("arrived", Int, "0"),
    sa.Column("needed_by", sa.Date),
    sa.Column("begins", sa.Date),
    sa.Column("ends", sa.Date),
    _need("reason", Text),
    _need("state", Text),
    _need("author", Text),
    _need("made_at", Moment),
    _need("decided_by", Text, ""),
    sa.Column("decided_at", Moment),
    _need("answer", Text, ""),
    sa.Column("expected", sa.Date),
    _need("reference", Text, ""),
    sa.Column("ended_at", Moment),
    sa.Index("ix_orders_pool", "pool_id"),
    sa.CheckConstraint("count > 0 AND arrived BETWEEN 0 AND count", name="no_more_arrived"),
)

reservations = sa.Table(
    "reservations",
    metadata,
    _id(),
    sa.Column("pool_id", Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False),
    _whose("person_id", Merged.MOVES, sa.ForeignKey("people.id"), nullable=True),
    _need("who", Text, ""),
    sa.Column("from_account_id", Text),
    _need("count", Int),
    _need("taken", Int, "0"),
    sa.Column("begins", sa.Date),
    sa.Column("ends", sa.Date, nullable=False),
    _need("reason", Text),
    _need("author", Text),
    _need("made_at", Moment),
    _need("open", Bool, sa.false()),
    sa.Index("ix_reservations_pool", "pool_id"),
    sa.CheckConstraint("taken >= 0 AND taken <= count", name="no_more_taken_than_set_aside"),
)
"""Seats set aside; ``open`` says whether they are today, and is put right like ``pools.bought``."""

seat_claims = sa.Table(
    "seat_claims",
    metadata,
    _id(),
    sa.Column("pool_id", Text, sa.ForeignKey("pools.id"), nullable=False),
    _need("account_id", Text),
    _whose("person_id", Merged.MOVES, sa.ForeignKey("people.id"), nullable=True),
    _need("state", Text),
    sa.Column("place", Int),
    _need("rank", Int, "0"),
    sa.Column("begins", sa.Date),
    sa.Column("reservation_id", Text),
    _need("since_at", Moment),
    sa.Column("until_at", Moment),
    sa.Index(
        "uq_seat_claims_live",
        "pool_id",
        "account_id",
        unique=True,
        postgresql_where=sa.text("until_at IS NULL"),
    ),
    sa.Index("ix_seat_claims_account", "account_id"),
    sa.Index(
        "ix_seat_claims_held",
        "person_id",
        postgresql_where=sa.text("state = 'held' AND until_at IS NULL"),
    ),
    sa.Index(
        "ix_seat_claims_waiting",
        "person_id",
        postgresql_where=sa.text("state = 'waiting' AND until_at IS NULL"),
    ),
)

forecasts = sa.Table(
    "forecasts",
    metadata,
    sa.Column("pool_id", Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), primary_key=True),
    sa.Column("made_on", sa.Date, primary_key=True),
    sa.Column("short_on", sa.Date),
    _need("lacking", Int),
)
"""What was forecast on a day, to be compared with what is forecast later."""

seat_questions = sa.Table(
    "seat_questions",
    metadata,
    sa.Column(
        "claim_id", Text, sa.ForeignKey("seat_claims.id", ondelete="CASCADE"), primary_key=True
    ),
    _need("asked_at", Moment),
    _need("answer_by", Moment),
    sa.Column("link_hash", Text, nullable=False, unique=True),
    _need("answer", Text, ""),
    sa.Column("answered_at", Moment),
    sa.Column("kept_until", Moment),
)
"""Whether an unused seat is still needed, the last time that was asked."""

rules = sa.Table(
    "rules",
    metadata,
    sa.Column("version", Int, primary_key=True),
    _json("document"),
    _need("text", Text, ""),
    _need("adopted_at", Moment),
    _need("adopted_by", Text),
    _need("note", Text, ""),
)

decisions = sa.Table(
    "decisions",
    metadata,
    _id(),
    _whose("subject_id", Merged.MOVES),
    _need("kind", Text),
    _json("payload"),
    _need("author", Text),
    _need("reason", Text, ""),
    sa.Column("starts_at", Moment),
    sa.Column("ends_at", Moment),
    _need("made_at", Moment),
    sa.Column("docket_id", Text),
    sa.Index("ix_decisions_subject", "subject_id"),
    sa.Index(
        "ix_decisions_heir",
        sa.text("(payload ->> 'person')"),
        postgresql_where=sa.text("kind = 'successor'"),
    ),
)

subjects = sa.Table(
    "subjects",
    metadata,
    _id(),
    sa.Column("wake_at", Moment),
    _need("priority", Int, "5"),
    sa.Column("lease_owner", Text),
    sa.Column("lease_until", Moment),
    _need("epoch", sa.BigInteger, "0"),
    sa.Column("known_at", Moment),
    sa.Index(
        "ix_subjects_wake", "priority", "wake_at", postgresql_where=sa.text("wake_at IS NOT NULL")
    ),
    sa.Index(
        "ix_subjects_lease", "lease_owner", postgresql_where=sa.text("lease_owner IS NOT NULL")
    ),
)

plans = sa.Table(
    "plans",
    metadata,
    _id(),
    _need("batch_id", Text),
    _whose("subject_id", Merged.GOES, sa.ForeignKey("subjects.id")),
    _need("verb", Text),
    _json("cause"),
    _json("steps", "[]"),
    _json("document"),
    _json("inputs"),
    _need("digest", Text),
    _need("due_at", Moment),
    _need("made_at", Moment),
    _need("author", Text),
    sa.Column("confirmed", Moment),
    _machine_now(),
    sa.Index("ix_plans_batch", "batch_id"),
)

dockets = sa.Table(
    "dockets",
    metadata,
    _id(),
    sa.Column("number", sa.BigInteger, sa.Identity(start=101), nullable=False, unique=True),
    _whose("subject_id", Merged.MOVES),
    _need("verb", Text),
    _need("state", Text),
    _json("cause"),
    _need("reference", Text, ""),
    _need("reason", Text, ""),
    _need("author", Text),
    sa.Column("batch_id", Text),
    _need("digest", Text, ""),
    _json("document"),
    _json("inputs"),
    sa.Column("undoes", Text),
    _need("due_at", Moment),
    _need("made_at", Moment),
    sa.Column("started_at", Moment),
    sa.Column("ended_at", Moment),
    sa.Column("waiting_at", Moment),
    _machine_now(),
    sa.Column("machine_started", Moment),
    sa.Column("machine_ended", Moment),
    sa.Index(
        "uq_dockets_running",
        "subject_id",
        unique=True,
        postgresql_where=sa.text("state = 'running' AND waiting_at IS NULL"),
    ),
    sa.Index("ix_dockets_dated", "due_at", "id", postgresql_where=sa.text("state = 'scheduled'")),
    sa.Index("ix_dockets_subject", "subject_id", "number"),
    sa.Index("ix_dockets_state", "state", "number"),
    sa.Index("ix_dockets_verb", "verb", "number"),
    sa.Index("ix_dockets_author", "author", "number"),
    sa.Index(
        "ix_dockets_reference",
        sa.text("lower(reference)"),
        "number",
        postgresql_where=sa.text("reference <> ''"),
    ),
    sa.Index("ix_dockets_list", "due_at", "number"),
    sa.Index("ix_dockets_batch", "batch_id"),
)

steps = sa.Table(
    "steps",
    metadata,
    _id(),
    sa.Column("docket_id", Text, nullable=False),
    _whose("subject_id", Merged.MOVES),
    _need("position", Int),
    _need("application_id", Text),
    _need("account_id", Text),
    _need("phase", Text),
    _need("action", Text),
    _need("item", Text, ""),
    _json("arguments"),
    _need("before", Text, ""),
    _need("after", Text, ""),
    _need("reason", Text, ""),
    sa.Column("origin", JSONB(none_as_null=True)),
    _need("state", Text),
    _need("attempts", Int, "0"),
    sa.Column("retry_at", Moment),
    sa.Column("problem", JSONB(none_as_null=True)),
    sa.Column("held_at", Moment),
    sa.Column("found", JSONB(none_as_null=True)),
    sa.Column("moving", JSONB(none_as_null=True)),
    sa.Column("moved", Int),
    sa.Column("intent_at", Moment),
    sa.Column("done_at", Moment),
    sa.Column("machine_at", Moment),
    # No index names a column that a running step changes: its updates then touch no index at all.
    sa.Index("ix_steps_docket", "docket_id", "position"),
    postgresql_with={"fillfactor": 60},
)

receipts = sa.Table(
    "receipts",
    metadata,
    sa.Column("step_id", Text, primary_key=True),
    sa.Column("docket_id", Text, nullable=False, index=True),
    _need("outcome", Text),
    _json("found"),
    _json("did"),
    _json("seen"),
    _need("at", Moment),
    _need("took_ms", sa.Float),
    _machine_now("machine_at"),
)

handovers = sa.Table(
    "handovers",
    metadata,
    sa.Column("step_id", Text, primary_key=True),
    sa.Column("asset_id", Text, primary_key=True),
    _need("docket_id", Text),
    _need("application_id", Text),
    _need("kind", Text),
    _need("name", Text),
    _need("from_account", Text),
    _need("to_account", Text),
    _need("at", Moment),
    _need("told", Bool, "false"),
    _need("copy_of", Text, ""),
    sa.Index("ix_handovers_untold", "docket_id", postgresql_where=sa.text("NOT told")),
    sa.Index("ix_handovers_from_account", "from_account"),
    sa.Index("ix_handovers_to_account", "to_account"),
    sa.Index("ix_handovers_docket_id", "docket_id"),
)

LIVE = "state = ANY (ARRAY['open', 'due', 'taken'])"
"""An obligation that is not over (``core.obligations.LIVE``)."""

obligations = sa.Table(
    "obligations",
    metadata,
    _id(),
    _whose("subject_id", Merged.GOES),
    sa.Column("account_id", Text),
    _need("kind", Text),
    _need("due_at", Moment),
    _need("state", Text, "open"),
    _need("basis", Text, ""),
    sa.Column("docket_id", Text),
    sa.Index("ix_obligations_due", "due_at", postgresql_where=sa.text("state = 'open'")),
    sa.Index("ix_obligations_subject", "subject_id"),
    sa.Index(
        "uq_obligations_open",
        "account_id",
        "kind",
        unique=True,
        postgresql_where=sa.text(LIVE),
    ),
    sa.Index("ix_obligations_dated", "due_at", "id", postgresql_where=sa.text(LIVE)),
)

marks = sa.Table(
    "marks",
    metadata,
    sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
    _whose("subject_id", Merged.MOVES),
    _need("patrol", Bool, "false"),
)
"""Whose state changed; triggers write them with the change. They wait for nobody: no other index."""

sweeps = sa.Table(
    "sweeps",
    metadata,
    sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
    sa.Column("application_id", Text),
    _need("upto", Text, ""),
    _need("patrol", Bool, "false"),
)
"""A change for many, of one application or of the rules: everybody up to ``upto`` has a mark."""

patrols = sa.Table(
    "patrols",
    metadata,
    sa.Column("began_at", Moment, primary_key=True),
    _need("faults", Int, "0"),
)
"""Looks at everybody, once a day; ``faults`` counts whom a mark had missed."""

heads = sa.Table(
    "heads",
    metadata,
    _whose("subject_id", Merged.GOES, primary_key=True),
    sa.Column("upto_at", Moment),
    _need("shape", Text, ""),
    _whose("leans_on", Merged.MOVES, nullable=True),
    sa.Index("ix_heads_leans_on", "leans_on", postgresql_where=sa.text("leans_on IS NOT NULL")),
)
"""Up to when somebody was looked at; ``shape`` is what others read of them, who lean on them."""

rights = sa.Table(
    "rights",
    metadata,
    sa.Column("account_id", Text, primary_key=True),
    sa.Column("since_at", Moment, primary_key=True),
    sa.Column("until_at", Moment),
    sa.Column("known_at", Moment),
    sa.Column("not_before", Moment),
)

standing = sa.Table(
    "standing",
    metadata,
    _whose("subject_id", Merged.GOES, primary_key=True),
    *(
        sa.Column(name, Text, primary_key=True)
        for name in ("application_id", "account_id", "kind", "item", "side")
    ),
    *(_need(name, Text, "") for name in ("want", "held", "reason", "code", "ref")),
    _need("status", Text),
    sa.Column("step_id", Text),
    _need("since_at", Moment),
    sa.Index("ix_standing_status", "status", "since_at"),
    sa.Index(
        "ix_standing_list",
        *("since_at", "subject_id", "application_id", "account_id", "kind", "item", "side"),
    ),
    sa.Index(
        "ix_standing_side",
        "status",
        "side",
        "since_at",
        *("subject_id", "application_id", "account_id", "kind", "item"),
    ),
)
"""The standing difference as last worked out; only whoever works marks off writes it."""

accepted = sa.Table(
    "accepted",
    metadata,
    _id(),
    _whose("subject_id", Merged.MOVES),
    *(_need(name, Text) for name in ("application_id", "kind", "item", "side")),
    _need("author", Text),
    _need("reason", Text),
    _need("made_at", Moment),
    sa.Column("ends_at", Moment),
    sa.Index("ix_accepted_subject", "subject_id"),
)

credentials = sa.Table(
    "credentials",
    metadata,
    _id(),
    _need("account_id", Text),
    sa.Column("docket_id", Text),
    sa.Column("cipher", sa.LargeBinary),
    _need("set_at", Moment),
    sa.Column("link_hash", Text, unique=True),
    sa.Column("expires", Moment),
    sa.Column("opened_at", Moment),
    sa.Column("told_at", Moment),
    _need("told_to", Text, ""),
    _need("told_how", Text, ""),
    _need("place", Text, ""),
    _need("contact", Text, ""),
    _machine_now(),
    sa.Index("ix_credentials_account", "account_id"),
    sa.Index("ix_credentials_untold", "set_at", postgresql_where=sa.text("told_at IS NULL")),
)

approvals = sa.Table(
    "approvals",
    metadata,
    _id(),
    _need("docket_id", Text),
    _whose("subject_id", Merged.MOVES),
    _need("name", Text),
    _need("digest", Text),
    _json("asked", "[]"),
    _need("everyone", Bool, "false"),
    _need("state", Text, "open"),
    _json("answers", "[]"),
    _json("covers", "[]"),
    _need("made_at", Moment),
    _need("remind_at", Moment),
    _need("expires_at", Moment),
    sa.Column("reminded_at", Moment),
    sa.Column("ended_at", Moment),
    sa.Index("ix_approvals_docket", "docket_id"),
    sa.Index("ix_approvals_open", "expires_at", postgresql_where=sa.text("state = 'open'")),
)

approval_links = sa.Table(
    "approval_links",
    metadata,
    sa.Column("hash", Text, primary_key=True),
    sa.Column("approval_id", Text, sa.ForeignKey("approvals.id", ondelete="CASCADE")),
    _need("who", Text),
    _need("name", Text),
    _need("expires", Moment),
)

mails = sa.Table(
    "mails",
    metadata,
    _id(),
    _need("address", Text),
    _need("subject", Text),
    _need("text", Text),
    sa.Column("sealed", sa.LargeBinary),
    _need("kind", Text),
    _whose("subject_id", Merged.MOVES, nullable=True),
    sa.Column("docket_id", Text),
    _need("made_at", Moment),
    sa.Column("sent_at", Moment),
    _need("tries", Int, "0"),
    _need("problem", Text, ""),
    sa.Column("retry", Moment, server_default=sa.func.now()),
    sa.Column("event", Text),
    sa.Index("uq_mails_event", "event", unique=True, postgresql_where=sa.text("event IS NOT NULL")),
    sa.Index("ix_mails_unsent", "retry", postgresql_where=sa.text("sent_at IS NULL")),
    sa.Index("ix_mails_made", "made_at", "id"),
    sa.Index("ix_mails_kind", "kind", "made_at", "id"),
    sa.Index("ix_mails_subject", "subject_id", "made_at", "id"),
)
"""What is told to people; ``sealed`` is the part that opens something, erased once it is sent. What tells
of an ``event`` is told once."""

shared = sa.Table(
    "shared",
    metadata,
    _id(),
    _need("name", Text),
    _need("place", Text, ""),
    _whose("owner_id", Merged.MOVES, nullable=True),
    _need("changed_at", Moment),
)
"""Credentials several people know; never the credential itself."""

shared_known = sa.Table(
    "shared_known",
    metadata,
    sa.Column("shared_id", Text, sa.ForeignKey("shared.id", ondelete="CASCADE"), primary_key=True),
    _whose("person_id", Merged.ONCE, primary_key=True),
    _need("since", Moment),
    sa.Index("ix_shared_known_person", "person_id"),
)

equipment = sa.Table(
    "equipment",
    metadata,
    _id(),
    _need("name", Text),
    _whose("holder_id", Merged.MOVES, nullable=True),
    sa.Column("since", Moment),
    sa.Index("ix_equipment_holder", "holder_id"),
)
"""Equipment and keys: who has what since when; nobody has what was given back."""

birthdays = sa.Table(
    "birthdays",
    metadata,
    _whose(
        "person_id",
        Merged.ONCE,
        sa.ForeignKey("people.id", ondelete="CASCADE"),
        primary_key=True,
    ),
    _need("digest", Text),
    sa.Index("ix_birthdays_digest", "digest"),
)
"""By which day of birth people are told apart: digests that only this installation makes."""

mentions = sa.Table(
    "mentions",
    metadata,
    _whose(
        "person_id", Merged.GOES, sa.ForeignKey("people.id", ondelete="CASCADE"), primary_key=True
    ),
    sa.Column(
        "application_id",
        Text,
        sa.ForeignKey("applications.id", ondelete="CASCADE"),
        primary_key=True,
    ),
    sa.Column("key", Text, primary_key=True),
    _need("kind", Text),
    _need("place", Text),
    _need("text", Text),
    _need("effect", Text),
    _need("contact", Text, ""),
    _need("fixable", sa.Boolean),
    _need("replaceable", Bool, "false"),
    _need("since_at", Moment),
    sa.Index("ix_mentions_application", "application_id", "key"),
)
"""Where applications name people without being owned by them, as last looked at."""

accepted_findings = sa.Table(
    "accepted_findings",
    metadata,
    sa.Column("kind", Text, primary_key=True),
    sa.Column("key", Text, primary_key=True),
    _need("until_at", Moment),
    _need("author", Text),
    _need("reason", Text),
    _need("made_at", Moment),
)
"""Findings that are not told until a moment; what else is said of them is worked out when asked for."""

finding_days = sa.Table(
    "finding_days",
    metadata,
    sa.Column("day", sa.Date, primary_key=True),
    _need("counts", JSONB),
    _need("over", ARRAY(Text)),
)
"""How many findings of each kind there were on a day of the organisation's, as last counted on it."""

takeovers = sa.Table(
    "takeovers",
    metadata,
    _whose(
        "person_id", Merged.ONCE, sa.ForeignKey("people.id", ondelete="CASCADE"), primary_key=True
    ),
    sa.Column(
        "application_id",
        Text,
        sa.ForeignKey("applications.id", ondelete="CASCADE"),
        primary_key=True,
    ),
    sa.Column("thing", Text, primary_key=True),
    _whose(
        "heir_id",
        Merged.ONCE,
        sa.ForeignKey("people.id", ondelete="CASCADE"),
        primary_key=True,
        index=True,
    ),
    sa.Column("id", Text, nullable=False, unique=True),
    _need("count", Int),
    _need("made_at", Moment),
    *(sa.Column(name, Moment) for name in ("asked_at", "remind_at", "answer_by")),
    _need("answer", Text, "open"),
    sa.Column("answered_at", Moment),
    _need("note", Text, ""),
    sa.Index("ix_takeovers_list", "made_at", "id"),
    sa.Index("ix_takeovers_open", "answer_by", postgresql_where=sa.text("answer = 'open'")),
)
"""Who is asked, or was, whether they take over a kind of thing from somebody who leaves or has left."""

takeover_links = sa.Table(
    "takeover_links",
    metadata,
    sa.Column("hash", Text, primary_key=True),
    _whose("heir_id", Merged.MOVES, sa.ForeignKey("people.id", ondelete="CASCADE"), index=True),
    _need("expires", Moment),
)
"""Hashes of the links by which they answer."""

people_files = sa.Table(
    "people_files",
    metadata,
    _id(),
    *(_need(name, Text) for name in ("kind", "name", "author")),
    _need("made_at", Moment),
    *(_need(name, Text) for name in ("encoding", "parting", "empties")),
    *(_need(name, JSONB) for name in ("columns", "fresh", "accepted")),
    _need("content", sa.LargeBinary),
    sa.Index("ix_people_files_list", "made_at", "id"),
)
"""Files of people as they came, without what nobody may keep."""

people_file_rows = sa.Table(
    "people_file_rows",
    metadata,
    sa.Column(
        "file_id", Text, sa.ForeignKey("people_files.id", ondelete="CASCADE"), primary_key=True
    ),
    sa.Column("line", Int, primary_key=True),
    *(_need(name, Text) for name in ("state", "login", "name")),
    *(
        _whose(name, Merged.MOVES, nullable=True, index=True)
        for name in ("person_id", "manager_id")
    ),
    *(_need(name, Int) for name in ("rev", "rank")),
    *(_need(name, JSONB) for name in ("document", "faults", "cells")),
    sa.Index("ix_people_file_rows_state", "file_id", "state", "line"),
)
"""What came of each row of a file; a person who is new has their id already."""

audit_events = sa.Table(
    "audit_events",
    metadata,
    _id(),
    sa.Column(
        "xid",
        sa.BigInteger,
        nullable=False,
        server_default=sa.text("pg_current_xact_id()::text::bigint"),
    ),
    _need("at", Moment),
    _machine_now("machine_at"),
    _need("actor", Text),
    _need("action", Text),
    _need("subject", Text, ""),
    sa.Column("docket_id", Text, index=True),
    sa.Column("payload", JSONB),
    _need("salt", sa.LargeBinary),
    _need("digest", sa.LargeBinary),
    sa.Column("leaf_index", sa.BigInteger, unique=True),
    sa.Index(
        "ix_audit_events_unsealed", "xid", "id", postgresql_where=sa.text("leaf_index IS NULL")
    ),
    sa.Index("ix_audit_events_subject", "subject"),
)

audit_heads = sa.Table(
    "audit_heads",
    metadata,
    sa.Column("size", sa.BigInteger, primary_key=True),
    _need("root", sa.LargeBinary),
    _json("frontier", "[]"),
    _need("signature", sa.LargeBinary),
    _machine_now("machine_at"),
)

numbers = sa.Table(
    "numbers",
    metadata,
    sa.Column("application_id", Text, primary_key=True),
    sa.Column("number", sa.BigInteger, primary_key=True),
    # Kept when the account is gone: its number is not given again. None's the application has itself.
    sa.Column("account_id", Text),
    sa.Index("ix_numbers_account", "application_id", "account_id", unique=True),
)
