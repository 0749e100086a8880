"""The machine of `states` finds no harm in Yugum, and finds each of six faults put into it."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.proofs.patched import patched, run

STEPS = "45"
MUTATIONS = {
    "a hold is overlooked when something falls due": (
        # When it is planned and once more before it is done: either alone does no harm.
        (
            "core.desired",
            "    return holds[0] if holds else None",
            "    return None if holds else None",
        ),
        (
            "storage.decisions",
            "        return None if row is None else decision_from(row)",
            "        return None if row is None or row else decision_from(row)",
        ),
    ),
    "a parked account is kept for two days less": (
        (
            "core.windows",
            "    return deleted_at + timedelta(days=application.profile.window_days)",
            "    return deleted_at + timedelta(days=application.profile.window_days - 2)",
        ),
    ),
    "a purge falls due a day early": (
        (
            "core.obligations",
            "Owed(account.id, ObligationKind.PURGE, until, basis)",
            "Owed(account.id, ObligationKind.PURGE, until - timedelta(days=1), basis)",
        ),
    ),
    "what was seen is not what is kept": (
        ("core.projection", "        state=seen.state,\n", "        state=account.state,\n"),
    ),
    "the rules open what somebody closed": (
        (
            "core.planning",
            "    if suspended is not None and state is not PersonState.LEFT:",
            "    if suspended is not None and state is PersonState.ABSENT:",
        ),
    ),
    "two at once both win": (
        (
            "engine.plans.confirm",
            "    stale = [p.display_name for p in plans if p.stale]",
            "    stale: list[str] = []",
        ),
    ),
}


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_no_harm_is_done(seed: int) -> None:
    done = run("states", "--seed", str(seed), "--steps", STEPS)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]


@pytest.mark.parametrize("fault", MUTATIONS)
def test_a_fault_that_was_put_in_is_found(fault: str, tmp_path: Path) -> None:
    path = patched(tmp_path, MUTATIONS[fault])
    for seed in (2, 1, 3):
        done = run("states", "--seed", str(seed), "--steps", STEPS, path=path)
        if "HARM" in done.stdout:
            return
        assert done.returncode == 0, done.stderr[-2000:]
    pytest.fail(f"not found: {fault}")
