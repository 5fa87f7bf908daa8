"""Comparing motors of the store, and what the pit asks of a motor for each use.

The sums are the core's (`core.comparing`). Begin with `comparison`."""
