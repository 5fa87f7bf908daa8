"""The pit's rigs: described, renamed, studied.

The sums are the core's (`core.rigs`). Begin with `rigs`."""
