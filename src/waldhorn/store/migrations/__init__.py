"""The migrations: how the tables came to be, edition by edition, in `versions`; `HEAD` is the latest."""

HEAD = "0012"


class Newer(Exception):
    """A store that a newer edition wrote."""
