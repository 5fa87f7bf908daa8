"""The live run: an instrument feeds the check, and the hub keeps every run of this server.

Begin with `routes`."""
