"""How well a rig repeats, whether it has drifted, and how it reads against another.

What a rig's readings say of a motor is `judging`. Begin with `repeatability`, then `reference_motor`."""
