"""The core reads like a reference: every public function says what it takes, what it gives and where it is from."""

import importlib
import inspect
import pkgutil
import re
from dataclasses import is_dataclass
from pathlib import Path

import pytest
from numpydoc.docscrape import FunctionDoc

from waldhorn import core
from waldhorn.core.base.explain import explain, figure
from waldhorn.core.base.units import DIMENSIONS, from_stored, to_stored
from waldhorn.core.base.vocabulary import FAULTS
from waldhorn.core.judging.faults import ENTRY, SIGNATURES
from waldhorn.core.judging.hands import SENSES
from waldhorn.core.judging.plan import TESTS
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES

MODULES = [importlib.import_module(m.name) for m in pkgutil.walk_packages(core.__path__, "waldhorn.core.")]
FUNCTIONS = [
    pytest.param(f, id=f"{m.__name__.rsplit('.', 1)[1]}.{name}")
    for m in MODULES
    for name, f in inspect.getmembers(m, inspect.isfunction)
    if f.__module__ == m.__name__ and not name.startswith("_")
]


@pytest.mark.parametrize("function", FUNCTIONS)
def test_every_public_function_is_explained_and_short(function):
    text = inspect.getdoc(function) or ""
    assert text[:1].isupper() or text[:1] in "`“"
    body = inspect.getsource(function).split('"""')[-1].splitlines()
    assert sum(bool(line.strip()) for line in body) < 45, "longer than a reader holds in mind"
    parsed = FunctionDoc(function)["Parameters"]
    named = [name.strip() for p in parsed for name in p.name.split(",")]
    taken = set(inspect.signature(function).parameters)
    assert set(named) == taken or (len(taken) < 2 and not named)
    if "Formula:" in text and "Parameters" in text:
        found = explain(function, dict.fromkeys(inspect.signature(function).parameters, 1.0))
        assert found.formula
        assert found.source
        documented = [i for i in found.inputs if i.what]
        assert len(documented) >= len(found.inputs) - 1, "an argument without its unit or shape"


@pytest.mark.parametrize("module", MODULES, ids=lambda m: m.__name__.rsplit(".", 1)[1])
def test_every_module_opens_by_saying_what_it_is_for(module):
    assert len(inspect.getdoc(module) or "") > 40


def test_values_that_travel_are_frozen():
    for module in MODULES:
        for name, kind in inspect.getmembers(module, inspect.isclass):
            if kind.__module__ == module.__name__ and is_dataclass(kind):
                assert kind.__dataclass_params__.frozen, name


def test_the_registries_name_only_each_other():
    assert {m for q in QUANTITIES.values() for m in q.inputs} <= set(MEASURES)
    assert set(SIGNATURES) == set(FAULTS)
    assert set(ITEMS) <= set(SENSES)
    assert {s for f in ENTRY.values() for s in f.found_by} == set(SENSES)
    assert {q for s in SENSES.values() for q in s.settled_by} <= set(TESTS)
    assert set(TESTS) <= set(QUANTITIES)
    assert {m.dimension for m in MEASURES.values()} <= set(DIMENSIONS)


@pytest.mark.parametrize("quantity", QUANTITIES.values(), ids=lambda q: q.name)
def test_limits_lie_outside_what_a_rig_repeats_to(quantity):
    assert 0 < quantity.limits.watch < quantity.limits.act
    assert quantity.repeatability < quantity.limits.watch


@pytest.mark.parametrize("dimension", DIMENSIONS)
def test_every_unit_goes_there_and_back(dimension):
    for unit in DIMENSIONS[dimension].written:
        if unit:
            assert from_stored(to_stored(12.5, unit, dimension), unit, dimension) == pytest.approx(12.5)


def test_a_figure_shows_its_inputs_in_words():
    shown = figure("speed", "rpm", 0, to_stored, value=3.4, unit="krpm", dimension="speed")
    assert shown.value == 3400
    assert [i.value for i in shown.explanation.inputs] == ["3.4", "krpm", "speed"]


def test_every_promise_names_a_test_that_is_there():
    root = Path(__file__).parents[2]
    named = re.findall(r"`(tests/[\w/]+\.py)::(\w+)`", (root / "docs/security.md").read_text(encoding="utf-8"))
    assert len(named) > 30
    held = {file: (root / file).read_text(encoding="utf-8") for file, _ in named}
    missing = [f"{file}::{name}" for file, name in named if not re.search(rf"(?m)^\s*(def|class) {name}\b", held[file])]
    assert missing == []
