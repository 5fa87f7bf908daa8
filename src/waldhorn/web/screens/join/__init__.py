"""Joining from another device: what to scan, who one is, the passphrase; leaving again.

Begin with `routes`."""
