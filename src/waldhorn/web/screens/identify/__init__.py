"""A motor without a label: what it may be.

Begin with `routes`."""
