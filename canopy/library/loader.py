"""Load the library's data files, once, and look rows up by id."""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from types import MappingProxyType
from typing import Any, TypeVar

from pydantic import ValidationError

from canopy.errors import LibraryError
from canopy.library.models import (
    AdapterClass,
    CareKind,
    Caution,
    ContainerClass,
    CordSize,
    Crop,
    DeviceClass,
    DuctClass,
    FanClass,
    FanWheel,
    FilterClass,
    FittingClass,
    FixtureClass,
    KitClass,
    LampKind,
    LeafLight,
    LeakClass,
    LightSource,
    LoadKind,
    Material,
    Mix,
    RuleSet,
    Source,
    SpectrumClass,
    StirClass,
)
from canopy.model import Record

_R = TypeVar("_R", bound=Record)
DATA = Path(__file__).parent / "data"


def _rows(filename: str, table: str) -> list[dict[str, Any]]:
    with (DATA / filename).open("rb") as file:
        rows: list[dict[str, Any]] = tomllib.load(file)[table]
    return rows


def _windows(value: Any) -> Any:
    """Write ``[low, high]`` of the data files as a window."""
    if isinstance(value, dict):
        return {key: item if key == "spec" else _windows(item) for key, item in value.items()}
    if isinstance(value, list) and len(value) == 2 and all(isinstance(item, int | float) for item in value):
        return {"low": value[0], "high": value[1]}
    if isinstance(value, list):
        return [_windows(item) for item in value]
    return value


def _cite(text: str) -> dict[str, str]:
    source, _, grade = text.partition("/")
    return {"source": source, "grade": grade}


def _load(model: type[_R], filename: str, table: str) -> Mapping[str, _R]:
    found: dict[str, _R] = {}
    for row in _rows(filename, table):
        row |= {key: _cite(row[key]) for key in row if key.endswith("cited") and isinstance(row[key], str)}
        try:
            record = model.model_validate(_windows(row))
        except ValidationError as error:
            raise LibraryError(f"{filename}: {row.get('id', '?')}: {error}") from error
        key: str = record.id  # type: ignore[attr-defined]
        if key in found:
            raise LibraryError(f"{filename}: {key} stands twice")
        found[key] = record
    return MappingProxyType(found)


def shelf(model: type[_R], filename: str, table: str) -> Callable[[], Mapping[str, _R]]:
    """Make the function that gives all rows of a data file by id, in its order; read once.

    Parameters
    ----------
    model : what a row is
    filename : under the library's data
    table : the name of its rows there

    Returns
    -------
    Callable : gives rows by id; raises LibraryError
    """

    @cache
    def rows() -> Mapping[str, _R]:
        """Read one shelf of the library; raises LibraryError.

        Returns
        -------
        Mapping : id to row, in the order of the data file
        """
        return _load(model, filename, table)

    return rows


_UNLIKE_GROWTH = ("germinate", "root-cutting", "rest")
_SHORT = {
    "ppfd": "ppfd_umol_m2_s",
    "limit": "ppfd_limit_umol_m2_s",
    "dli": "dli_mol_m2_d",
    "hours": "photoperiod_h",
    "day_c": "air_day_c",
    "night_c": "air_night_c",
    "rh": "rh_pct",
    "vpd": "vpd_kpa",
    "ec": "ec_ms_cm",
    "height": "height_m",
    "spread": "spread_m",
    "root": "root_c",
    "air": "air_speed_m_s",
    "co2": "co2_use",
    "spacing": "spacing_m",
}


def _crop_row(row: dict[str, Any]) -> dict[str, Any]:
    """Spell a crop's short keys out. What ``growth`` says holds for stages of growth; germination, rooting and rest are
    unlike it and say all of theirs themselves.
    """
    shared, cites = row.pop("growth", {}), {family: _cite(text) for family, text in row.pop("cite").items()}
    stages = []
    for stage in row.pop("stage"):
        own = {family: _cite(text) for family, text in stage.pop("cite", {}).items()}
        merged = {**({} if stage["kind"] in _UNLIKE_GROWTH else shared), **stage}
        stages.append({_SHORT.get(key, key): value for key, value in merged.items()} | cites | own)
    return {**row, "stages": stages}


@cache
def crops() -> Mapping[str, Crop]:
    """All crops by id.

    Returns
    -------
    Mapping : id to Crop, in the order of the data files
    """
    found: dict[str, Crop] = {}
    for path in sorted((DATA / "crops").glob("*.toml")):
        for row in _rows(f"crops/{path.name}", "crop"):
            key = row.get("id", "?")
            try:
                crop = Crop.model_validate(_windows(_crop_row(row)))
            except (ValidationError, KeyError) as error:
                raise LibraryError(f"crops/{path.name}: {key}: {error}") from error
            if crop.id in found:
                raise LibraryError(f"crops/{path.name}: {key} stands twice")
            found[crop.id] = crop
    return MappingProxyType(found)


sources = shelf(Source, "sources.toml", "source")
materials = shelf(Material, "materials.toml", "material")
fixtures = shelf(FixtureClass, "fixtures.toml", "fixture")
fans = shelf(FanClass, "fans.toml", "fan")
fan_wheels = shelf(FanWheel, "fan_wheels.toml", "fan_wheel")
filters = shelf(FilterClass, "filters.toml", "filter")
ducts = shelf(DuctClass, "ducts.toml", "duct")
fittings = shelf(FittingClass, "fittings.toml", "fitting")
adapters = shelf(AdapterClass, "adapters.toml", "adapter")
devices = shelf(DeviceClass, "devices.toml", "device")
stirrers = shelf(StirClass, "stirrers.toml", "stirrer")
leaks = shelf(LeakClass, "leaks.toml", "leak")
rule_sets = shelf(RuleSet, "rule_sets.toml", "rule_set")
light_sources = shelf(LightSource, "light_sources.toml", "light_source")
containers = shelf(ContainerClass, "containers.toml", "container")
mixes = shelf(Mix, "mixes.toml", "mix")
leaf_lights = shelf(LeafLight, "leaf_light.toml", "leaf_light")
kit_classes = shelf(KitClass, "kit.toml", "kit")
care_kinds = shelf(CareKind, "care.toml", "care")
cautions = shelf(Caution, "cautions.toml", "caution")
lamp_kinds = shelf(LampKind, "lamp_kinds.toml", "lamp_kind")
load_kinds = shelf(LoadKind, "load_kinds.toml", "load_kind")
cords = shelf(CordSize, "cords.toml", "cord")
lamp_spectra = shelf(SpectrumClass, "lamp_spectra.toml", "lamp_spectrum")


SHELVES: dict[str, Callable[[], Mapping[str, Any]]] = {
    "crops": crops,
    "materials": materials,
    "fixtures": fixtures,
    "lamp-kinds": lamp_kinds,
    "cords": cords,
    "load-kinds": load_kinds,
    "fans": fans,
    "fan-wheels": fan_wheels,
    "filters": filters,
    "ducts": ducts,
    "fittings": fittings,
    "adapters": adapters,
    "stirrers": stirrers,
    "devices": devices,
    "leaks": leaks,
    "rule-sets": rule_sets,
    "light-sources": light_sources,
    "containers": containers,
    "mixes": mixes,
    "leaf-light": leaf_lights,
    "spectra": lamp_spectra,
    "care": care_kinds,
    "kit": kit_classes,
    "cautions": cautions,
    "sources": sources,
}


def find(rows: Mapping[str, _R], key: str, what: str) -> _R:
    """Look a row up and say so plainly when it is not there.

    Parameters
    ----------
    rows : one of the library's shelves
    key : the id asked for
    what : what kind of row it is, for the message

    Returns
    -------
    Record : the row

    Raises
    ------
    LibraryError : no such id; near ones are named
    """
    if key in rows:
        return rows[key]
    import difflib

    called = {name.casefold(): row for row in rows.values() for name in getattr(row, "called", ())}
    same = called.get(key.casefold().replace("-", " "))
    near = [same.id] if same else difflib.get_close_matches(key, rows, n=3)  # type: ignore[attr-defined]
    hint = f"; did you mean {' or '.join(near)}?" if near else ""
    raise LibraryError(f"the library holds no {what} “{key}”{hint}")
