"""A tag under the camera, or its short code typed: its motor opens here or on another screen.

Begin with `routes`."""
