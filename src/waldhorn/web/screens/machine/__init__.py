"""The motors of one machine, and which of them shakes.

Begin with `routes`."""
