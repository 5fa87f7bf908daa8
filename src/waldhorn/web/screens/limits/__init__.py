"""Limits by class and prices by owner, with what a change would do.

Begin with `routes`."""
