"""The commands that start the application, and let others of the local network in."""

import gc
import signal
import socket
import sys
from collections.abc import Mapping, Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waldhorn.cli.command import OWN, DbOption, PortOption, app, now
from waldhorn.core.base.errors import InputError

if TYPE_CHECKING:
    from waldhorn.store.engine import Store
    from waldhorn.web.app import ToOpen

_HERE = "127.0.0.1"
LOOPBACK = (_HERE, "localhost", "::1")
EVERYWHERE = "0.0.0.0"
OpenOption = Annotated[bool, typer.Option("--open", help="Let devices of the local network join.")]
TlsOption = Annotated[bool, typer.Option("--tls", help="Encrypted, with a certificate made for this pit.")]
PemOption = typer.Option(help="A PEM file of your own, instead of the one made for this pit.", show_default=False)


@app.command()
def demo(
    port: PortOption = 8700,
    db: Annotated[Path, typer.Option("--db", help="Where the demo's own store goes.")] = OWN / "demo.db",
    open_: OpenOption = False,
    tls: TlsOption = False,
) -> None:
    """Start the application on 127.0.0.1 with demo data in a store of its own."""
    from waldhorn.cli.opened import opened
    from waldhorn.pit import demo as demo_season

    if tls and not open_:
        raise InputError("tls", "nothing is opened to others that could be encrypted: add --open")
    from waldhorn.simulator.season import PIT_BOX
    from waldhorn.store import motors

    with closing(opened(db)) as store:
        with store.writing() as session:
            if not motors.all_tags(session):
                typer.echo("Making the demo season on the simulated bench; this takes a few seconds.")
                demo_season.fill(session, now(), lambda tag: typer.echo(f"\r{tag}   ", nl=False, err=True))
                typer.echo("\rThe season is made.", err=True)
        if open_:
            _let_in(store)
        benches = {tag: port + place for place, tag in enumerate(PIT_BOX, 1)}
        for tag, at in benches.items():
            typer.echo(f"The simulated bench with {tag} clamped listens at 127.0.0.1:{at}")
        _serve(store, EVERYWHERE if open_ else _HERE, port, tls=tls, benches=benches)


def _let_in(store: "Store") -> None:
    """Make passphrases for a demo that is opened and has none, and say them."""
    from waldhorn.pit.settings import seats as pit
    from waldhorn.store import seats

    with store.writing() as session:
        if seats.roles(session):
            return
        for role in seats.Role:
            phrase = pit.suggested()
            pit.set_passphrase(session, role, phrase, now())
            typer.echo(f"The passphrase to join as {role}: {phrase}")


@app.command()
def serve(
    db: DbOption = OWN / "waldhorn.db",
    host: Annotated[str, typer.Option(help="The address to listen on, besides this machine's own.")] = _HERE,
    port: PortOption = 8700,
    open_: OpenOption = False,
    tls: TlsOption = False,
    cert: Annotated[Path | None, PemOption] = None,
    key: Annotated[Path | None, PemOption] = None,
) -> None:
    """Start the application on your own store."""
    from waldhorn.cli.opened import opened

    if (cert is None) != (key is None):
        raise InputError("tls", "a certificate needs its key: --cert and --key go together")
    own = (cert, key) if cert and key else None
    host = EVERYWHERE if open_ and host == _HERE else host
    if (tls or own) and host in LOOPBACK:
        raise InputError(
            "tls",
            f"nothing is opened to others that could be encrypted: add --open, or --host with an address ({host}"
            " is this machine itself, which is reached without)",
        )
    with closing(opened(db)) as store:
        _serve(store, host, port, tls=tls or bool(own), own=own)


@app.command()
def passphrase(
    role: Annotated[str, typer.Argument(help="look, technician or keeper.")],
    db: DbOption = OWN / "waldhorn.db",
    make: Annotated[bool, typer.Option("--make", help="Make one and say it.")] = False,
    drop: Annotated[bool, typer.Option("--drop", help="Let nobody in any more in this role.")] = False,
) -> None:
    """Set what devices of the local network must know to join in a role; read from the terminal, or a pipe."""
    from waldhorn.cli.opened import opened
    from waldhorn.pit.settings import seats as pit
    from waldhorn.store import seats

    if role not in tuple(seats.Role):
        raise InputError("role", f"“{role}” is no role: {', '.join(seats.Role)}")
    meant = seats.Role(role)
    if drop:
        phrase = ""
    elif make:
        phrase = pit.suggested()
    elif sys.stdin.isatty():
        phrase = typer.prompt("Passphrase", hide_input=True, confirmation_prompt=True)
    else:
        phrase = sys.stdin.readline().rstrip("\r\n")
    with closing(opened(db)) as store, store.writing() as session:
        if drop:
            seats.drop_passphrase(session, meant, now())
        else:
            pit.set_passphrase(session, meant, phrase, now())
    if make:
        typer.echo(phrase)
    typer.echo(f"Nobody joins as {role} any more." if drop else f"Whoever knows it joins as {role}.", err=make)


def _serve(
    store: "Store",
    host: str,
    port: int,
    tls: bool = False,
    own: tuple[Path, Path] | None = None,
    benches: Mapping[str, int] | None = None,
) -> None:
    gc.disable()  # what is loaded here stays: it need not be looked through, now or later
    import uvicorn

    from waldhorn.web.app import create_app
    from waldhorn.web.common.access import THIS_MACHINE

    to_open = None if host in THIS_MACHINE else _to_open(store, host, tls, own)
    at = host if host in THIS_MACHINE else _HERE
    _free(at, port)
    served = create_app(store, benches=benches, to_open=to_open)
    served.state.opening.port = port
    typer.echo(f"Waldhorn is at http://{_url(at)}:{port}/ (stop with Ctrl+C)")
    if to_open:
        _say_where(port, *to_open)

    class Server(uvicorn.Server):
        def handle_exit(self, sig: int, frame: object) -> None:
            served.state.presence.closing.set()  # streams end by themselves: nothing has to be waited for
            super().handle_exit(sig, frame)  # type: ignore[arg-type]

    config = uvicorn.Config(
        served,
        host=at,
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=3,
        proxy_headers=False,  # nobody stands between, and what a header says of an address is not believed
        server_header=False,
    )
    gc.freeze()
    gc.enable()
    before = signal.signal(
        signal.SIGTERM, signal.default_int_handler
    )  # ends like Ctrl+C: the store is closed behind it
    try:
        with suppress(KeyboardInterrupt):
            Server(config).run()
    finally:
        signal.signal(signal.SIGTERM, before)


def _to_open(store: "Store", host: str, tls: bool, own: tuple[Path, Path] | None) -> "ToOpen":
    """Where the pit is opened, and under which certificate; raises InputError where nobody could join."""
    from waldhorn.pit.settings import certificate, seats
    from waldhorn.store import backups
    from waldhorn.web.opening import asked_for

    with store.reading() as session:
        seats.lets_somebody_in(session)
    addresses = asked_for(host)
    if own:
        return addresses, certificate.of_files(*own)
    return addresses, certificate.of_pit(backups.file_of(store), addresses, now()) if tls else None


def _say_where(port: int, addresses: Sequence[str], certificate: object) -> None:
    scheme = "https" if certificate else "http"
    for address in addresses:
        typer.echo(f"Others join at {scheme}://{_url(address)}:{port}/join")
    if certificate:
        typer.echo(f"SHA-256 fingerprint: {getattr(certificate, 'fingerprint', '')}")
    else:
        typer.echo("Not encrypted: whoever is in this network can read along. --tls encrypts.")


def _url(address: str) -> str:
    return f"[{address}]" if ":" in address else address


def _free(host: str, port: int) -> None:
    """Refuse a port that somebody listens on, before anything is promised."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise InputError("port", f"port {port} is taken: choose another with --port") from error
