"""The browser and the two sizes of screen that the tests, the benchmarks and the screenshots use."""

import shutil

# Debian's Chromium without a window's machinery takes half the time; either one will do.
CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
DESK = {"width": 1280, "height": 800}
HAND = {"width": 390, "height": 844}
