"""What the pit has set: its name and units, limits by class and prices by owner, instruments with lines of their own.

Begin with `pit`."""
