"""Help and keys.

Begin with `routes`."""
