"""Public functions of the core say what a signature cannot: units, ranges, sources. They repeat nothing."""

import importlib
import inspect
import pkgutil
import re

import pytest

import canopy

# The ends of names that carry a unit, and how a docstring may write it.
UNITS = {
    "_m": "[m]",
    "_m2": "[m²]",
    "_m3": "[m³]",
    "_c": "[°C]",
    "_k": "[K]",
    "_pa": "[Pa]",
    "_w": "[W]",
    "_w_k": "[W/K]",
    "_h": "[h]",
    "_min": "[min]",
    "_hz": "[Hz]",
    "_db": "[dB]",
    "_kg": "[kg]",
    "_kg_s": "[kg/s]",
    "_deg": "[°]",
    "_pct": "[%]",
    "_ppm": "[ppm]",
    "_kg_m3": "[kg/m³]",
    "_per_min": "[1/min]",
    "_nm": "[nm]",
    "_m_s": "[m/s]",
    "_m3_h": "[m³/h]",
    "_m3_s": "[m³/s]",
    "_umol_s": "[µmol/s]",
    "_umol_m2_s": "[µmol/m²/s]",
    "_mol_m2_d": "[mol/m²/d]",
    "_mol_s": "[mol/s]",
    "_ms_cm": "[mS/cm]",
    "_per_kwh": "[currency/kWh]",
    "_g": "[g]",
    "_l": "[L]",
    "_v": "[V]",
    "_a": "[A]",
}
PLAIN = (
    "float",
    "int",
    "str",
    "bool",
    "Array",
    "ndarray",
    "NDArray",
    "Sequence",
    "Iterable",
    "Mapping",
    "tuple",
    "list",
)
# Something on both sides of an equals sign, with at least one operation: an equation, not a keyword.
EQUATION = re.compile(r"^[^.\n]*[A-Za-zΔΣλρτ₀-₉] = [^.\n]*[·/+−√²³^(][^.\n]*", re.M)
SOURCED = re.compile(
    r"\b(1[89]\d\d|20\d\d)\b|ASHRAE|ISO|Darcy|Crane|physics/|definition|by (?:hand|construction)|law|conservation", re.I
)


# Pieces of a compiled loop, over arrays that `canopy.climate.columns` numbers: each says in a line what it does.
LOOPS = tuple(f"canopy.climate.{name}" for name in ("kernel", "balance", "switching", "moving", "books"))


def _public():
    for info in pkgutil.walk_packages(canopy.__path__, "canopy."):
        if info.name in LOOPS:
            continue
        module = importlib.import_module(info.name)
        for name, item in vars(module).items():
            item = inspect.unwrap(item) if callable(item) else item
            if name.startswith("_") or getattr(item, "__module__", "") != info.name or not inspect.isfunction(item):
                continue
            yield pytest.param(item, id=f"{info.name}.{name}")


FUNCTIONS = list(_public())


def _section(text: str, title: str) -> dict[str, str]:
    """The entries of a section by name, each with all its lines."""
    found = re.search(rf"^{title}\n-+\n(.*?)(?=^\S[^\n]*\n-+\n|\Z)", text, re.M | re.S)
    entries: dict[str, str] = {}
    name = ""
    for line in found[1].splitlines() if found else ():
        head = re.match(r"^(\S.*?) : (.*)$", line)
        if head:
            name = head[1]
            entries[name] = head[2]
        elif name:
            entries[name] += " " + line.strip()
    return entries


def _unit_of(name: str) -> str | None:
    ends = [end for end in UNITS if name.endswith(end)]
    return UNITS[max(ends, key=len)] if ends else None


def _plain(words: str) -> str:
    return re.sub(r"\[.*?\]|[^a-z ]|\bthe\b|\ba\b|\ban\b|\bits\b", "", words.lower().replace("_", " ")).strip()


@pytest.mark.parametrize("function", FUNCTIONS)
def test_a_docstring_says_what_the_signature_does_not(function):
    text = inspect.getdoc(function) or ""
    assert len(text.split("\n")[0]) > 10, "it says nothing"
    given, signature = _section(text, "Parameters"), inspect.signature(function)
    for name, parameter in signature.parameters.items():
        kind = str(parameter.annotation)
        if name not in given:
            assert not kind.startswith(PLAIN) or name.endswith("_id"), (
                f"{name} is a plain value: say its range or meaning"
            )
            continue
        unit = _unit_of(name)
        bare = _plain(name.removesuffix(max((e for e in UNITS if name.endswith(e)), key=len)) if unit else name)
        assert unit is not None or _plain(given[name]) not in (bare, _plain(kind)), f"“{name} : {given[name]}” is noise"
    assert set(given) <= set(signature.parameters), "it describes what is not there"


@pytest.mark.parametrize("function", FUNCTIONS)
def test_a_docstring_gives_units(function):
    text = inspect.getdoc(function) or ""
    given, signature = _section(text, "Parameters"), inspect.signature(function)
    for name, parameter in signature.parameters.items():
        unit = _unit_of(name)
        if unit and "float" in str(parameter.annotation):
            assert unit in given.get(name, ""), f"{name} wants its unit, {unit}"
    unit = _unit_of(function.__name__)
    if unit and signature.return_annotation == "float" and "_of_" not in function.__name__:
        assert unit in " ".join(_section(text, "Returns").values()), f"the result wants its unit, {unit}"


@pytest.mark.parametrize("function", FUNCTIONS)
def test_a_result_is_described(function):
    if inspect.signature(function).return_annotation not in (None, "None"):
        assert _section(inspect.getdoc(function) or "", "Returns"), "the result is not described"


@pytest.mark.parametrize("function", FUNCTIONS)
def test_an_equation_has_a_source(function):
    text = inspect.getdoc(function) or ""
    if EQUATION.search(text):
        assert SOURCED.search(text), "an equation without a source"
