"""Random events agree with what docs/guide/standing.md and back.md promise; faults put in do not."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.proofs.patched import patched, run

FAULTS = {
    "an exception outlives its end where no role gives an account": (
        "core.desired",
        "        return origin.kind is not OriginKind.FOUND\n",
        "        return origin.kind is OriginKind.ROLE\n",
    ),
    "what waits in one application holds up what is owed elsewhere": (
        "engine.obligations",
        "    begun = [o for o in changed if o.docket_id and o.docket_id not in had]\n",
        "    stuck = {s.subject_id for s in await unit.dockets.begun(list(subjects))}\n"
        "    begun = [o for o in changed if o.docket_id and o.docket_id not in had"
        " and o.subject_id not in stuck]\n",
    ),
    "a closing day slides with what happens later": (
        "core.obligations",
        "        ended, known = right.until, right.known_at\n",
        "        ended, known = account.seen_at or right.until, right.known_at\n",
    ),
    "accounts read before their people are known stay nobody's": (
        "engine.people",
        "            await link_found(unit, people, now)\n",
        "",
    ),
    "an undo gives back what its docket took, and not what follows from its cause": (
        "core.undo",
        "        _follow(draft, report, as_now, since.left)\n",
        "        pass\n",
    ),
    "who is hired again is held to what was before": (
        "engine.changes",
        "        await unit.decisions.end_some(cause.over, now)\n",
        "        pass\n",
    ),
    "who needs no seat any more keeps the place in line": (
        "engine.standing",
        "    given_up = await unit.seats.give_up(looked, now)\n",
        "    given_up = 0\n",
    ),
    "a new account does not wait until the old one is gone": (
        "engine.work.steps",
        "            if step.action is Action.CREATE and await self._goes_still(step):\n",
        "            if step.action is Action.CREATE and self._tools is None:\n",
    ),
    "an approval delays the end of access": (
        "core.standing",
        "    if Verb.LEAVER in asked and state is PersonState.LEFT:\n",
        "    if Verb.LEAVER in asked and state is PersonState.LEFT:\n"
        "        return replace(plan, steps=())\n"
        "    if Verb.LEAVER in asked and state is PersonState.LEFT:\n",
    ),
}


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_every_promise_is_kept(seed: int) -> None:
    done = run("model", "--seed", str(seed), "--events", "300")
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    assert " 0 differences" in done.stdout


@pytest.mark.parametrize("fault", FAULTS)
def test_a_promise_that_is_broken_is_found(fault: str, tmp_path: Path) -> None:
    path = patched(tmp_path, [FAULTS[fault]])
    for seed in (1, 2, 3):
        done = run("model", "--seed", str(seed), "--events", "150", path=path)
        if "DIFFERS" in done.stdout:
            return
        assert done.returncode == 0, done.stderr[-2000:]
    pytest.fail(f"not found: {fault}")
