"""``scripts/demo``: starts everything, loads Morrow Sound Ferries once, and stays until told to stop."""

from __future__ import annotations

import fcntl
import os
import shutil
import signal
import sys
import threading
from pathlib import Path

import click

from yugum.client import Client
from yugum.errors import YugumError
from yugum_standins.load import connect, raise_stage, sign_in_link, tell_story
from yugum_standins.stage import Stage

ROOT = Path(__file__).resolve().parents[2]


def default_folder() -> Path:
    """``.state`` in the checkout, or for root a folder the user postgres can reach."""
    if os.geteuid() == 0:
        name = str(ROOT).strip("/").replace("/", "-")
        return Path("/var/tmp") / f"yugum-{name}"
    return ROOT / ".state" / "demo-state"


def point_here(folder: Path) -> None:
    """Leave a note in the checkout so that ``yugum`` finds the demo without options."""
    pointer = ROOT / ".state" / "demo"
    pointer.parent.mkdir(exist_ok=True)
    pointer.write_text(str(folder))


def say(line: str) -> None:
    click.echo(f"  {line}")


def lock(folder: Path) -> object:
    """Hold the folder for this process; a second demo in it is told so."""
    folder.mkdir(parents=True, exist_ok=True)
    handle = (folder / "demo.lock").open("w")
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        click.echo(f"A demo is running in {folder} already. Name another folder: --state DIR.")
        sys.exit(4)
    return handle


def load(stage: Stage) -> None:
    click.echo("Loading Morrow Sound Ferries …")
    token = (stage.folder / "client.json").read_text()
    with Client(stage.url, _token(token)) as client:
        organisation = connect(client, stage, say)
        tell_story(client, organisation, stage, say)
    (stage.folder / "loaded").touch()


def _token(text: str) -> str:
    import json

    return str(json.loads(text)["token"])


def run(folder: Path, port: int, fresh: bool) -> None:
    """The demo itself: returns when it was told to stop."""
    held = lock(folder)
    if fresh:
        for entry in folder.iterdir():
            if entry.name != "demo.lock":
                shutil.rmtree(entry) if entry.is_dir() else entry.unlink()
    elif not (folder / "loaded").exists() and (folder / "client.json").exists():
        click.echo("The last start was interrupted while loading; beginning again.")
        return _again(folder, port, held)
    stop = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: _interrupt(stop))
    stage, new = raise_stage(folder, port=port)
    try:
        if new:
            load(stage)
        point_here(folder)
        _greet(stage)
        while not stop.wait(1.0):
            dead = [c.name for c in stage.children.values() if not c.alive()]
            for name in dead:
                click.echo(f"{name} ended; starting it again (its log: {folder}/{name}.log)")
                stage.children[name].start()
    except KeyboardInterrupt:
        pass
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        click.echo("Stopping …")
        stage.stop()


def _again(folder: Path, port: int, held: object) -> None:
    del held
    run(folder, port, True)


def _interrupt(stop: threading.Event) -> None:
    """While loading, interrupt at once; later the waiting loop sees the event."""
    if stop.is_set():
        return
    stop.set()
    raise KeyboardInterrupt


def _greet(stage: Stage) -> None:
    command = "yugum" if shutil.which("yugum") else ".venv/bin/yugum"
    click.echo(
        f"""
Yugum is at {stage.url}
Sign in once with: {sign_in_link(stage)}

Try next, in another terminal:
  {command} today
  {command} leaver "Yusuf Brandt" --at "Fri 17:00"
  {command} clock advance Friday

Ctrl-C stops it; the next start goes on where this one ended, --fresh begins again.
""",
    )
    sys.stdout.flush()


@click.command()
@click.option("--state", type=click.Path(path_type=Path), default=None, help="State folder.")
@click.option(
    "--port", type=int, default=8420, help="Where the console is; a taken port is passed."
)
@click.option("--fresh", is_flag=True, help="Begin again.")
@click.option(
    "--prove",
    is_flag=False,
    flag_value="story",
    default=None,
    metavar="[NAME]",
    help="Run an example without questions and check it in the applications.",
)
def main(state: Path | None, port: int, fresh: bool, prove: str | None) -> None:
    """Run the demo of Morrow Sound Ferries."""
    folder = (state or default_folder()).absolute()
    try:
        if prove is not None:
            from tests.proofs.prove import prove as run_proof  # in a checkout only

            sys.exit(run_proof(prove, folder.with_name(f"{folder.name}-prove")))
        run(folder, port, fresh)
    except YugumError as error:
        click.echo(f"demo: {error.message}", err=True)
        if error.remedy:
            click.echo(f"  → {error.remedy}", err=True)
        sys.exit(1)


if __name__ == "__main__":
    main()
