"""The example of the README, as ``scripts/demo --prove`` runs it."""

from __future__ import annotations

import shutil

from tests.conftest import scratch
from yugum_standins.prove import prove


def test_the_story_holds_in_the_applications() -> None:
    folder = scratch()
    try:
        assert prove("story", folder / "stage") == 0
    finally:
        shutil.rmtree(folder, ignore_errors=True)
