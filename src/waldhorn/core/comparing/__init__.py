"""Motors beside each other: at equal conditions, which is better for what, which belong together.

A motor against its own past is `judging`. Begin with `differences`, then `sets`."""
