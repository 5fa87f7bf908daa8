"""Post one noise reading to Waldhorn, with nothing but the standard library.

    python docs/post_a_reading.py http://127.0.0.1:8700 KEY VS-01 81.2

KEY is made on the settings page.
"""

import json
import sys
import urllib.request
from datetime import UTC, datetime

address, key, motor, value = sys.argv[1:]
reading = {
    "motor": motor,
    "at": datetime.now(UTC).isoformat(timespec="seconds"),
    "measure": "noise_avg",
    "value": float(value),
    "throttle_pct": 100,
    "placement": "stand",
    "distance_cm": 10,
}
request = urllib.request.Request(
    f"{address}/api/v1/readings",
    data=json.dumps([reading]).encode(),
    headers={"Authorization": f"Bearer {key}", "Content-Type": "application/json"},
)
with urllib.request.urlopen(request) as answer:
    print(json.load(answer))
