"""A folder a screen: its routes, its templates, and what only it draws.

`app` includes each by one line. What two screens need moves to `drawing` or `common`. Begin with `rack`."""
