"""How often somebody may ask: a rate for each seat and each address, and patience with wrong passphrases."""

import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass

KNOWN = 4096  # of those who asked last; who has not asked for long has his full burst again
MANY = 10  # wrong passphrases from one address before it has to wait
FIRST_WAIT_S, LONGEST_WAIT_S = 5.0, 900.0
FORGOTTEN_S = 3600.0
Clock = Callable[[], float]


class Rates:
    """Token buckets: each may ask `burst` times at once and `per_s` times a second for good."""

    def __init__(self, per_s: float, burst: int, clock: Clock = time.monotonic) -> None:
        self.per_s, self.burst, self.clock = per_s, burst, clock
        self._left: OrderedDict[str, tuple[float, float]] = OrderedDict()

    def wait_s(self, who: str) -> float:
        """0 where this one may ask now, which counts; else how long until it may."""
        now = self.clock()
        left, at = self._left.pop(who, (float(self.burst), now))
        left = min(float(self.burst), left + (now - at) * self.per_s)
        wait = 0.0 if left >= 1.0 else (1.0 - left) / self.per_s
        self._left[who] = (left if wait else left - 1.0, now)
        while len(self._left) > KNOWN:
            self._left.popitem(last=False)
        return wait


@dataclass
class _Tried:
    wrong: int
    at: float


class Tries:
    """Wrong passphrases by address. After ten the next has to wait, each time twice as long, a quarter of an hour at
    most; after an hour without one they are forgotten."""

    def __init__(self, clock: Clock = time.monotonic) -> None:
        self.clock = clock
        self._tried: OrderedDict[str, _Tried] = OrderedDict()

    def wait_s(self, address: str) -> float:
        """How long this address has to wait before it may try again."""
        tried = self._tried.get(address)
        if tried is None or tried.wrong < MANY:
            return 0.0
        if self.clock() - tried.at > FORGOTTEN_S:
            del self._tried[address]
            return 0.0
        wait = min(LONGEST_WAIT_S, FIRST_WAIT_S * 2.0 ** min(tried.wrong - MANY, 30))
        return max(0.0, tried.at + wait - self.clock())

    def was_wrong(self, address: str) -> None:
        """Count one more."""
        before = self._tried.pop(address, _Tried(0, 0.0))
        self._tried[address] = _Tried(before.wrong + 1, self.clock())
        while len(self._tried) > KNOWN:
            self._tried.popitem(last=False)

    def was_right(self, address: str) -> None:
        """Forget the wrong ones of an address that knows it after all."""
        self._tried.pop(address, None)
