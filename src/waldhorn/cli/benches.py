"""The commands that stand in for an instrument: the simulated bench, and a recorded stream."""

import contextlib
import json
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waldhorn.cli.command import PortOption, app
from waldhorn.core.base.errors import InputError

if TYPE_CHECKING:
    from waldhorn.simulator.analyser import BenchServer


@app.command()
def bench(
    motor: Annotated[int, typer.Option(metavar="SEED", help="Which motor is clamped: any number makes one.")] = 1,
    fault: Annotated[str, typer.Option(metavar="NAME[:SEVERITY]", help="What is wrong with it.")] = "none",
    speed: Annotated[float, typer.Option(min=0.1, max=1000, help="How much faster than real time.")] = 1.0,
    port: PortOption = 8701,
    reads: Annotated[str, typer.Option(metavar="motor|supply", help="Whose amps it reads.")] = "motor",
    plain_port: Annotated[
        int, typer.Option(min=0, max=65535, help="Print plain comma-separated lines on this port too (0: not).")
    ] = 0,
) -> None:
    """Start the simulated analyser on 127.0.0.1."""
    import asyncio

    from waldhorn.simulator.analyser import BenchServer
    from waldhorn.simulator.clamped import simulated

    name, _, size = fault.partition(":")
    try:
        severity = float(size or 1.0)
    except ValueError:
        raise InputError("fault", f"“{size}” is no severity: write it like worn_bearing:1.5") from None
    if reads not in ("motor", "supply"):
        raise InputError("reads", f"“{reads}” is neither motor nor supply")
    instrument = simulated(motor, name, severity, reads)
    typer.echo(f"The simulated bench listens at 127.0.0.1:{port} (stop with Ctrl+C)")
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(_serve_bench(BenchServer(instrument, speed), port, plain_port))


async def _serve_bench(served: "BenchServer", port: int, plain_port: int) -> None:
    from waldhorn.simulator.csv_output import PlainMouth

    try:
        await served.start(port)
        if plain_port:
            await PlainMouth(served).start(plain_port)
    except OSError as error:
        raise InputError("port", f"port {port} is taken: name another with --port") from error
    await served.serve_forever()


@app.command()
def replay(
    file: Annotated[Path, typer.Argument(help="A recorded stream, line by line.")],
    line_format: Annotated[
        Path | None, typer.Option("--line-format", "--recipe", help="How its lines are read, saved by the page.")
    ] = None,
) -> None:
    """Print what a recorded stream yields, one JSON object a line: the same as when it was live."""
    from waldhorn.instruments.line_format import line_format_of
    from waldhorn.instruments.replay import replay as replay_stream

    if not file.is_file():
        raise InputError("file", f"{file}: there is no such file")
    read_by = line_format_of(line_format.read_bytes()) if line_format and line_format.is_file() else None
    if line_format and read_by is None:
        raise InputError("line_format", f"{line_format}: there is no such file")
    for found in replay_stream(file.read_bytes(), line_format=read_by):
        typer.echo(json.dumps({"kind": type(found).__name__.lower()} | asdict(found), ensure_ascii=False))
