"""Work that takes longer than a page may: done in a thread, with what it is at, and cancelled between two steps."""

import threading
from collections.abc import Callable
from typing import Any

from waldhorn.core.base.errors import Cancelled, InputError

_jobs: dict[str, "Job"] = {}


class Job:
    """One piece of work: `words` and `share` (0 to 1) of what it is at; `done` once there is a result or a refusal."""

    def __init__(self) -> None:
        self.words, self.share = "", 0.0
        self.result: Any = None
        self.refused: InputError | None = None
        self.failed: BaseException | None = None
        self._finished = threading.Event()
        self._called_off = False
        self._past_recall = False

    @property
    def done(self) -> bool:
        """Whether it is over."""
        return self._finished.is_set()

    @property
    def can_be_cancelled(self) -> bool:
        """Whether calling it off would still keep everything as it was."""
        return not self._past_recall

    def at(self, words: str, done: int, of: int) -> None:
        """Say how far it is; raises Cancelled when it was called off."""
        if self._called_off and not self._past_recall:
            raise Cancelled
        self.words, self.share = words, done / (of or 1)

    def stored(self) -> None:
        """From here on it can only be taken back, not called off."""
        self._past_recall = True

    def cancel(self) -> None:
        """Call it off at the next step."""
        self._called_off = True

    def wait(self, seconds: float) -> bool:
        """Wait for it; returns whether it is over."""
        return self._finished.wait(seconds)

    def _run(self, work: Callable[["Job"], Any]) -> None:
        try:
            self.result = work(self)
        except InputError as refused:
            self.refused = refused
        except Cancelled:
            self.refused = InputError("files", "called off: nothing was stored")
        except BaseException as error:  # said on the page that asks for the result
            self.failed = error
        finally:
            self._finished.set()


def start(name: str, work: Callable[[Job], Any]) -> Job:
    """Begin a piece of work, or find it where it goes on already."""
    before = _jobs.get(name)
    if before is not None and not before.done:
        return before
    job = _jobs[name] = Job()
    threading.Thread(target=job._run, args=(work,), daemon=True).start()
    return job


def find(name: str) -> Job | None:
    """A piece of work that goes on, or is over and not asked for yet."""
    return _jobs.get(name)


def forget(name: str) -> None:
    """Its result was shown."""
    _jobs.pop(name, None)
