"""The commands. Exit status: 0 done, 1 refused (one line a problem on standard error), 2 wrong usage."""

from waldhorn.cli import serving, files, asking, benches  # noqa: F401, I001 -- each adds its commands, in this order
from waldhorn.cli.command import app, fail
from waldhorn.core.errors import Busy, Refused


def main() -> None:
    """Run the command line; a refusal is one line a problem on standard error and exit status 1."""
    try:
        app()
    except Refused as refused:
        fail([refused.sentence])
    except Busy:
        fail(["another Waldhorn is writing to this store: try again in a moment"])
