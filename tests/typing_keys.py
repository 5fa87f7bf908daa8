"""Typing as a person does, and counting the keys it takes beyond the digits themselves."""

from playwright.sync_api import Page, expect


class Keys:
    """A keyboard that counts: digits and their decimal marks are free, every other key is one."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.pressed = 0

    def press(self, *keys: str) -> None:
        """Press keys, each counted."""
        for key in keys:
            self.pressed += 1
            self.page.keyboard.press(key)

    def type(self, text: str) -> None:
        """Type text; what is no digit counts."""
        self.pressed += sum(sign not in "0123456789.,-" for sign in text)
        self.page.keyboard.type(text)

    def enter(self, *texts: str) -> None:
        """Type each text and go on with Enter."""
        for text in texts:
            self.type(text)
            self.press("Enter")

    def at(self, step: str, field: str = "") -> None:
        """Wait for a step, and for the field one types into to have the focus."""
        expect(self.page.locator("#bench")).to_have_attribute("data-step", step)
        if field:
            expect(self.page.locator(f"#{field}")).to_be_focused()


def bench_of(page: Page, tag: str, key: str = "c") -> Keys:
    """Lay a motor on the bench: C for a quick check (or back to the open one), F for a full one."""
    page.goto(f"/motors/{tag}")
    keys = Keys(page)
    keys.press(key)
    expect(page.locator("#bench")).to_be_visible()
    return keys
