"""Pages: one module a screen. They draw and parse forms; they never compute and never query."""
