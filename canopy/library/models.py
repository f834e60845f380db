"""The rows of the library, each figure with its source and grade."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.equipment import FanSpec, FixtureSpec
from canopy.model import Id, Name, Record, Share

Grade = Literal["measured", "extension", "standard", "practice", "invented"]
STAGES = ("germinate", "root-cutting", "seedling", "vegetative", "flower", "fruit", "rest")
Stage = Literal["germinate", "root-cutting", "seedling", "vegetative", "flower", "fruit", "rest"]
GROUPS = (
    "microgreen", "seedling", "leaf", "herb", "fruiting", "root", "houseplant", "orchid", "fern-moss",
    "carnivore", "succulent", "bulb",
)  # fmt: skip
Group = Literal[
    "microgreen", "seedling", "leaf", "herb", "fruiting", "root", "houseplant", "orchid", "fern-moss",
    "carnivore", "succulent", "bulb",
]  # fmt: skip


class Source(Record):
    """Where a figure comes from."""

    id: Id
    title: Annotated[str, Field(min_length=1, max_length=300)]
    year: Annotated[int, Field(ge=1900, le=2100)]
    note: str = ""


class Cited(Record):
    """A source together with the grade of what it says."""

    source: Id
    grade: Grade


class Window(Record):
    """A range [low, high] in the unit its field names."""

    low: float
    high: float

    @model_validator(mode="after")
    def _ordered(self) -> Window:
        if self.low > self.high:
            raise ValueError(f"the window is turned round: {self.low} to {self.high}")
        return self

    def holds(self, value: float) -> bool:
        """Say whether a value lies inside.

        Parameters
        ----------
        value : the value, in the window's unit

        Returns
        -------
        bool : True when low <= value <= high
        """
        return self.low <= value <= self.high


class StageTargets(Record):
    """What a crop wants in one stage; ``cited`` names the source of each family of figures."""

    kind: Stage
    days: Window
    ppfd_umol_m2_s: Window
    ppfd_limit_umol_m2_s: Annotated[float, Field(gt=0)]
    dli_mol_m2_d: Window
    photoperiod_h: Window
    air_day_c: Window
    air_night_c: Window
    rh_pct: Window
    vpd_kpa: Window
    height_m: Annotated[float, Field(gt=0)]
    spread_m: Annotated[float, Field(gt=0)]
    lai: Annotated[float, Field(gt=0)]
    ec_ms_cm: Window | None = None
    ph: Window | None = None
    light: Cited
    climate: Cited
    form: Cited
    feed: Cited | None = None

    @model_validator(mode="after")
    def _sane(self) -> StageTargets:
        if self.ppfd_limit_umol_m2_s < self.ppfd_umol_m2_s.high:
            raise ValueError("the upper light limit lies inside the PPFD window")
        if self.photoperiod_h.high > 24:
            raise ValueError("a day has 24 hours")
        if (self.ec_ms_cm or self.ph) and self.feed is None:
            raise ValueError("a feed figure without a source")
        return self


class Crop(Record):
    """A crop with its stages in order."""

    id: Id
    name: Name
    botanical: Name
    group: Group
    day_length: Literal["neutral", "long", "short", "unknown"]
    extinction: Annotated[float, Field(ge=0.2, le=1.2)] = 0.6
    spacing_m: Annotated[float, Field(gt=0)]
    pot_height_m: Annotated[float, Field(gt=0)] = 0.12
    note: str = ""
    stages: tuple[StageTargets, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _in_order(self) -> Crop:
        order = [STAGES.index(stage.kind) for stage in self.stages]
        if order != sorted(set(order)):
            raise ValueError("stages out of order or twice")
        return self

    def stage(self, kind: str) -> StageTargets | None:
        """Find a stage by its kind.

        Parameters
        ----------
        kind : such as "vegetative"

        Returns
        -------
        StageTargets : the stage, or None when this crop has none of that kind
        """
        return next((stage for stage in self.stages if stage.kind == kind), None)


class Material(Record):
    """A wall material: how it reflects light and holds back heat."""

    id: Id
    name: Name
    reflectance: Annotated[float, Field(ge=0, le=0.98)]
    reflectance_range: Window
    resistance_m2k_w: Annotated[float, Field(ge=0)]
    inner_film_w_m2k: Annotated[float, Field(gt=0)] = 7.5
    open: bool = False
    cited: Cited


class FixtureClass(Record):
    """A generic class of grow light."""

    id: Id
    spec: FixtureSpec
    note: str = ""
    cited: Cited


class FanClass(Record):
    """A generic class of fan."""

    id: Id
    spec: FanSpec
    note: str = ""
    cited: Cited


class AirPath(Record):
    """What hangs on a fan, and the share of its free-air flow that is left."""

    id: Id
    name: Name
    delivered_share: Share
    share_range: Window
    cited: Cited


class RuleSet(Record):
    """How much of a circuit a continuous load may take."""

    id: Id
    name: Name
    mains_v: Annotated[float, Field(gt=0)]
    breaker_a: Annotated[float, Field(gt=0)]
    continuous_share: Share
    outlet_a: Annotated[float, Field(gt=0)]
    outlet_continuous_a: Annotated[float, Field(gt=0)]
    note: str = ""
    cited: Cited


class LightSource(Record):
    """Luminous efficacy of a kind of lamp's photons; None where it comes from a spectrum by colour temperature."""

    id: Id
    name: Name
    lux_per_umol_m2_s: Annotated[float, Field(gt=0)] | None = None
    uncertainty: Share
    cited: Cited
