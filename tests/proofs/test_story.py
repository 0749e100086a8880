"""The examples of the README, as ``scripts/demo --prove`` runs them."""

from __future__ import annotations

import shutil

import pytest

from tests.conftest import scratch
from tests.proofs.prove import PROOFS, prove


@pytest.mark.parametrize("name", list(PROOFS))
def test_a_proof_holds_in_the_applications(name: str) -> None:
    folder = scratch()
    try:
        assert prove(name, folder / "stage") == 0
    finally:
        shutil.rmtree(folder, ignore_errors=True)
