"""A motor on paper: label, tape, card, passport, report.

Begin with `routes`."""
