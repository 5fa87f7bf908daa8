"""The check on one screen: typing, taking, skipping, signing.

Begin with `routes`."""
