"""The files that pages load, under an address that changes with them: a browser keeps them for good, and never takes
those of another edition."""

import hashlib
from pathlib import Path

FOLDER = Path(__file__).parent.parent / "static"


def _edition() -> str:
    found = hashlib.sha256()
    for file in sorted(f for f in FOLDER.rglob("*") if f.is_file()):
        found.update(file.read_bytes())
    return found.hexdigest()[:12]


WORKER = "/worker.js"  # at the root: a service worker answers for what lies below its own address
ADDRESS = f"/static/{_edition()}"
