"""The description holds what it says, and 200 kills lose and double nothing."""

from __future__ import annotations

from tests.proofs.patched import run


def test_the_service_does_what_its_description_says() -> None:
    done = run("described", seconds=2400)
    assert done.returncode == 0, done.stdout[-6000:] + done.stderr[-2000:]


def test_nothing_is_lost_doubled_or_stuck_when_everything_is_killed() -> None:
    done = run("kills", seconds=1800)
    assert done.returncode == 0, done.stdout[-6000:] + done.stderr[-2000:]
