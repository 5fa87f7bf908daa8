"""Keys for other programs: made on the settings page, used by the example, withdrawn."""

import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import expect

EXAMPLE = Path(__file__).parents[2] / "docs/post_a_reading.py"


def post(address, key):
    command = [sys.executable, str(EXAMPLE), address.rstrip("/"), key, "VS-01", "81.2"]
    return subprocess.run(command, capture_output=True, text=True, check=False)


@pytest.mark.long
def test_a_key_is_made_once_opens_the_api_and_is_withdrawn(page, address):
    page.goto("/settings")
    page.get_by_role("link", name="Instruments and programs").click()
    page.get_by_role("button", name="Make a key").click()
    expect(page.locator("#wrong-key_name")).to_contain_text("say what the key is for")
    page.get_by_label("what the key is for").fill("the sound meter")
    page.get_by_role("button", name="Make a key").click()
    key = page.locator("#made").inner_text()
    assert post(address, key).stdout.strip() == "{'stored': 1, 'ignored': 0}"
    page.goto("/settings#programs")
    expect(page.locator("#made")).to_have_count(0)
    expect(page.locator("tr", has_text="the sound meter")).to_be_visible()
    page.get_by_role("button", name="Withdraw").click()
    expect(page.get_by_text("No key opens anything.")).to_be_visible()
    assert "401" in post(address, key).stderr
    page.get_by_role("link", name="What there is").click()
    expect(page.locator("h1")).to_have_text("The API")
