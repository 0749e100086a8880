"""A service as it is begun: nobody, no application, and the one-time link of its first administrator."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from tests.conftest import scratch
from yugum.cluster import free_port


@contextmanager
def begun(database_url: str) -> Iterator[tuple[Path, str]]:
    """The state folder and the link, while a block lasts."""
    folder = scratch()
    env = {**os.environ, "YUGUM_DATABASE_URL": database_url, "YUGUM_PORT": str(free_port())}
    command = [sys.executable, "-m", "yugum.cli.main", "serve", "--state", str(folder)]
    log = folder / "serve.log"
    with log.open("w") as out:
        process = subprocess.Popen(command, env=env, stdout=out, stderr=out)
    try:
        for _ in range(3000):
            if link := re.search(r"http\S+/welcome#\S+", log.read_text()):
                break
            assert process.poll() is None, log.read_text()
            time.sleep(0.1)
        else:
            raise AssertionError(log.read_text())
        yield folder, link.group(0)
    finally:
        process.terminate()
        process.wait(60)
        shutil.rmtree(folder, ignore_errors=True)
