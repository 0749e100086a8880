"""The command line as an operator types it."""

from __future__ import annotations

import io
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any
from unittest.mock import patch

from tests.conftest import Theatre
from yugum.cli.main import main


def cli(
    theatre: Theatre, *words: str, answer: str = "", state: Path | None = None
) -> subprocess.CompletedProcess[str]:
    """The command as typed, within this process: starting a new one for each takes a second."""
    out, err = io.StringIO(), io.StringIO()
    argv = ["yugum", "--state", str(state or theatre.stage.folder), *words]
    code: Any = 0
    with (
        patch.object(sys, "argv", argv),
        patch.object(sys, "stdin", io.StringIO(answer)),
        redirect_stdout(out),
        redirect_stderr(err),
    ):
        try:
            main()
        except SystemExit as end:
            code = end.code
    return subprocess.CompletedProcess(argv, int(code or 0), out.getvalue(), err.getvalue())
