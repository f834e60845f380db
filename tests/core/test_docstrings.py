"""Public functions of the core say what they take and give."""

import importlib
import inspect
import pkgutil

import pytest

import canopy


def _public():
    for info in pkgutil.walk_packages(canopy.__path__, "canopy."):
        module = importlib.import_module(info.name)
        for name, item in vars(module).items():
            item = inspect.unwrap(item) if callable(item) else item
            if name.startswith("_") or getattr(item, "__module__", "") != info.name or not inspect.isfunction(item):
                continue
            yield pytest.param(item, id=f"{info.name}.{name}")


@pytest.mark.parametrize("function", list(_public()))
def test_docstring_names_every_parameter_and_the_result(function):
    text = inspect.getdoc(function) or ""
    signature = inspect.signature(function)
    for name in signature.parameters:
        assert f"\n{name} : " in text, f"parameter {name} is not described"
    if signature.return_annotation not in (None, "None"):
        assert "\nReturns\n-------\n" in text, "the result is not described"
