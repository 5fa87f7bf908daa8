"""A model: how its motors read against their label, and what failed after how many runs.

Begin with `routes`."""
