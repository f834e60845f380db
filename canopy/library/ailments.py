"""What can ail plants: what one sees, what it can be, what one looks at next, and the lives of pests."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from canopy.library.loader import shelf
from canopy.library.models import Cited, Window
from canopy.model import Id, Name, Record

PlantPart = Literal["leaves", "growth", "whole", "fruit", "roots", "soil", "insects"]
PARTS: dict[PlantPart, str] = {
    "leaves": "Leaves",
    "growth": "Growth",
    "whole": "The whole plant",
    "fruit": "Flowers and fruit",
    "roots": "Roots",
    "soil": "Soil, water, walls",
    "insects": "Insects",
}
CauseGroup = Literal["light", "air", "water", "feed", "roots", "handling", "disease", "pest"]
Celsius = Annotated[float, Field(ge=-5, le=45)]


class Symptom(Record):
    """Something one sees: on which part, where on the plant, and our diagram of it."""

    id: Id
    name: Name
    part: PlantPart
    place: Literal["old", "new", "top", "edge", "all"] = "all"
    picture: Id


class Check(Record):
    """Something one can look at next: how it is done, and the question that its answer is yes or no to."""

    id: Id
    name: Name
    how: Annotated[str, Field(min_length=10, max_length=300)]
    asks: Annotated[str, Field(min_length=5, max_length=200)]


class Cause(Record):
    """What it can be. ``common`` is how often it is met indoors, 1 to 4 (rough); which symptoms it shows typically,
    often and sometimes; what of plan and log tells for and against it; which checks it answers with yes and with no;
    what to do, mildest first.
    """

    id: Id
    name: Name
    group: CauseGroup
    common: Annotated[int, Field(ge=1, le=4)]
    typical: tuple[Id, ...]
    often: tuple[Id, ...] = ()
    sometimes: tuple[Id, ...] = ()
    tells_for: tuple[Id, ...] = ()
    tells_against: tuple[Id, ...] = ()
    yes: tuple[Id, ...] = ()
    no: tuple[Id, ...] = ()
    do: Annotated[tuple[str, ...], Field(min_length=1, max_length=6)]
    cautions: tuple[Id, ...] = ()
    cited: Cited


class Beneficial(Record):
    """A helper against a pest: where it works, and how often it is brought out."""

    name: Name
    works_c: Window
    least_rh_pct: Annotated[float, Field(ge=0, le=100)]
    every_days: Annotated[int, Field(ge=1, le=120)]
    times: Annotated[int, Field(ge=1, le=12)]
    text: Annotated[str, Field(min_length=5, max_length=200)]


class Pest(Record):
    """A pest: how warmth drives it, how one finds it, what works against it, how long new plants stand apart."""

    id: Id
    name: Name
    latin: Name
    cause: Id
    base_c: Celsius
    sum_k_d: Annotated[float, Field(gt=0, le=3000)]
    top_c: Celsius
    stages: Annotated[str, Field(min_length=10, max_length=200)]
    scout: Annotated[str, Field(min_length=10, max_length=200)]
    traps: Annotated[str, Field(min_length=5, max_length=200)]
    quarantine_d: Annotated[int, Field(ge=7, le=90)]
    beneficial: tuple[Beneficial, ...] = ()
    cited: Cited


symptoms = shelf(Symptom, "ailments/symptoms.toml", "symptom")
checks = shelf(Check, "ailments/checks.toml", "check")
causes = shelf(Cause, "ailments/causes.toml", "cause")
pests = shelf(Pest, "ailments/pests.toml", "pest")
