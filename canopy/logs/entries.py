"""What a person writes down: kinds of entries, what each asks for, and what they mean."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from canopy.errors import PlanError, PlanProblem
from canopy.model import Id, Record
from canopy.plan.files import problem_of

EntryKind = Literal["water", "reservoir", "work", "pests", "harvest", "weigh", "note"]
MOST_PLANTS = 400
Litres = Annotated[float, Field(gt=0, le=2000)]
EC = Annotated[float, Field(ge=0, le=30)]
PH = Annotated[float, Field(ge=0, le=14)]


class Water(Record):
    """Water or feed that was given: to each plant where plants are named, else in all [L]; what ran out again [L]."""

    litres: Litres
    ec_ms_cm: EC | None = None
    ph: PH | None = None
    drained_l: Annotated[float, Field(ge=0, le=2000)] | None = None
    feed: bool = False


class Reservoir(Record):
    """What meters showed in the solution: EC [mS/cm], pH, level [L], temperature [°C]; and what was done to it."""

    ec_ms_cm: EC | None = None
    ph: PH | None = None
    level_l: Annotated[float, Field(ge=0, le=5000)] | None = None
    water_c: Annotated[float, Field(ge=-5, le=60)] | None = None
    act: Literal["", "topped up", "changed", "cleaned"] = ""


class Work(Record):
    """Work on plants."""

    act: Literal["prune", "top", "train", "tie", "pot", "move", "sow", "thin", "pollinate", "clean", "other"] = "prune"


class Pests(Record):
    """Pests that were counted: on how many leaves or traps one looked, and how many there were; 0 is worth as much."""

    what: Annotated[str, Field(min_length=1, max_length=60)]
    count: Annotated[int, Field(ge=0, le=100_000)]
    on: Literal["leaves", "trap", "plants"] = "leaves"
    looked_at: Annotated[int, Field(ge=1, le=10_000)] = 1


class Harvest(Record):
    """What was taken: its weight [kg], how many, how good from 1 to 5, and whether the plant is done with it."""

    weight_kg: Annotated[float, Field(ge=0, le=500)] | None = None
    count: Annotated[int, Field(ge=0, le=100_000)] | None = None
    quality: Annotated[int, Field(ge=1, le=5)] | None = None
    last: bool = False


class Weighed(Record):
    """Pots on a scale: what they weigh together, plants and all [kg]."""

    weight_kg: Annotated[float, Field(gt=0, le=500)]


class Note(Record):
    """Words alone."""


KINDS: Mapping[EntryKind, tuple[str, type[Record]]] = {
    "water": ("Water", Water),
    "reservoir": ("Reservoir", Reservoir),
    "work": ("Work on plants", Work),
    "pests": ("Pests", Pests),
    "harvest": ("Harvest", Harvest),
    "weigh": ("Pots weighed", Weighed),
    "note": ("Note", Note),
}


class Entry(Record):
    """An entry of the log as it crosses a file's boundary.

    ``at`` is when it was, in UTC; ``plants`` names the plants it is about, none for the whole space. ``key`` is its own
    for good, so that it is never taken in twice. One that was ``struck`` counts for nothing and is kept; ``corrects``
    is the key of the one in whose place it stands.
    """

    key: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]
    space_id: Id
    kind: EntryKind
    at: dt.datetime
    data: dict[str, Any] = Field(default_factory=dict)
    plants: tuple[Id, ...] = Field(default=(), max_length=MOST_PLANTS)
    note: Annotated[str, Field(max_length=1000)] = ""
    struck: bool = False
    corrects: Annotated[str, Field(max_length=64)] = ""


def read_data(kind: str, data: Mapping[str, Any]) -> Record:
    """Check what an entry says.

    Parameters
    ----------
    kind : one of ``KINDS``
    data : its figures by their keys

    Returns
    -------
    Record : of the kind

    Raises
    ------
    PlanError : a figure is missing or cannot be, or the entry says nothing at all
    """
    name, make = KINDS[kind]  # type: ignore[index]
    try:
        found = make.model_validate(dict(data))
    except ValidationError as error:
        raise PlanError([problem_of(detail) for detail in error.errors()]) from error
    says = [value for value in found.model_dump().values() if value not in (None, "", False)]
    if kind in ("reservoir", "harvest") and not says:
        raise PlanError([PlanProblem(path="", message=f"{name}: give at least one figure")])
    return found


def water_given_l(entries: Any) -> float:
    """Sum the water that was given and did not run out again.

    Parameters
    ----------
    entries : iterable of Entry

    Returns
    -------
    float : volume [L]; litres count once for each plant that is named
    """
    total = 0.0
    for entry in entries:
        if entry.kind == "water" and not entry.struck:
            water = Water.model_validate(entry.data)
            total += water.litres * max(1, len(entry.plants)) - (water.drained_l or 0.0)
    return total
