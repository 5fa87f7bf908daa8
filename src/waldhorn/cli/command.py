"""What all commands share and needs no time to load: where the store is, how a refusal is said.

A command imports what it needs when it runs, so that `--help` answers at once.
"""

import os
from datetime import datetime
from pathlib import Path
from typing import Annotated

import typer

from waldhorn.core.base.text import in_terminal

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Checks used brushless motors between heats.")

PATIENCE_S = 30.0  # how long a command waits for others that write
OWN = Path(os.environ.get("XDG_DATA_HOME", Path.home() / ".local" / "share")) / "waldhorn"
DbOption = Annotated[Path, typer.Option("--db", help="The store, a SQLite file.", show_default="your own")]
PortOption = Annotated[int, typer.Option(min=1, max=65535, help="The port to listen on.")]


def fail(lines: list[str]) -> None:
    """Say the problems on standard error, a line each, and leave with exit status 1."""
    for line in lines:
        complain(line)
    raise SystemExit(1)


def complain(line: str) -> None:
    """Say one line on standard error. It may quote what a file holds: what steers a terminal is written out."""
    typer.echo(in_terminal(line), err=True)


def now() -> datetime:
    """The time, with its offset."""
    return datetime.now().astimezone()
