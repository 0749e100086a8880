"""Proofs that run by themselves, on Yugum as it is or with a fault put into it."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

SOURCE = Path(__file__).parents[2] / "src"
Edit = tuple[str, str, str]
"""A module of Yugum, a text that stands in it once, and what stands there instead."""


def run(
    module: str, *words: str, path: Path | None = None, seconds: float = 900
) -> subprocess.CompletedProcess[str]:
    """One machine of random events, by its module's name; ``path`` is where Yugum is taken from."""
    env = {**os.environ, **({"PYTHONPATH": str(path)} if path else {})}
    return subprocess.run(
        [sys.executable, "-m", f"tests.proofs.{module}", *words],
        cwd=SOURCE.parent,
        env=env,
        capture_output=True,
        text=True,
        timeout=seconds,
        check=False,
    )


def patched(folder: Path, edits: Iterable[Edit]) -> Path:
    """A copy of Yugum with faults in it."""
    copy = folder / "src"
    shutil.copytree(SOURCE, copy)
    for module, before, after in edits:
        target = at(copy, module)
        text = target.read_text()
        assert text.count(before) == 1, "the faults follow the code"
        target.write_text(text.replace(before, after))
    return copy


def at(source: Path, module: str) -> Path:
    """The file of one of Yugum's modules."""
    return source.joinpath("yugum", *module.split(".")).with_suffix(".py")
