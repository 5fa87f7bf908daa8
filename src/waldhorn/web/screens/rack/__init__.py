"""Every motor at a glance, worst news first: the home screen.

Begin with `routes`."""
