"""An analyser's own figures, and vibration in points: values that are judged as they are read."""

from collections.abc import Callable, Sequence

from waldhorn.core.history import Motor, Reading, Sample


def samples_of(measure: str) -> Callable[[Sequence[Reading], Motor], list[Sample]]:
    """Makes the samples of a measure that is judged as it is read: one a reading, by run.

    >>> samples_of("vibration")([], Motor("x"))
    []
    """

    def samples(readings: Sequence[Reading], motor: Motor) -> list[Sample]:
        found = [Sample(r.value, r.run, r.conditions, r.value) for r in readings if r.measure == measure]
        return sorted(found, key=lambda s: (s.run, s.value))

    return samples
