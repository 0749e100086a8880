"""The same inputs give the same plans in every process, however Python orders its sets there."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def written(seed: str) -> str:
    """The digest of everything the book says and plans, by a process with this hash seed."""
    made = subprocess.run(
        [sys.executable, "-m", "tests.book"],
        cwd=ROOT,
        env={**os.environ, "PYTHONHASHSEED": seed},
        capture_output=True,
        text=True,
        check=True,
    )
    return made.stdout


def test_plans_are_the_same_whatever_the_hash_seed() -> None:
    said = {written(seed) for seed in ("0", "1", "4711")}
    assert len(said) == 1
    assert len(said.pop().split()) > 20
