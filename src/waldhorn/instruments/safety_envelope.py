"""The safety envelope of a live run: what a motor and an instrument may be given, fixed before anything spins."""

import math
from dataclasses import dataclass, replace

from waldhorn.core.motors.ratings import STOP_C
from waldhorn.instruments.line_protocol import Hello

USUAL_MAX_A = 20.0


@dataclass(frozen=True, slots=True)
class SafetyEnvelope:
    """Limits of a live run.

    `hold_share` shortens every hold where something is in doubt; `max_a` and `max_v` are what the instrument allows,
    `hot_c` the surface at which the motor is stopped, `rated_rpm` the speed the rotor may reach (infinite where it is
    not known); `poles` is what the instrument is to be set to, None leaves it alone.
    """

    hold_share: float = 1.0
    max_a: float = USUAL_MAX_A
    max_v: float = math.inf
    hot_c: float = STOP_C
    rated_rpm: float = math.inf
    poles: int | None = None

    def within(self, hello: Hello) -> "SafetyEnvelope":
        """The same envelope on an instrument, with what that instrument allows."""
        return replace(self, max_a=hello.max_a, max_v=hello.max_v)
