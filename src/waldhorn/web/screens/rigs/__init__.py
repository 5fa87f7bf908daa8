"""Rigs: how well each repeats, and studies of it.

Begin with `routes`."""
