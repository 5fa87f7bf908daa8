"""Taking in a motor, and correcting its facts.

Begin with `routes`."""
