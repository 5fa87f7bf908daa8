"""A module a measure, and the registry that names every one of them.

Here a reading becomes a quantity: each function with its formula, units and source. What a quantity is stands in
`quantity`, all of them in `measures`, how they are made of readings in `derivation` and `observations`. Whether a value
is good or bad is not decided here but in `judging`. Begin with `measures`, then `kv`."""
