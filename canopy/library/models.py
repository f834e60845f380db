"""The rows of the library, each figure with its source and grade."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.equipment import DeviceSpec, DuctSpec, FanSpec, FilterSpec, FittingSpec, FixtureSpec, StirSpec
from canopy.model import Id, Name, Record, Share

Grade = Literal["measured", "extension", "standard", "practice", "invented"]
STAGES = (
    "germinate",
    "root-cutting",
    "seedling",
    "vegetative",
    "flower",
    "fruit",
    "root",
    "tuber",
    "rhizome",
    "rest",
)
Stage = Literal[
    "germinate", "root-cutting", "seedling", "vegetative", "flower", "fruit", "root", "tuber", "rhizome", "rest"
]
# Stages in which something is taken that swells: fruit, or what lies in the soil.
BEARING: tuple[Stage, ...] = ("fruit", "root", "tuber", "rhizome")
YOUNG: tuple[Stage, ...] = ("germinate", "root-cutting", "seedling")
GROUPS = (
    "microgreen",
    "seedling",
    "leaf",
    "herb",
    "fruiting",
    "root",
    "houseplant",
    "orchid",
    "fern-moss",
    "carnivore",
    "succulent",
    "bulb",
)
ContainerKind = Literal["pot", "tray", "basket", "bucket", "bag", "pocket", "mount"]
Group = Literal[
    "microgreen",
    "seedling",
    "leaf",
    "herb",
    "fruiting",
    "root",
    "houseplant",
    "orchid",
    "fern-moss",
    "carnivore",
    "succulent",
    "bulb",
]


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


Water = Literal["dry", "moderate", "moist", "wet"]
Habit = Literal["stand", "hang", "pole", "wall", "outward"]
# What no plant under lamps goes beyond: outside these a figure is a slip of the pen.
_SANE = (
    ("days", 1, 2000),
    ("ppfd_umol_m2_s", 0, 2500),
    ("dli_mol_m2_d", 0, 70),
    ("photoperiod_h", 0, 24),
    ("air_day_c", -5, 45),
    ("air_night_c", -5, 40),
    ("rh_pct", 5, 100),
    ("vpd_kpa", 0, 4),
    ("root_c", -2, 40),
    ("air_speed_m_s", 0, 3),
    ("ec_ms_cm", 0, 6),
    ("ph", 3, 9),
    ("ph_soil", 3, 9),
)
# Which source stands behind which figure.
FAMILIES = {
    "light": ("ppfd_umol_m2_s", "ppfd_limit_umol_m2_s", "dli_mol_m2_d", "photoperiod_h"),
    "climate": ("air_day_c", "air_night_c", "rh_pct", "vpd_kpa", "root_c", "air_speed_m_s", "co2_use"),
    "form": ("days", "height_m", "spread_m", "lai", "spacing_m"),
    "feed": ("ec_ms_cm", "ph", "ph_soil", "water"),
}


class StageTargets(Record):
    """What a crop wants in one stage; ``light``, ``climate``, ``form`` and ``feed`` name the source of each family.

    ``ph`` is that of a feed solution round the roots, ``ph_soil`` that of mineral soil.
    """

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
    root_c: Window
    air_speed_m_s: Window
    water: Water
    co2_use: Literal["low", "medium", "high"]
    height_m: Annotated[float, Field(gt=0, le=10)]
    spread_m: Annotated[float, Field(gt=0, le=6)]
    lai: Annotated[float, Field(gt=0, le=12)]
    spacing_m: Annotated[float, Field(gt=0, le=6)] | None = None
    ec_ms_cm: Window | None = None
    ph: Window | None = None
    ph_soil: Window | None = None
    light: Cited
    climate: Cited
    form: Cited
    feed: Cited | None = None

    def source_of(self, figure: str) -> Cited:
        """Give the source behind a figure.

        Parameters
        ----------
        figure : a field's name, such as "rh_pct"

        Returns
        -------
        Cited : source and grade; water need falls back on the form's source where nothing is said of feed
        """
        family = next(name for name, figures in FAMILIES.items() if figure in figures)
        found: Cited | None = getattr(self, family)
        return found or self.form

    @model_validator(mode="after")
    def _sane(self) -> StageTargets:
        if self.ppfd_limit_umol_m2_s < self.ppfd_umol_m2_s.high:
            raise ValueError("the upper light limit lies inside the PPFD window")
        if self.photoperiod_h.high > 24:
            raise ValueError("a day has 24 hours")
        if self.days.low < 1:
            raise ValueError("a stage lasts at least a day")
        for name, low, high in _SANE:
            window: Window | None = getattr(self, name)
            if window and not (low <= window.low and window.high <= high):
                raise ValueError(f"{name} from {window.low:g} to {window.high:g} lies outside {low:g} to {high:g}")
        if (self.ec_ms_cm or self.ph) and self.feed is None:
            raise ValueError("a feed figure without a source")
        return self


class FirstHarvest(Record):
    """Days until there is something to take, from sowing or from planting out (a young plant, a tuber, a cutting), and
    as what where that differs (green, ripe).
    """

    since: Literal["sown", "planted"]
    days: Window
    what: Annotated[str, Field(max_length=30)] = ""


class Crop(Record):
    """A crop with its stages in order.

    ``first_fruit_m`` is how high above the pot's rim the first flower or fork that fruits usually sits, where leaves
    below it are taken off in practice; it is as sure as the crop's form (its height and spread), as is
    ``first_harvest``. ``base_c`` is the temperature below which it hardly develops: the zero of its temperature sum.
    ``cautions`` name rows of the library's cautions.
    """

    id: Id
    name: Name
    botanical: Name
    group: Group
    day_length: Literal["neutral", "long", "short", "unknown"]
    extinction: Annotated[float, Field(ge=0.2, le=1.2)] = 0.6
    spacing_m: Annotated[float, Field(gt=0, le=6)]
    container_l: Window
    harvest: Literal["once", "cut-again", "picking", "transplant", "keep"]
    habit: Habit = "stand"
    pot_height_m: Annotated[float, Field(gt=0, le=1.5)] = 0.12
    first_fruit_m: Annotated[float, Field(gt=0, le=2)] | None = None
    other_names: tuple[Annotated[str, Field(max_length=60)], ...] = ()
    base_c: Annotated[float, Field(ge=-2, le=16)] = 7.0
    first_harvest: tuple[FirstHarvest, ...] = ()
    cautions: tuple[Id, ...] = ()
    note: Annotated[str, Field(max_length=600)] = ""
    copied_from: str = ""
    stages: tuple[StageTargets, ...] = Field(min_length=1, max_length=7)

    @model_validator(mode="after")
    def _in_order(self) -> Crop:
        kinds = [stage.kind for stage in self.stages]
        # Young stages first, rest last; between them a crop has an order of its own: a bulb may flower before it leafs.
        ranks = [YOUNG.index(kind) if kind in YOUNG else 9 if kind == "rest" else 5 for kind in kinds]
        if len(set(kinds)) < len(kinds) or ranks != sorted(ranks):
            raise ValueError("stages out of order or twice")
        return self

    @property
    def called(self) -> tuple[str, ...]:
        """All its names: its own, other usual ones, the botanical one."""
        return (self.name, *self.other_names, self.botanical)

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


class Caution(Record):
    """What can hurt, and how one keeps from it; said where the act is planned."""

    id: Id
    name: Name
    text: Annotated[str, Field(min_length=10, max_length=600)]
    cited: Cited


class CareKind(Record):
    """A kind of recurring work: usually every so many days, minutes it takes, and how it is done."""

    id: Id
    name: Name
    every_days: Annotated[int, Field(ge=1, le=1000)]
    minutes: Annotated[float, Field(gt=0, le=480)]
    text: Annotated[str, Field(min_length=10, max_length=300)]
    cited: Cited


class KitClass(Record):
    """A small thing that a plan implies: what a piece, metre or litre of it costs, what it bears, what to look for.

    ``by_size`` narrows the price: up to a size (a diameter [m], a volume [L], a floor [m²]) from and to.
    """

    id: Id
    name: Name
    unit: Literal["", "m", "m²", "L", "mL"] = ""
    price: Window
    by_size: tuple[tuple[float, float, float], ...] = ()
    bears_kg: Annotated[float, Field(gt=0, le=1000)] | None = None
    text: Annotated[str, Field(min_length=10, max_length=300)]
    cited: Cited

    def price_at(self, size: float) -> Window:
        """Give what one of a size costs.

        Parameters
        ----------
        size : a diameter [m], a volume [L] or a floor [m²], as its class counts

        Returns
        -------
        Window : from the cheapest to the dearest, in euro or dollar
        """
        rows = (Window(low=low, high=high) for most, low, high in self.by_size if size <= most)
        return next(rows, self.price)


class ContainerClass(Record):
    """A pot, tray, bucket or bag: what it holds and the floor it takes; round when ``depth_m`` is None. A tray with
    ``cells`` carries a plant in each.
    """

    id: Id
    name: Name
    kind: ContainerKind
    volume_l: Annotated[float, Field(gt=0, le=500)]
    height_m: Annotated[float, Field(gt=0, le=1.5)]
    width_m: Annotated[float, Field(gt=0, le=3)]
    depth_m: Annotated[float, Field(gt=0, le=3)] | None = None
    cells: Annotated[int, Field(ge=1, le=400)] | None = None
    cited: Cited


class Mix(Record):
    """A growing mix: how heavy it is moist, how much water it takes up from dry, and whether it is peat, coir, bark or
    moss (``organic``) or mineral.
    """

    id: Id
    name: Name
    moist_kg_l: Annotated[float, Field(gt=0, le=2)]
    dry_kg_l: Annotated[float, Field(gt=0, le=2)]
    premoisten_l_l: Annotated[float, Field(ge=0, le=1)]
    organic: bool = True
    note: str = ""
    cited: Cited


class Material(Record):
    """A wall material: how it reflects light, holds back heat, and how much of that follows a day."""

    id: Id
    name: Name
    reflectance: Annotated[float, Field(ge=0, le=0.98)]
    reflectance_range: Window
    resistance_m2k_w: Annotated[float, Field(ge=0)]
    inner_film_w_m2k: Annotated[float, Field(gt=0)] = 7.5
    holds_j_m2k: Annotated[float, Field(ge=0)] = 450.0
    open: bool = False
    mirror: bool = False
    cited: Cited


class LeafLight(Record):
    """The light below which leaves of some groups of crops are not worth keeping."""

    id: Id
    name: Name
    compensation_umol_m2_s: Annotated[float, Field(gt=0, le=200)]
    range_umol_m2_s: Window
    groups: tuple[Group, ...]
    cited: Cited


class SpectrumClass(Record):
    """A typical spectrum as a sum of bands of relative power: peaks and full widths at half maximum [nm]."""

    id: Id
    name: Name
    bands: tuple[Band, ...] = Field(min_length=1)
    cited: Cited


class Band(Record):
    """One band of a spectrum: peak and full width at half maximum [nm], and its share of the power."""

    peak_nm: Annotated[float, Field(ge=250, le=2600)]
    width_nm: Annotated[float, Field(gt=0, le=2000)]
    power: Annotated[float, Field(gt=0)]


class LampKind(Record):
    """What a kind of lamp has in common: how warm its outside gets [°C], free air to keep round it, and the share of
    its light it has lost after so many hours.
    """

    id: Id
    name: Name
    what: Name
    surface_c: Window
    clear_m: Annotated[float, Field(gt=0, le=2)]
    loss_share: Annotated[float, Field(gt=0, lt=0.9)]
    loss_h: Annotated[float, Field(gt=0)]
    cited: Cited


class FixtureClass(Record):
    """A generic class of grow light; ``price`` spans what shops ask for its like, in euro or dollar of 2026.

    ``mount`` says how it is borne: hung, screwed into a holder, clipped on, or standing on a foot of its own. One that
    is not ``proposed`` is there for who has it; nobody is advised to buy it.
    """

    id: Id
    spec: FixtureSpec
    price: Window
    mount: Literal["hung", "holder", "clip", "foot"] = "hung"
    proposed: bool = True
    note: str = ""
    cited: Cited


class DeviceClass(Record):
    """A generic class of device; ``price`` spans what shops ask for its like, in euro or dollar of 2026."""

    id: Id
    spec: DeviceSpec
    price: Window
    note: str = ""
    cited: Cited


class FanClass(Record):
    """A generic class of fan."""

    id: Id
    spec: FanSpec
    note: str = ""
    cited: Cited


class FanWheel(Record):
    """A kind of fan by its wheel: below ``stall_share`` of its free flow it stalls."""

    id: Id
    name: Name
    stall_share: Annotated[float, Field(gt=0, lt=0.8)]
    range_share: Window
    note: str = ""
    cited: Cited


class FilterClass(Record):
    """A generic class of carbon filter."""

    id: Id
    spec: FilterSpec
    note: str = ""
    cited: Cited


class DuctClass(Record):
    """A generic kind of duct."""

    id: Id
    spec: DuctSpec
    note: str = ""
    cited: Cited


class FittingClass(Record):
    """A generic damper, muffler, grille, screen or light trap."""

    id: Id
    spec: FittingSpec
    note: str = ""
    cited: Cited


class StirClass(Record):
    """A generic class of circulation fan."""

    id: Id
    spec: StirSpec
    note: str = ""
    cited: Cited


class AdapterClass(Record):
    """A generic adapter between two diameters."""

    id: Id
    name: Name
    wide_m: Annotated[float, Field(gt=0, le=0.6)]
    narrow_m: Annotated[float, Field(gt=0, le=0.6)]
    make: Literal["cone", "step"]
    length_m: Annotated[float, Field(gt=0, le=1)]
    weight_kg: Annotated[float, Field(gt=0, le=10)]
    cited: Cited


class LeakClass(Record):
    """How leaky a kind of space is: opening area per square metre of shell, what draughts move through it, what
    noise it holds back.
    """

    id: Id
    area_cm2_m2: Annotated[float, Field(gt=0)]
    range_cm2_m2: Window
    draught_per_h: Annotated[float, Field(ge=0)]
    noise_cut_db: Annotated[float, Field(ge=0, le=40)]
    note: str = ""
    cited: Cited


class RuleSet(Record):
    """How much of a circuit a continuous load may take: a rule of the wiring code, or good practice (``share_cited``).
    ``outlet_a`` is what an ordinary outlet of it is rated for, ``outlet_continuous_a`` what a cord and plug on it may
    draw for hours.
    """

    id: Id
    name: Name
    mains_v: Annotated[float, Field(gt=0)]
    breaker_a: Annotated[float, Field(gt=0)]
    continuous_share: Share
    outlet_a: Annotated[float, Field(gt=0)]
    outlet_continuous_a: Annotated[float, Field(gt=0)]
    currency: Annotated[str, Field(min_length=1, max_length=8)]
    usual_price_per_kwh: Annotated[float, Field(gt=0)]
    price_cited: Cited
    share_cited: Cited
    note: str = ""
    outlet_note: str = ""
    cited: Cited


class CordSize(Record):
    """What a flexible cord carries by the cross-section of its conductors, laid out and cool."""

    id: Id
    area_mm2: Annotated[float, Field(gt=0)]
    carries_a: Annotated[float, Field(gt=0)]
    cited: Cited


class LoadKind(Record):
    """How a kind of load draws: power factor, and current at switching on against running, for so long [ms]."""

    id: Id
    name: Name
    kind: Literal["resistive", "electronic", "ballast", "motor"]
    power_factor: Annotated[float, Field(gt=0, le=1)]
    inrush_times: Annotated[float, Field(ge=1, le=200)]
    inrush_ms: Annotated[float, Field(gt=0, le=5000)]
    cited: Cited


class LightSource(Record):
    """Luminous efficacy of a kind of lamp's photons; None where it comes from a spectrum by colour temperature."""

    id: Id
    name: Name
    lux_per_umol_m2_s: Annotated[float, Field(gt=0)] | None = None
    uncertainty: Share
    cited: Cited
