"""Motors of the pit: taking in, facts, places in machines, the book, paper, what they are worth and what they will do.

Readings are taken in `bench`. Begin with `facts`."""
