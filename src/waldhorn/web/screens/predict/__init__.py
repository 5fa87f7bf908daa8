"""What a motor will do with a load on a pack.

Begin with `routes`."""
