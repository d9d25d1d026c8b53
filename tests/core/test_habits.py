"""Habits that a machine can keep: docstrings of the core, what costs at start, no stray output."""

import importlib
import inspect
import pkgutil
import subprocess
import sys

import karakuri

CORE = ("bodies", "actuators", "mechanics", "limits", "sizing", "power")
UNITS = (
    "m/s²",
    "kg·m²",
    "m",
    "mm",
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
)


def functions():
    for room in CORE:
        package = importlib.import_module(f"karakuri.{room}")
        for info in pkgutil.iter_modules(package.__path__):
            module = importlib.import_module(f"karakuri.{room}.{info.name}")
            for name, value in vars(module).items():
                if inspect.isfunction(value) and value.__module__ == module.__name__ and not name.startswith("_"):
                    yield f"{room}.{info.name}.{name}", value


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
    lacking = [name for name, function in functions()
               if "Array" in str(inspect.signature(function)) and "(" not in (inspect.getdoc(function) or "") + (inspect.getdoc(inspect.getmodule(function)) or "")]  # fmt: skip
    assert not lacking, lacking


def test_what_costs_is_not_imported_at_start():
    code = "import sys, karakuri.study.study, karakuri.cli.main; print([m for m in ('scipy', 'pint', 'PyQt6') if m in sys.modules])"
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert out.stdout.strip() == "[]"
    assert karakuri.__version__
