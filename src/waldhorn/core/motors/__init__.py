"""What is known of a motor without measuring how it runs: facts, ratings, leads, winding, what a nameless one may be.

Measured values live in `measuring`; what their changes mean in `judging`. Begin with `facts`, which says what cannot be
true of a motor."""
