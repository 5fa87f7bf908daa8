"""The last seconds of a stream, with mean, range and drift of the speed in constant time a sample."""

from collections import deque

from waldhorn.instruments.line_protocol import Sample

MOST_SAMPLES = 8192  # whatever the clock of the stream says, no more are kept


class SpeedWindow:
    """The samples of the last `seconds`; `at` is any clock that does not run backwards, in s.

    Two halves of equal count make the drift, two rising queues the range: what is added or dropped moves by one place.
    """

    def __init__(self, seconds: float) -> None:
        self.seconds = seconds
        self.clear()

    def clear(self) -> None:
        """Forget every sample."""
        self._older: deque[tuple[float, Sample]] = deque()
        self._newer: deque[tuple[float, Sample]] = deque()
        self._sums = [0.0, 0.0]
        self._lowest: deque[tuple[int, float]] = deque()
        self._highest: deque[tuple[int, float]] = deque()
        self._first = self._next = 0  # running numbers of the oldest sample and of the one to come

    def __len__(self) -> int:
        return len(self._older) + len(self._newer)

    def add(self, at: float, sample: Sample) -> None:
        """Take one more sample, and drop those that are too old."""
        self._newer.append((at, sample))
        self._sums[1] += sample.rpm
        for queue, sign in ((self._lowest, 1), (self._highest, -1)):
            while queue and sign * queue[-1][1] >= sign * sample.rpm:
                queue.pop()
            queue.append((self._next, sample.rpm))
        self._next += 1
        self._balance()
        while at - self._oldest[0] > self.seconds or len(self) > MOST_SAMPLES:
            self._drop()

    @property
    def _oldest(self) -> tuple[float, Sample]:
        return (self._older or self._newer)[0]

    def _drop(self) -> None:
        older = bool(self._older)
        _, sample = (self._older if older else self._newer).popleft()
        self._sums[0 if older else 1] -= sample.rpm
        for queue in (self._lowest, self._highest):
            if queue[0][0] == self._first:
                queue.popleft()
        self._first += 1
        self._balance()

    def _balance(self) -> None:
        """The older half has half of the samples, rounded down."""
        while len(self._older) > len(self) // 2:
            moved = self._older.pop()
            self._newer.appendleft(moved)
            self._sums[0] -= moved[1].rpm
            self._sums[1] += moved[1].rpm
        while len(self._older) < len(self) // 2:
            moved = self._newer.popleft()
            self._older.append(moved)
            self._sums[0] += moved[1].rpm
            self._sums[1] -= moved[1].rpm

    @property
    def samples(self) -> list[Sample]:
        """Every sample, the oldest first."""
        return [s for _, s in self._older] + [s for _, s in self._newer]

    @property
    def watched_s(self) -> float:
        """Seconds from the oldest sample to the newest."""
        return self._newer[-1][0] - self._oldest[0] if len(self) else 0.0

    @property
    def mean_rpm(self) -> float:
        """The mean speed; 0 of no samples."""
        return sum(self._sums) / len(self) if len(self) else 0.0

    @property
    def wander(self) -> float:
        """Highest less lowest speed, as a share of the mean; 0 of a motor that stands."""
        centre = self.mean_rpm
        return (self._highest[0][1] - self._lowest[0][1]) / centre if centre > 0 else 0.0

    @property
    def drift(self) -> float:
        """How far the means of the two halves lie apart, as a share of the mean; 0 where there is no speed."""
        centre = self.mean_rpm
        if centre <= 0 or not self._older:
            return 0.0
        halves = self._sums[0] / len(self._older), self._sums[1] / len(self._newer)
        return abs(halves[1] - halves[0]) / centre
