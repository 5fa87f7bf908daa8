"""Says what is dead: what nothing in the package, its templates or its scripts names; exits with 1 for any."""

import re
import sys
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parent.parent / "src" / "waldhorn"
DRAWN_BY = (".html", ".svg", ".js")
# What a library asks for by its name: SQLAlchemy, Pydantic, Alembic, asyncio, openpyxl, uvicorn.
ASKED_FOR = {
    *("impl", "cache_ok", "process_bind_param", "process_result_value", "get_col_spec", "bind_processor"),
    *("result_processor", "dialect", "coltype", "type_annotation_map", "__table_args__", "isolation_level"),
    *("model_config", "revision", "down_revision", "upgrade", "downgrade", "_init", "_put", "maxsize"),
    *("freeze_panes", "data_type", "log_errors", "changed_at", "branch_labels", "depends_on"),
    *("should_exit", "capture_signals"),
}
# Keys of the JSON that other programs read (docs/formats.md).
OF_A_FORMAT = {
    *("together_with", "value_unit", "baseline_from", "speaks_for_leading_fault", "g_per_w", "not_comparable"),
    *("waldhorn_recipe", "schemas"),
}
# Results whose acceptance values tests hold, and what the simulator shows of its own truth.
HELD_BY_TESTS = {
    *("further_visits", "u_loss", "speed_at", "static_at_deg", "windage_per_speed", "next_trial", "agrees"),
    *("winding_pairs", "back_emf_pairs", "shake_points", "rest_volts", "_shutting"),
}
DECORATORS = ["@router.*", "@app.*", "@api.*", "@event.*", "@model_validator", "@field_validator", "@model_serializer"]


def main() -> int:
    """Say what is dead."""
    drawn = "\n".join(f.read_text(encoding="utf-8") for f in ROOT.rglob("*") if f.suffix in DRAWN_BY)
    named = set(re.findall(r"\w+", drawn)) | ASKED_FOR | OF_A_FORMAT | HELD_BY_TESTS
    vulture = Vulture(ignore_decorators=DECORATORS)
    vulture.scavenge([str(ROOT)])
    found = (one for one in vulture.get_unused_code(min_confidence=60) if one.name not in named)
    dead = [one for one in found if one.filename.name != "vocabulary.py"]  # words that people choose from a list
    for one in dead:
        print(f"{one.filename}:{one.first_lineno}: nobody names the {one.typ} {one.name}")
    return 1 if dead else 0


if __name__ == "__main__":
    sys.exit(main())
