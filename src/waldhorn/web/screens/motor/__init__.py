"""A motor's page: its answer, everything over time, what happened, who signed what.

Begin with `routes`."""
