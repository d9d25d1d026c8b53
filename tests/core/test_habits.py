"""Habits that a machine can keep: docstrings of the core, what costs at start, no stray output."""

import ast
import importlib
import inspect
import pkgutil
import re
import subprocess
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

import karakuri
from karakuri.files.schema import schema
from karakuri.values.value import Value

CORE = (
    "bodies",
    "actuators",
    "mechanics",
    "limits",
    "sizing",
    "power",
    "motion",
    "checks",
    "exchange",
    "devices",
    "study",
)
SHAPE = re.compile(r"\((?:[a-z0-9+ ]{1,5},\s?)+(?:[a-z0-9+ ]{1,5})?\)")
UNITS = (
    "m/s²",
    "kg·m²",
    "m",
    "mm",
    "mm²",
    "rad",
    "N·m",
    "kg",
    "s",
    "deg",
    "share",
    "°",
    "torques",
    "volts",
    "V",
    "A",
    "N",
    "unit",
    "pose",
    "id",
    "bool",
    "µs",
    "Hz",
    "ratio",
)


def told_once(room):
    """What the contract of the rules tells for all of them."""
    return ("find", "propose") if room == "checks" else ()


def functions():
    for room in CORE:
        package = importlib.import_module(f"karakuri.{room}")
        for info in pkgutil.walk_packages(package.__path__, f"karakuri.{room}."):
            module = importlib.import_module(info.name)
            for name, value in vars(module).items():
                if (
                    inspect.isfunction(value)
                    and value.__module__ == module.__name__
                    and name not in told_once(room)
                    and not name.startswith("_")
                ):
                    yield f"{info.name}.{name}", value


def test_public_functions_of_the_core_say_their_units():
    lacking = []
    for name, function in functions():
        text = (inspect.getdoc(function) or "") + (inspect.getdoc(inspect.getmodule(function)) or "")
        words = (
            text.replace(",", " ")
            .replace("²,", "² ")
            .replace(";", " ")
            .replace(":", " ")
            .replace("(", " ")
            .replace(")", " ")
            .replace(".", " ")
            .split()
        )
        numbers = any(word in str(inspect.signature(function)) for word in ("float", "Array"))
        if not inspect.getdoc(function) or (numbers and not any(unit in words for unit in UNITS)):
            lacking.append(name)
    assert not lacking, lacking


def test_arrays_in_docstrings_carry_shapes():
    lacking = [
        name
        for name, function in functions()
        if "Array" in str(inspect.signature(function)) and not SHAPE.search(inspect.getdoc(function) or "")
    ]
    assert not lacking, lacking


def test_what_costs_is_not_imported_at_start():
    code = "import sys, karakuri.study.study, karakuri.cli.main; print([m for m in ('scipy', 'pint', 'trimesh', 'lxml', 'networkx', 'PyQt6') if m in sys.modules])"
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert out.stdout.strip() == "[]"
    assert karakuri.__version__


def test_no_view_builds_a_value_of_the_model():
    """Edits are built in one place: a value that cannot stand must end in a refusal, not in a slot."""
    package = importlib.import_module("karakuri.model")
    values = {
        name
        for info in pkgutil.iter_modules(package.__path__)
        for name, value in vars(importlib.import_module(f"karakuri.model.{info.name}")).items()
        if inspect.isclass(value) and issubclass(value, Value)
    }
    root = Path(karakuri.__file__).parent / "workbench"
    built = [f"{path.name}:{node.lineno} {node.func.id}" for path in root.rglob("*.py") if path.name != "shots.py"
             for node in ast.walk(ast.parse(path.read_text("utf-8")))
             if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in values]  # fmt: skip
    assert not built


def test_what_the_application_imports_is_installed_with_it():
    """What only the checks install would be there in every test, and missing for a builder."""
    own = Path(karakuri.__file__).parent
    wanted = set()
    for path in own.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            names = [a.name for a in node.names] if isinstance(node, ast.Import) else [node.module or ""] if isinstance(node, ast.ImportFrom) and not node.level else []  # fmt: skip
            wanted |= {name.split(".")[0] for name in names} - {"karakuri", *sys.stdlib_module_names}
    asked = tomllib.loads((own.parents[1] / "pyproject.toml").read_text("utf-8"))["project"]["dependencies"]
    comes = {re.match(r"[\w-]+", line)[0].lower() for line in asked}
    lacking = {name for name in wanted if not comes & {d.lower() for d in packages_distributions().get(name, [])}}
    assert wanted >= {"numpy", "PyQt6"} and not lacking, lacking


def test_every_quantity_of_the_format_has_bounds():
    """No number of a figure may be as large or as small as a float allows; arithmetic below relies on it."""
    open_ended: list[str] = []

    def walk(node, path):
        if isinstance(node, dict):
            if node.get("type") == "number" and not (
                {"minimum", "exclusiveMinimum"} & set(node) and {"maximum", "exclusiveMaximum"} & set(node)
            ):
                open_ended.append(path)
            if node.get("type") == "array" and "maxItems" not in node:
                open_ended.append(path)
            for key, value in node.items():
                walk(value, f"{path}.{key}")
        elif isinstance(node, list):
            for k, value in enumerate(node):
                walk(value, f"{path}[{k}]")

    walk(schema(), "")
    columns = (".takes_s", ".target", ".profile", ".shape", ".made_by")  # as long as departs_s
    assert not [path for path in open_ended if not path.endswith(columns)]


def test_the_guide_to_adding_a_mechanism_shows_its_two_smallest_members_as_they_are():
    own = Path(karakuri.__file__).parent
    room = own / "bodies" / "linkages"
    guide = (own.parents[1] / "docs" / "adding-a-mechanism.md").read_text("utf-8")
    for name in ("gear.py", "belt.py"):
        text = (room / name).read_text("utf-8")
        assert f"```python\n{text.rstrip()}\n```" in guide and len(text.splitlines()) < 80
        assert f"{len(text.splitlines())} lines" in guide
