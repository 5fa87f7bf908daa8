"""The pit, its units, its backups, its keys.

Begin with `routes`."""
