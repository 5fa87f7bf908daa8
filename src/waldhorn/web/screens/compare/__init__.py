"""Motors side by side, better for what, and the set that is most alike.

Begin with `routes`."""
