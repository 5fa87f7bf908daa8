"""Several screens on one pit: what is new, told to every open page, and a place handed from one screen to another.

Begin with `routes`."""
