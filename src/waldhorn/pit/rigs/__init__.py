"""The pit's rigs: described, renamed, studied, and brought to each other by motors read on both.

The sums are the core's (`core.rigs`). Begin with `rigs`."""
