"""A local program: asked by JSON on its standard input, answering with JSON on its output.

It runs as a process of its own, in a group of its own that is ended as a whole when its time is
over, with nothing of Yugum's environment but a search path.
"""

from __future__ import annotations

import asyncio
import json
import os
import signal
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

from yugum.connectors.own.runs import LONGEST_REPLY, Runner
from yugum.errors import ApplicationUnavailable, InvalidInput
from yugum.ports.connectors import ConnectorSpec

SAFE_ENVIRONMENT = {"PATH": "/usr/local/bin:/usr/bin:/bin", "LANG": "C.UTF-8"}


def connect_script(spec: ConnectorSpec) -> ScriptRunner:
    """The entry point. The option ``program`` is a file in the folder for scripts.

    ``timeout`` is its time in seconds.
    """
    unknown = set(spec.options) - {"program", "timeout"}
    if unknown:
        raise InvalidInput(
            f"A script has no option {min(unknown)}.",
            place="options",
            remedy="Use: program, timeout.",
        )
    if spec.scripts is None:
        raise InvalidInput(
            "No folder for scripts is named, so none may run.",
            place="options.program",
            remedy="Set YUGUM_SCRIPT_FOLDER for service and workers.",
        )
    folder = spec.scripts.resolve()
    program = (folder / spec.options.get("program", "")).resolve()
    if program.parent != folder or not program.is_file():
        raise InvalidInput(
            f"There is no program '{spec.options.get('program', '')}' in the folder for scripts.",
            place="options.program",
            remedy="Name a file that lies there itself.",
        )
    if not os.access(program, os.X_OK):
        raise InvalidInput("The program may not be executed.", place="options.program")
    return ScriptRunner(spec.name, program, float(spec.options.get("timeout", spec.timeout)))


class ScriptRunner(Runner):
    """Runs one program."""

    def __init__(self, name: str, program: Path, timeout: float) -> None:
        super().__init__(name, timeout)
        self._program = program

    async def ask(self, what: str, key: str, data: Mapping[str, Any]) -> Mapping[str, Any]:
        question = json.dumps({"do": what, "id": key, "data": data}).encode()
        process = await asyncio.create_subprocess_exec(
            str(self._program),
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
            stderr=asyncio.subprocess.PIPE,
            env=SAFE_ENVIRONMENT,
            cwd="/",
            start_new_session=True,
        )
        try:
            async with asyncio.timeout(self.call_timeout):
                out, errors = await _talk(process, question)
        except TimeoutError as error:
            raise ApplicationUnavailable.unanswered(self._name, self.call_timeout) from error
        finally:
            _end(process)
        if process.returncode:
            said = errors.decode(errors="replace").strip() or out.decode(errors="replace").strip()
            raise self.rejected(f"ended with {process.returncode}", said)
        return self.parsed(out.decode(errors="replace"))


async def _talk(process: asyncio.subprocess.Process, question: bytes) -> tuple[bytes, bytes]:
    """Ask and take the answer, no more of it than is allowed; an endless one is cut short."""
    assert process.stdin is not None
    assert process.stdout is not None
    assert process.stderr is not None
    with suppress(BrokenPipeError, ConnectionResetError):  # it may not read what it is asked
        process.stdin.write(question)
        await process.stdin.drain()
    process.stdin.close()
    out, errors = await asyncio.gather(
        _some(process.stdout, LONGEST_REPLY + 1), _some(process.stderr, 4000)
    )
    if len(out) > LONGEST_REPLY:
        return out, errors
    await process.wait()
    return out, errors


async def _some(stream: asyncio.StreamReader, limit: int) -> bytes:
    taken = b""
    while len(taken) < limit:
        piece = await stream.read(limit - len(taken))
        if not piece:
            break
        taken += piece
    return taken


def _end(process: asyncio.subprocess.Process) -> None:
    """End the whole group, for a program may have started others, and let go of its pipes.

    An answer that was cut short, or came too late, would keep them open as long as the worker runs;
    asyncio has no public way to close them.
    """
    with suppress(ProcessLookupError, PermissionError):
        os.killpg(process.pid, signal.SIGKILL)
    process._transport.close()  # type: ignore[attr-defined]
