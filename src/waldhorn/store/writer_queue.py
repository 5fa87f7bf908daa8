"""Writers of this process wait in the order they came, and no longer than they are told."""

import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager

from waldhorn.core.base.errors import Busy


class WriterQueue:
    """A queue for the one writer that SQLite allows; SQLite alone lets whoever asks next go first."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._waiting: deque[threading.Event] = deque()

    @contextmanager
    def turn(self, patience_s: float) -> Iterator[None]:
        """Wait for one's turn and have it while the block runs; raises Busy after so many seconds."""
        mine = threading.Event()
        with self._lock:
            self._waiting.append(mine)
            if self._waiting[0] is mine:
                mine.set()
        try:
            if not mine.wait(patience_s):
                raise Busy
            yield
        finally:
            with self._lock:
                self._waiting.remove(mine)
                if self._waiting:
                    self._waiting[0].set()
