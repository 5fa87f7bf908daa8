"""Bringing in files: chosen, looked at, mapped, stored, taken back.

Begin with `routes`."""
