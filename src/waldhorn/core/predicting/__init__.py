"""What a motor will do and what it is worth: its constants, its operating point with a load on a pack, prices.

Nothing here is judged. Begin with `constants`, then `operating_point`."""
