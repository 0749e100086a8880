"""The rows of every kind of finding, as statements that an index answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa

from yugum.core.findings import FindingKind
from yugum.core.lines import KEY
from yugum.storage import tables as t
from yugum.storage.rows import locked_sql

MONTHLY = "po.price / CASE po.period WHEN 'year' THEN 12 ELSE 1 END"
COST = f"""(SELECT jsonb_object_agg(m.currency, m.amount::text) FROM (
  SELECT po.currency, round(sum({MONTHLY}), 2) AS amount FROM seat_claims c
  JOIN pools po ON po.id = c.pool_id WHERE c.account_id = acc.id AND c.until_at IS NULL
    AND c.state = 'held' AND po.price IS NOT NULL GROUP BY 1) m)"""
"""What the seats of an account cost a month, by currency."""

FIRST_SEEN = "(SELECT min(from_at) FROM history WHERE account_id = acc.id)"


@dataclass(frozen=True, slots=True)
class Source:
    """The rows of a kind and what they are sorted by, first by a ``moment`` where it is one.

    ``costs`` where they have a price; ``counted`` has the same rows without what only tells of them: who or
    what is looked up for each row takes longer than the row. An open deviation always has its account, and
    a line that is nobody's has its account as its subject.
    """

    rows: str
    order: Sequence[str]
    told: str
    moment: bool = False
    costs: bool = False
    counted: str = ""

    @property
    def sql(self) -> str:
        places = ", ".join(f"{by} AS place{n}" for n, by in enumerate(self.order))
        return f"SELECT {self.told}, {places} {self.rows}"

    @property
    def places(self) -> list[sa.ColumnClause[Any]]:
        return [
            sa.column(f"place{n}", t.Moment if self.moment and n == 0 else sa.Text)
            for n in range(len(self.order))
        ]


def what(  # noqa: PLR0913 - the columns of a finding
    kind: str,
    *,
    key: str = "acc.id",
    person: str = "p.id",
    name: str = "p.display_name",
    login: str = "acc.login",
    account: str = "acc.id",
    application: str = "a.name",
    since: str = "NULL",
    cost: str = "NULL",
    about: str = "''",
    other: str = "''",
    deviation: str = "NULL",
) -> str:
    return f"""{kind} AS kind, {key} AS key, {account} AS account_id, {person} AS person_id,
  {name} AS display_name, {login} AS login, {application} AS application_name,
  cast({since} AS timestamptz) AS since, cast({cost} AS jsonb) AS cost, {about} AS about, {other} AS other_login,
  cast({deviation} AS jsonb) AS deviation"""


NOBODYS: Mapping[str, str] = {"account": "NULL", "person": "NULL", "name": "NULL", "login": "''"}
"""What is of an application, and of no account."""
EITHER = "coalesce(p.display_name, acc.display_name)"
LEFT = "p.open_end <= :now"
"""Who left and may have something open: ``ix_people_open_end``."""
THERE = "({0}.access_ends IS NULL OR {0}.access_ends > :now)"
NOBODY = "acc.person_id IS NULL AND acc.state = 'active'"
"""``ix_accounts_nobody``."""

OPEN_OTHERWISE = """ AND NOT (p.access_ends <= :now
  AND (s.kind = 'account' AND acc.state = 'active' OR s.kind = 'seat'))"""
"""What a leaver has open is a finding of its own."""
ASLEEP = "acc.state = 'active' AND acc.kind = 'person' AND acc.last_used < :asleep"
"""``ix_accounts_asleep``."""
OWNING = "acc.owns AND (acc.state = 'suspended' OR acc.person_id IS NULL) AND acc.state IN ('active', 'suspended')"
"""``ix_accounts_owns``: who owned something when they were suspended or nobody stood behind them any more."""
PATTERN = r"""replace(replace(replace(replace(replace(lower(d.payload ->> 'matching'),
  '\', '\\'), '%', '\%'), '_', '\_'), '*', '%'), '?', '_')"""
LOOSE_THINGS = f"""FROM assets x WHERE x.account_id = acc.id AND NOT EXISTS (SELECT 1 FROM decisions d
  WHERE d.subject_id = acc.person_id AND d.kind = 'successor' AND d.payload ->> 'value' IN ('goes', 'keeps')
    AND (d.starts_at IS NULL OR d.starts_at <= :now) AND (d.ends_at IS NULL OR d.ends_at > :now)
    AND coalesce(d.payload ->> 'application', acc.application_id) = acc.application_id
    AND coalesce(d.payload ->> 'item', x.kind) = x.kind
    AND (d.payload ->> 'matching' IS NULL OR lower(x.name) LIKE {PATTERN}))"""
"""Those of which nobody chose that they go with the account, or that it is kept for them."""
OWNS = f"EXISTS (SELECT 1 {LOOSE_THINGS})"
AWAY = "p.absent_from <= :now AND (p.absent_until IS NULL OR p.absent_until > :now)"
"""What somebody who is away owns is theirs when they are back."""
THINGS = f"""(SELECT string_agg(concat(k.kind, ' ', k.count), ', ' ORDER BY k.kind) FROM (
  SELECT x.kind, count(*) AS count {LOOSE_THINGS} GROUP BY x.kind) k)"""
KEYS = """CASE acc.keys WHEN 0 THEN '' WHEN 1 THEN '; it has a key' ELSE concat('; it has ', acc.keys, ' keys') END"""
STANDING = "concat_ws('/', s.subject_id, s.application_id, s.account_id, s.kind, s.item)"

PAIRS = (
    """jsonb_to_recordset(cast(:pairs AS jsonb)) AS g(application text, license text, item text)"""
)
"""The groups that go with a seat, as the rules say."""
HELD = "c.until_at IS NULL AND c.state = 'held'"

SEATS: Mapping[FindingKind, Source] = {
    FindingKind.SEATS_OVER: Source(
        f"""FROM pools po JOIN applications a ON a.id = po.application_id
CROSS JOIN LATERAL (SELECT count(*) AS held FROM seat_claims c WHERE c.pool_id = po.id AND {HELD}) h
WHERE po.maybe_over AND a.disconnected_at IS NULL AND NOT po.unlimited AND h.held > po.bought""",
        ("a.name", "po.id"),
        what(
            "'seats-over'",
            key="po.id",
            **NOBODYS,
            cost=f"CASE WHEN po.price IS NOT NULL THEN jsonb_build_object(po.currency, round((h.held - po.bought) * {MONTHLY}, 2)::text) END",
            about="po.license",
            other="(h.held - po.bought)::text",
        ),
        costs=True,
    ),
    FindingKind.SEATS_DIFFER: Source(
        """FROM pools po JOIN applications a ON a.id = po.application_id
WHERE a.disconnected_at IS NULL AND NOT po.unlimited AND po.reported <> po.bought""",
        ("a.name", "po.id"),
        what(
            "'seats-differ'",
            key="po.id",
            **NOBODYS,
            about="po.license",
            other="concat(po.bought, ' entered, ', po.reported, ' reported')",
        ),
    ),
    FindingKind.SEAT_ALONE: Source(
        f"""FROM {PAIRS} JOIN pools po ON po.application_id = g.application AND po.license = g.license
JOIN applications a ON a.id = po.application_id JOIN seat_claims c ON c.pool_id = po.id AND {HELD}
JOIN accounts acc ON acc.id = c.account_id LEFT JOIN people p ON p.id = acc.person_id
WHERE acc.state = 'active' AND NOT g.item = ANY (acc.entitlements)""",
        ("acc.login", "acc.id", "g.license", "g.item"),
        what(
            "'seat-alone'",
            key="concat_ws('/', acc.id, g.license, g.item)",
            person="acc.person_id",
            name=EITHER,
            since="c.since_at",
            about="g.license",
            other="g.item",
        ),
    ),
    FindingKind.GROUP_ALONE: Source(
        f"""FROM {PAIRS} JOIN pools po ON po.application_id = g.application AND po.license = g.license
JOIN applications a ON a.id = po.application_id
JOIN accounts acc ON acc.application_id = g.application AND g.item = ANY (acc.entitlements)
LEFT JOIN people p ON p.id = acc.person_id
WHERE acc.state = 'active' AND NOT EXISTS (SELECT 1 FROM seat_claims c WHERE c.pool_id = po.id AND c.account_id = acc.id AND {HELD})""",
        ("acc.login", "acc.id", "g.license", "g.item"),
        what(
            "'group-alone'",
            key="concat_ws('/', acc.id, g.license, g.item)",
            person="acc.person_id",
            name=EITHER,
            about="g.license",
            other="g.item",
        ),
    ),
}

SOURCES: Mapping[FindingKind, Source] = {
    FindingKind.LEAVER_OPEN: Source(
        f"""FROM people p JOIN accounts acc ON acc.person_id = p.id
JOIN applications a ON a.id = acc.application_id
WHERE {LEFT} AND acc.state = 'active' AND acc.kind = 'person' AND NOT {locked_sql("acc")}""",
        ("p.open_end", "acc.id"),
        what("'leaver-open'", since="p.access_ends", cost=COST),
        moment=True,
        costs=True,
        counted=f"""FROM people p JOIN accounts acc ON acc.person_id = p.id
WHERE {LEFT} AND acc.state = 'active' AND acc.kind = 'person' AND NOT {locked_sql("acc")}""",
    ),
    FindingKind.NOBODY_BEHIND: Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
WHERE {NOBODY} AND acc.kind = 'person'""",
        ("acc.login", "acc.id"),
        what(
            "'nobody-behind'", person="NULL", name="acc.display_name", since=FIRST_SEEN, cost=COST
        ),
        costs=True,
        counted=f"FROM accounts acc WHERE {NOBODY} AND acc.kind = 'person'",
    ),
    FindingKind.OWNER_LEFT: Source(
        f"""FROM people p JOIN accounts acc ON acc.person_id = p.id
JOIN applications a ON a.id = acc.application_id
WHERE {LEFT} AND acc.state = 'active' AND acc.kind IN ('service', 'shared')""",
        ("p.open_end", "acc.id"),
        what("'owner-left'", since="p.access_ends", about="acc.kind", other=KEYS),
        moment=True,
    ),
    FindingKind.OWNED_STILL: Source(
        f"""FROM accounts acc LEFT JOIN people p ON p.id = acc.person_id
JOIN applications a ON a.id = acc.application_id
WHERE {OWNING} AND NOT coalesce({AWAY}, false) AND {OWNS}""",
        ("acc.login", "acc.id"),
        what(
            "'owned-still'",
            name=EITHER,
            since="p.access_ends",
            about=THINGS,
            other="""CASE WHEN acc.person_id IS NULL THEN 'has nobody behind it'
  WHEN p.access_ends <= :now THEN 'has left' ELSE 'is suspended' END""",
        ),
        counted=f"""FROM accounts acc LEFT JOIN people p ON p.id = acc.person_id
WHERE {OWNING} AND NOT coalesce({AWAY}, false) AND {OWNS}""",
    ),
    FindingKind.STILL_NAMED: Source(
        """FROM mentions m JOIN people p ON p.id = m.person_id JOIN applications a ON a.id = m.application_id
WHERE p.access_ends <= :now AND a.disconnected_at IS NULL""",
        ("p.display_name", "m.person_id", "m.application_id", "m.key"),
        what(
            "'still-named'",
            key="concat_ws('/', m.person_id, m.application_id, m.key)",
            account="NULL",
            login="p.user_name",
            since="m.since_at",
            about="m.place",
        ),
    ),
    FindingKind.WITHOUT_OWNER: Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
WHERE {NOBODY} AND acc.kind <> 'person'
  AND (acc.kind <> 'group' OR a.groups ?| ARRAY['owner_id', 'owner_login']
    AND NOT EXISTS (SELECT 1 FROM accounts o LEFT JOIN people h ON h.id = o.person_id
      WHERE o.application_id = acc.application_id AND o.kind <> 'group'
        AND (o.external_id = acc.settings->>'owner_id' OR o.login = acc.settings->>'owner_login')
        AND {THERE.format("h")}))""",
        ("acc.login", "acc.id"),
        what(
            "'without-owner'",
            person="NULL",
            name="acc.display_name",
            since=FIRST_SEEN,
            cost=COST,
            about="acc.kind",
        ),
        costs=True,
    ),
    FindingKind.SLEEPER: Source(
        f"""FROM accounts acc JOIN people p ON p.id = acc.person_id
JOIN applications a ON a.id = acc.application_id
WHERE {ASLEEP} AND {THERE.format("p")}""",
        ("acc.last_used", "acc.id"),
        what(
            "'sleeper'",
            since="acc.last_used",
            cost=COST,
            about="floor(extract(epoch FROM cast(:now AS timestamptz) - acc.last_used) / 86400)::text",
        ),
        moment=True,
        costs=True,
        # Who left with an account open is among the few that are loose.
        counted=f"""FROM accounts acc WHERE {ASLEEP} AND acc.person_id IS NOT NULL
  AND NOT EXISTS (SELECT 1 FROM people p WHERE p.id = acc.person_id AND {LEFT})""",
    ),
    FindingKind.LEAVER_SEAT: Source(
        f"""FROM people p JOIN seat_claims c ON c.person_id = p.id JOIN pools po ON po.id = c.pool_id
JOIN accounts acc ON acc.id = c.account_id JOIN applications a ON a.id = acc.application_id
WHERE {LEFT} AND c.until_at IS NULL AND c.state = 'held'""",
        ("p.open_end", "c.id"),
        what(
            "'leaver-seat'",
            key="acc.id || po.id",
            since="p.access_ends",
            cost=f"jsonb_build_object(po.currency, round({MONTHLY}, 2)::text)",
            about="po.license",
        ),
        moment=True,
        costs=True,
    ),
    FindingKind.PERSON_TWICE: Source(
        f"""FROM people p JOIN people o ON lower(o.display_name) = lower(p.display_name)
  AND o.department = p.department AND o.id < p.id
WHERE p.alike AND {THERE.format("p")} AND {THERE.format("o")}""",
        ("p.id", "o.id"),
        what(
            "'person-twice'",
            key="p.id",
            account="NULL",
            login="p.user_name",
            application="'people'",
            about="o.employee_number",
            other="o.user_name",
        ),
    ),
    FindingKind.OUTSIDE: Source(
        """FROM deviations d JOIN accounts acc ON acc.id = d.account_id
JOIN applications a ON a.id = acc.application_id LEFT JOIN people p ON p.id = acc.person_id
WHERE d.state = 'open'""",
        ("d.application_id", "d.id"),
        what(
            "'outside'",
            key="d.id",
            person="acc.person_id",
            name=EITHER,
            since="d.seen_at",
            deviation="jsonb_build_object('kind', d.kind, 'item', d.item, 'was', d.was, 'now_is', d.now_is)",
        ),
        counted="FROM deviations d WHERE d.state = 'open'",
    ),
    FindingKind.DELIVERED_NAME: Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
LEFT JOIN people p ON p.id = acc.person_id
WHERE {t.delivered_sql("acc.login")} AND acc.state = 'active' AND acc.kind = 'person'""",
        ("acc.login", "acc.id"),
        what("'delivered-name'", person="acc.person_id", name=EITHER, about="acc.id"),
    ),
    FindingKind.CREDENTIAL_ENDS: Source(
        "FROM applications a WHERE a.credential_ends < :soon",
        ("a.name", "a.id"),
        what(
            "'credential-ends'",
            key="a.id",
            **NOBODYS,
            since="a.credential_ends",
        ),
    ),
    FindingKind.UNCOVERED: Source(
        """FROM applications a LEFT JOIN applications b ON b.id = a.config->'options'->>'through'
WHERE a.disconnected_at IS NULL AND a.kind = 'sign-on'
  AND NOT coalesce(b.trust = 'full' AND b.capabilities ? 'suspend', false)""",
        ("a.name", "a.id"),
        what("'uncovered'", key="a.id", **NOBODYS),
    ),
    **{
        kind: Source(
            f"""FROM standing s JOIN people p ON p.id = s.subject_id
LEFT JOIN applications a ON a.id = s.application_id LEFT JOIN accounts acc ON acc.id = s.account_id
WHERE s.status = 'finding' AND s.side = '{kind}'"""
            + (OPEN_OTHERWISE if kind == "too_much" else ""),
            ("s.since_at", *(f"s.{n}" for n in ("subject_id", *KEY) if n != "side")),
            what(
                "s.side",
                key=STANDING,
                account="nullif(s.account_id, '')",
                person="s.subject_id",
                login="coalesce(acc.login, p.user_name)",
                application="coalesce(a.name, '')",
                since="s.since_at",
                about="concat_ws(' ', s.kind, nullif(s.item, ''))",
                other="s.reason",
            ),
            moment=True,
            counted=""
            if kind == "too_much"
            else f"""FROM standing s WHERE s.status = 'finding' AND s.side = '{kind}'
  AND s.subject_id <> s.account_id""",
        )
        for kind in (
            FindingKind.MISSING,
            FindingKind.TOO_MUCH,
            FindingKind.DIFFERS,
            FindingKind.BOTH,
            FindingKind.ASKED,
        )
    },
    **SEATS,
}
"""Each kind's rows, in the order of an index where there may be many."""
