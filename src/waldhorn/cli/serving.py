"""The commands that start the application."""

import socket
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waldhorn.cli.command import OWN, DbOption, PortOption, app, now
from waldhorn.core.base.errors import InputError

if TYPE_CHECKING:
    from waldhorn.store.engine import Store


@app.command()
def demo(
    port: PortOption = 8700,
    db: Annotated[Path, typer.Option("--db", help="Where the demo's own store goes.")] = OWN / "demo.db",
) -> None:
    """Start the application on 127.0.0.1 with demo data in a store of its own."""
    from waldhorn.pit import demo as demo_season
    from waldhorn.pit.judging import judging
    from waldhorn.simulator.season import PIT_BOX
    from waldhorn.store import motors
    from waldhorn.store.engine import open_store

    store = open_store(db)
    with store.writing() as session:
        if not motors.all_tags(session):
            typer.echo("Making the demo season on the simulated bench; this takes a few seconds.")
            demo_season.fill(session, now(), lambda tag: typer.echo(f"\r{tag}   ", nl=False, err=True))
            typer.echo("\rThe season is made.", err=True)
        else:
            judging.settle(session, now())
    benches = {tag: port + place for place, tag in enumerate(PIT_BOX, 1)}
    for tag, at in benches.items():
        typer.echo(f"The simulated bench with {tag} clamped listens at 127.0.0.1:{at}")
    _serve(store, "127.0.0.1", port, benches)


@app.command()
def serve(
    db: DbOption = OWN / "waldhorn.db",
    host: Annotated[str, typer.Option(help="The address to listen on.")] = "127.0.0.1",
    port: PortOption = 8700,
) -> None:
    """Start the application on your own store."""
    from waldhorn.cli.opened import settled
    from waldhorn.store.engine import open_store
    from waldhorn.web.common.guard import THIS_MACHINE

    if host not in THIS_MACHINE:
        raise InputError(
            "host", f"{host} lets in everybody on the network, and Waldhorn has no passphrase yet: 127.0.0.1"
        )
    _serve(settled(open_store(db)), host, port)


def _serve(store: "Store", host: str, port: int, benches: Mapping[str, int] | None = None) -> None:
    import uvicorn

    from waldhorn.web.app import create_app

    _free(host, port)
    typer.echo(f"Waldhorn is at http://{host}:{port}/ (stop with Ctrl+C)")
    served = create_app(store, benches=benches)
    uvicorn.run(served, host=host, port=port, log_level="warning", timeout_graceful_shutdown=3)
    store.close()


def _free(host: str, port: int) -> None:
    """Refuse a port that somebody listens on, before anything is promised."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise InputError("port", f"port {port} is taken: choose another with --port") from error
