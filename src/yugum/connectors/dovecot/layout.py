"""What the connector expects of a mail store: its table of mailboxes, and its Sieve script."""

from __future__ import annotations

import json
from dataclasses import dataclass

TABLES = """
CREATE TABLE mailboxes (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  login text NOT NULL UNIQUE,
  alias text UNIQUE,
  unseen text UNIQUE,
  password text NOT NULL DEFAULT '',
  display_name text NOT NULL DEFAULT '',
  address text NOT NULL DEFAULT '',
  state text NOT NULL DEFAULT 'active'
    CHECK (state IN ('active', 'suspended', 'archived', 'parked')),
  parked_until timestamptz,
  account text NOT NULL DEFAULT '',
  owner uuid REFERENCES mailboxes ON DELETE SET NULL,
  quota_mb integer NOT NULL DEFAULT 1024
);
CREATE INDEX ON mailboxes (account);
CREATE INDEX ON mailboxes (owner);
CREATE TABLE app_passwords (
  mailbox uuid NOT NULL REFERENCES mailboxes ON DELETE CASCADE,
  label text NOT NULL,
  secret text NOT NULL,
  PRIMARY KEY (mailbox, label)
);
"""
"""The table that Dovecot's SQL look-ups read; docs/guide/mail-store.md shows both sides.

A mailbox receives mail while it is active or suspended, and its owner signs in while it is active.
Mail to its ``alias`` reaches it, and to ``unseen``, of which nobody is told. ``owner`` is whoever the mailbox was handed to. App passwords are stored as pgcrypto's crypt() text.
"""

SCRIPT = "yugum"
HEAD = "# Yugum keeps this script: "


@dataclass(frozen=True, slots=True)
class Sieve:
    """Where a mailbox's mail goes meanwhile: the settings as one Sieve script (RFC 5228).

    ``forward`` is an address (a copy stays, RFC 3894), ``reply`` the text of the automatic reply
    (RFC 5230) to what is written to ``addresses``, ``ground`` why this may be done, ``earlier`` the
    owner's own active script, which goes on working (RFC 6609).
    """

    forward: str = ""
    reply: str = ""
    ground: str = ""
    earlier: str = ""
    addresses: tuple[str, ...] = ()

    def settings(self) -> dict[str, str]:
        shown = {"forward": self.forward, "reply": self.reply}
        return {name: value for name, value in shown.items() if value}

    def text(self) -> str:
        """The script; its first line is what `read` understands again."""
        values = {
            "forward": self.forward,
            "reply": self.reply,
            "ground": self.ground,
            "earlier": self.earlier,
            "addresses": list(self.addresses),
        }
        needs = ["copy"] if self.forward else []
        needs += ["vacation"] if self.reply else []
        needs += ["include"] if self.earlier else []
        lines = [HEAD + json.dumps({k: v for k, v in values.items() if v})]
        lines.append(f"require [{', '.join(quoted(n) for n in needs)}];")
        if self.forward:
            lines.append(f"redirect :copy {quoted(self.forward)};")
        if self.reply:
            mine = ", ".join(quoted(a) for a in self.addresses)
            lines.append(f"vacation :days 1 :addresses [{mine}] {quoted(self.reply)};")
        if self.earlier:
            lines.append(f"include :personal {quoted(self.earlier)};")
        return "\r\n".join(lines) + "\r\n"


def read(text: str) -> Sieve | None:
    """What a script of ours says; None for one that is not ours or was changed since."""
    first = text.split("\n", 1)[0].strip()
    if not first.startswith(HEAD):
        return None
    try:
        values = json.loads(first.removeprefix(HEAD))
    except ValueError:
        return None
    if not isinstance(values, dict) or not set(values) <= set(Sieve.__dataclass_fields__):
        return None
    addresses = values.pop("addresses", [])
    if not isinstance(addresses, list):
        return None
    found = Sieve(
        **{k: str(v) for k, v in values.items()}, addresses=tuple(str(a) for a in addresses)
    )
    return found if _lines(found.text()) == _lines(text) else None


def _lines(text: str) -> list[str]:
    return [line.rstrip() for line in text.strip().splitlines()]


def quoted(text: str) -> str:
    """A Sieve string (RFC 5228 2.4.2): only quotes and backslashes are escaped."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'
