"""The browser and the two sizes of screen that the tests, the benchmarks and the screenshots use."""

import os
import shutil

# Debian's Chromium without a window takes half the time; to watch a test a window is wanted.
_SHELL = None if os.environ.get("PWDEBUG") else shutil.which("chromium-headless-shell")
CHROMIUM = _SHELL or "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
DESK = {"width": 1280, "height": 800}
HAND = {"width": 390, "height": 844}
