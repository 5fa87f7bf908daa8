"""The one way the core refuses an input: a sentence that says what is wrong and what would be right."""


class InputError(ValueError):
    """An input that cannot be right.

    `field` names what was wrong (a form field or a column), `sentence` is shown to the person as it is.
    """

    def __init__(self, field: str, sentence: str) -> None:
        super().__init__(sentence)
        self.field = field
        self.sentence = sentence


class InputErrors(ValueError):
    """Several refusals at once, by field, so that a form can show all of them in one go."""

    def __init__(self, by_field: dict[str, str]) -> None:
        super().__init__("; ".join(by_field.values()))
        self.by_field = by_field


class NotStored(Exception):
    """The store did not take what it was given, and nothing of it was stored; the same may be sent again."""


class Busy(NotStored):
    """Somebody else is writing, and has not let go in time."""

    def __init__(self) -> None:
        super().__init__("Somebody else is writing just now. Nothing was lost; it is sent again in a moment.")


class StoreDown(NotStored):
    """The store cannot be read or written at all: a full disk, a file that is torn or may not be written."""

    def __init__(self, why: str) -> None:
        super().__init__(f"The store cannot be read or written ({why}).")


class NotThere(LookupError):
    """What an address names is not there: a check, a motor. Its text is a sentence for a person."""


class Cancelled(Exception):
    """Work that was called off; nothing of it stays."""
