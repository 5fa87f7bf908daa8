"""The steps of a check, one module each, found by themselves: a module with a STEP is a step."""

import importlib
import pkgutil
from collections.abc import Mapping

from waldhorn.pit.bench.steps.step import AnyStep


def _found() -> list[AnyStep]:
    modules = [importlib.import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__)]
    return sorted((m.STEP for m in modules if hasattr(m, "STEP")), key=lambda step: step.order)


STEPS: Mapping[str, AnyStep] = {step.name: step for step in _found()}
