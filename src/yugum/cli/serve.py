"""Running the service and workers."""

from __future__ import annotations

from pathlib import Path

import click


@click.command()
@click.option("--state", type=click.Path(path_type=Path), default=None, help="State folder.")
@click.option("--host", default=None, help="Address to listen on; loopback unless told otherwise.")
@click.option("--port", type=int, default=None)
@click.option(
    "--no-worker", is_flag=True, help="Run no worker inside; start yugum worker yourself."
)
@click.option("--with-parent", is_flag=True, help="End when the parent process ends.")
def serve(
    state: Path | None, host: str | None, port: int | None, no_worker: bool, with_parent: bool
) -> None:
    """Run the service, on a private database unless YUGUM_DATABASE_URL names one."""
    from yugum.processes import run_service

    run_service(
        {"state": state, "host": host, "port": port, "worker_inside": False if no_worker else None},
        with_parent=with_parent,
    )


@click.command()
@click.option("--state", type=click.Path(path_type=Path), default=None, help="State folder.")
@click.option("--name", default=None, help="The worker's name in leases and the audit log.")
@click.option("--with-parent", is_flag=True, help="End when the parent process ends.")
def worker(state: Path | None, name: str | None, with_parent: bool) -> None:
    """Run a worker; any number of them share the work."""
    from yugum.processes import run_worker

    run_worker({"state": state, "worker_name": name}, with_parent=with_parent)
