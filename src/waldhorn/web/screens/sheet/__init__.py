"""A run sheet that was filled in by hand, typed in on one screen.

Begin with `routes`."""
