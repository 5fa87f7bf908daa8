"""How the lines of an instrument are read.

Begin with `routes`."""
