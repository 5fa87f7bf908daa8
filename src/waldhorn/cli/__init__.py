"""The commands. Exit status: 0 done, 1 refused (one line a problem on standard error), 2 wrong usage."""

import os
import sys

from waldhorn.cli.command import app, fail
from waldhorn.core.base.errors import Busy, InputError, NotStored

# isort: off
from waldhorn.cli import serving, files, asking, benches  # noqa: F401 -- each adds its commands, in this order


def main() -> None:
    """Run the command line; a refusal is one line a problem on standard error and exit status 1."""
    try:
        app()
    except InputError as refused:
        fail([refused.sentence])
    except Busy:
        fail(["another Waldhorn is writing to this store: try again in a moment"])
    except NotStored as error:
        fail([str(error)])
    except BrokenPipeError:  # whoever read what is printed has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except OSError as error:
        fail([f"{error.filename or 'the disk'}: {error.strerror or error}"])
