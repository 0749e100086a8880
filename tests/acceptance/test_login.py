"""Signing in the command line: by a link, by a password, out again; nobody else can read what is kept."""

from __future__ import annotations

import json
import stat
from pathlib import Path

import pytest

from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import PASSWORD, for_now
from yugum.client import Client
from yugum.errors import Unauthenticated


def test_a_link_signs_in_and_what_is_kept_is_ones_own(theatre: Theatre, tmp_path: Path) -> None:
    client = theatre.client

    def own(*words: str, answer: str = "") -> str:
        done = cli(theatre, *words, answer=answer, state=tmp_path)
        assert done.returncode == 0, done.stderr
        return done.stdout

    with for_now(client, "linked", "operator"):
        link = client.operators.link("linked").link
        assert "You are linked (operator) for 90 days" in own("login", link, answer=f"{PASSWORD}\n")
        kept = tmp_path / "client.json"
        assert stat.S_IMODE(kept.stat().st_mode) == 0o600
        first = json.loads(kept.read_text())
        assert own("people", "list", "--search", "nobody-like-that").strip() == "Nobody fits."
        used = cli(theatre, "login", link, answer=f"{PASSWORD}\n", state=tmp_path)
        assert used.returncode != 0
        assert json.loads(kept.read_text()) == first
        own("login", "--login", "linked", "--scope", "viewer", answer=f"{PASSWORD}\n")
        second = json.loads(kept.read_text())
        with Client(first["url"], first["token"]) as old, pytest.raises(Unauthenticated):
            old.session()
        with Client(second["url"], second["token"]) as now:
            assert now.session().operator.role == "viewer"
        assert "Signed out" in own("logout", answer=f"{PASSWORD}\n")
        assert not kept.exists()
        with Client(second["url"], second["token"]) as old, pytest.raises(Unauthenticated):
            old.session()
    for words, text in (
        (("logout",), "No sign-in is kept"),
        (("login",), "I do not know"),
        (("login", "http://127.0.0.1/welcome"), "not a sign-in link"),
    ):
        refused = cli(theatre, *words, state=tmp_path)
        assert refused.returncode == 4
        assert text in refused.stderr
