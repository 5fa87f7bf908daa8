"""The evaluation's simulated motors, for tests: the script is no package."""

import importlib.util
import sys
from pathlib import Path
from types import ModuleType


def evaluation() -> ModuleType:
    """The module of `make judge-eval`."""
    spec = importlib.util.spec_from_file_location("judge_eval", Path(__file__).parents[1] / "scripts/judge_eval.py")
    assert spec
    assert spec.loader
    module = sys.modules["judge_eval"] = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module
