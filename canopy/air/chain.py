"""A way of air as one row of losses and fans, with the adapters it needs between unlike diameters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from canopy.air.fan_curve import FanCurve, fan_curve
from canopy.air.losses import (
    DENSITY_KG_M3,
    ENTRY,
    EXIT,
    adapter_loss,
    area_m2,
    bend_loss,
    duct_drop_pa,
    flex_factor,
)
from canopy.equipment import FanSpec
from canopy.library import adapters
from canopy.plan.airways import AdapterPart, AirPart, Airway, BendPart, DuctPart, FilterPart, HoodPart, PortPart
from canopy.roots import falling_root

# Diameters fit each other within so much [m], or within so large a part: 8 in is 203 mm and sold as 200.
SLACK_M, _NOMINAL = 0.003, 0.02
# A flap pressed shut leaks like a slit: this many times its own loss.
_SHUT = 1e5


@dataclass(frozen=True, kw_only=True)
class Element:
    """One thing that takes pressure: a share that goes with the square of flow [Pa/(m³/s)²], a duct's friction, a
    filter's bed.
    """

    part_id: str
    kind: str
    name: str
    diameter_m: float
    square: float = 0.0
    length_m: float = 0.0
    roughness_m: float = 0.0
    factor: float = 1.0
    bed_pa: float = 0.0
    bed_m3_s: float = 1.0
    exponent: float = 1.0
    opens_at_pa: float = 0.0
    density_share: float = 1.0

    def drop_pa(self, flow_m3_s: float) -> float:
        """Give what it takes from a flow along its way.

        Parameters
        ----------
        flow_m3_s : flow, not negative [m³/s]

        Returns
        -------
        float : pressure drop; a flap takes at least what lifts it [Pa]
        """
        if flow_m3_s <= 0:
            return 0.0
        drop = self.square * flow_m3_s * flow_m3_s
        if self.length_m:
            drop += duct_drop_pa(
                flow_m3_s, self.diameter_m, self.length_m, self.roughness_m, self.factor, self.density_share
            )
        if self.bed_pa:
            drop += self.bed_pa * (flow_m3_s / self.bed_m3_s) ** self.exponent
        return max(drop, self.opens_at_pa * flow_m3_s / (flow_m3_s + 1e-4)) if self.opens_at_pa else drop

    def in_air(self, density_share: float) -> Element:
        """Give the same thing in thinner or thicker air.

        Parameters
        ----------
        density_share : density of the air against sea level's, over 0

        Returns
        -------
        Element : squares go with the density, a bed of exponent n with its power n - 1 (what is left is viscous)
        """
        if density_share == 1.0:
            return self
        return replace(
            self,
            square=self.square * density_share,
            bed_pa=self.bed_pa * density_share ** (self.exponent - 1),
            density_share=density_share,
        )


@dataclass(frozen=True, kw_only=True)
class ChainFan:
    """Fans side by side at one place of a chain."""

    part_id: str
    spec: FanSpec
    curve: FanCurve
    count: int


@dataclass(frozen=True, kw_only=True)
class NeededAdapter:
    """A change of diameter that a chain needs and does not have; ``class_id`` is the library's adapter for it, or
    "".
    """

    after_id: str
    before_id: str
    from_m: float
    to_m: float
    class_id: str = ""
    name: str = ""


@dataclass(frozen=True, kw_only=True, eq=False)
class Chain:
    """Elements and fans in the order of the flow; ``rows`` are the elements gathered for speed.

    ``moves`` is what was found to move against what is computed: fans and losses then are those of a flow so many
    times smaller, so that at any speed and pressure it moves ``moves`` times as much.
    """

    airway_id: str
    elements: tuple[Element, ...]
    fans: tuple[ChainFan, ...]
    needed: tuple[NeededAdapter, ...]
    rows: tuple[Element, ...]
    shut: bool = False
    density_share: float = 1.0
    moves: float = 1.0

    def loss_pa(self, flow_m3_s: float) -> float:
        """Give what all elements take together.

        Parameters
        ----------
        flow_m3_s : flow, not negative [m³/s]

        Returns
        -------
        float : pressure drop [Pa]
        """
        return sum(row.drop_pa(flow_m3_s / self.moves) for row in self.rows)

    def lift_pa(self, flow_m3_s: float, speeds: Sequence[float]) -> float:
        """Give what all fans add together.

        Parameters
        ----------
        flow_m3_s : flow [m³/s]
        speeds : speed of each fan, shares of full speed

        Returns
        -------
        float : static pressure [Pa]
        """
        return sum(self.fan_lift_pa(place, flow_m3_s, speed) for place, speed in enumerate(speeds))

    def fan_lift_pa(self, place: int, flow_m3_s: float, speed: float) -> float:
        """Give what the fans at one place add.

        Parameters
        ----------
        place : which of its fans, from 0
        flow_m3_s : flow along the chain [m³/s]
        speed : share of full speed, 0..1

        Returns
        -------
        float : static pressure; goes with the air's density [Pa]
        """
        fan = self.fans[place]
        return self.density_share * fan.curve.pressure_pa(flow_m3_s / self.moves / fan.count, speed)

    def free_m3_s(self, fan: ChainFan, speed: float) -> float:
        """Give what the fans at one place move in free air.

        Parameters
        ----------
        fan : one of its fans
        speed : share of full speed, 0..1

        Returns
        -------
        float : flow [m³/s]
        """
        return self.moves * fan.count * fan.curve.free_m3_s * speed

    def gain_pa(self, flow_m3_s: float, speeds: Sequence[float]) -> float:
        """Give what is left of the fans' pressure after all losses; it falls as flow grows.

        Parameters
        ----------
        flow_m3_s : flow, negative when it runs backwards [m³/s]
        speeds : speed of each fan, shares of full speed

        Returns
        -------
        float : pressure [Pa]; running backwards a back-draught flap is shut
        """
        lift = self.lift_pa(flow_m3_s, speeds)
        if flow_m3_s >= 0:
            return lift - self.loss_pa(flow_m3_s)
        back = -flow_m3_s / self.moves
        shut = sum(_SHUT * row.square * back * back for row in self.rows if row.opens_at_pa)
        return lift + sum(row.drop_pa(back) for row in self.rows if not row.opens_at_pa) + shut

    def flow_m3_s(self, speeds: Sequence[float], head_pa: float = 0.0) -> float:
        """Find the flow at which fans, losses and the pressure between the ends agree.

        Parameters
        ----------
        speeds : speed of each fan, shares of full speed
        head_pa : pressure at the beginning less pressure at the end [Pa]

        Returns
        -------
        float : flow, to 1e-9 m³/s; 0 through a port that is shut [m³/s]
        """
        if self.shut:
            return 0.0
        return falling_root(lambda flow: self.gain_pa(flow, speeds) + head_pa, 0.05, 1e-9)


def same_size(one_m: float, two_m: float) -> bool:
    """Say whether two diameters fit each other as they are sold: 4 in and 100 mm, 8 in and 200 mm.

    Parameters
    ----------
    one_m : a diameter [m]
    two_m : the other [m]

    Returns
    -------
    bool : within 3 mm or 2 %, whichever is more
    """
    return abs(one_m - two_m) <= max(SLACK_M, _NOMINAL * max(one_m, two_m))


def adapter_class(one_m: float, two_m: float) -> tuple[str, str]:
    """Find the library's adapter between two diameters.

    Parameters
    ----------
    one_m : a diameter [m]
    two_m : the other [m]

    Returns
    -------
    tuple of str : id and name, both "" when the library has none of these sizes
    """
    wide, narrow = max(one_m, two_m), min(one_m, two_m)
    for row in adapters().values():
        if same_size(row.wide_m, wide) and same_size(row.narrow_m, narrow):
            return row.id, row.name
    return "", ""


def _square(loss: float, diameter_m: float) -> float:
    return loss * 0.5 * DENSITY_KG_M3 / area_m2(diameter_m) ** 2


def _bore(part: AirPart) -> tuple[float, float] | None:
    """Diameters at a part's beginning and end; None for a port, which what passes it decides."""
    if isinstance(part, PortPart):
        return None
    if isinstance(part, AdapterPart):
        return part.from_m, part.to_m
    if isinstance(part, DuctPart | BendPart | HoodPart):
        return part.diameter_m, part.diameter_m
    return part.spec.diameter_m, part.spec.diameter_m


def _duct(part: DuctPart) -> Element:
    spec, flexible = part.spec, part.spec.flexible
    return Element(
        part_id=part.id,
        kind="duct",
        name=spec.name,
        diameter_m=part.diameter_m,
        length_m=part.length_m,
        roughness_m=spec.roughness_m,
        factor=flex_factor(part.diameter_m, part.slack) if flexible else 1.0,
    )


def _filter(part: FilterPart, loading: float | None) -> Element:
    spec = part.spec
    return Element(
        part_id=part.id,
        kind="filter",
        name=spec.name,
        diameter_m=spec.diameter_m,
        bed_pa=spec.rated_pressure_pa * (part.loading if loading is None else max(loading, part.loading)),
        bed_m3_s=spec.rated_flow_m3_h / 3600,
        exponent=spec.exponent,
    )


def _element(part: AirPart, loading: float | None) -> Element | None:
    if part.kind == "filter":
        return _filter(part, loading)
    if part.kind == "duct":
        return _duct(part)
    if part.kind == "bend":
        return Element(
            part_id=part.id,
            kind="bend",
            name=f"{part.angle_deg:g}° bend, {part.make}",
            diameter_m=part.diameter_m,
            square=_square(bend_loss(part.make, part.angle_deg), part.diameter_m),
        )
    if part.kind == "adapter":
        narrow = min(part.from_m, part.to_m)
        return Element(
            part_id=part.id,
            kind="adapter",
            name=f"{part.make} {part.from_m * 1000:.0f} to {part.to_m * 1000:.0f} mm",
            diameter_m=narrow,
            square=_square(adapter_loss(part.from_m, part.to_m, part.make), narrow),
        )
    if part.kind == "hood":
        return Element(
            part_id=part.id,
            kind="hood",
            name="lamp's hood",
            diameter_m=part.diameter_m,
            square=_square(part.loss, part.diameter_m),
        )
    if part.kind == "fitting":
        spec = part.spec
        return Element(
            part_id=part.id,
            kind="fitting",
            name=spec.name,
            diameter_m=spec.diameter_m,
            square=_square(spec.loss, spec.diameter_m),
            opens_at_pa=spec.opens_at_pa,
        )
    return None


@lru_cache(maxsize=1024)
def chain_of(
    airway: Airway,
    port_m: float | None = None,
    shut: bool = False,
    loading: float | None = None,
    density_share: float = 1.0,
    moves: float = 1.0,
) -> Chain:
    """Make a chain of a way of air.

    Parameters
    ----------
    airway : the way
    port_m : diameter of the opening it passes; None when it passes none [m]
    shut : its opening is shut
    loading : least resistance of its filters against new, to look ahead; as they are when None
    density_share : density of the air against sea level's, over 0
    moves : what was found to move against what is computed, over 0

    Returns
    -------
    Chain : losses and fans in order; unlike diameters are joined by cones, listed as needed

    Notes
    -----
    A filter, a fan's own inlet or a fitting at the beginning has its entry in its data; a duct begins sharp-edged.
    The exit
    takes one dynamic pressure of the last diameter, but a filter at the end takes nothing more. Static pressure on a
    sheet already leaves out the dynamic pressure at the fan's outlet: a fan that blows into the open pays for it only
    once. Behind a duct it is not given back: short of some diameters of straight duct the swirl of the outlet costs
    about as much (AMCA 201, outlet ducts). A port narrower than
    what passes it is a sudden narrowing, and a widening behind it, or the exit where it is the last; a wider one takes
    nothing.
    """
    elements: list[Element] = []
    fans: list[ChainFan] = []
    needed: list[NeededAdapter] = []
    bore, last_id = None, ""
    # Where the elements behind a bare fan begin: nothing but cones and a port between it and the open.
    outlet: int | None = None
    for part in airway.parts:
        ends = _bore(part)
        if ends is None:
            continue
        if bore is None:
            elements += _entry(part, ends[0])
        elif not same_size(bore, ends[0]):
            elements.append(_joined(bore, ends[0]))
            class_id, name = adapter_class(bore, ends[0])
            needed.append(
                NeededAdapter(
                    after_id=last_id, before_id=part.id, from_m=bore, to_m=ends[0], class_id=class_id, name=name
                )
            )
        if part.kind == "fan":
            fans.append(ChainFan(part_id=part.id, spec=part.spec, curve=fan_curve(part.spec), count=part.count))
            outlet = len(elements) if part.spec.pressure == "static" else None
        elif part.kind != "adapter":
            outlet = None
        made = _element(part, loading)
        if made:
            elements.append(made)
        bore, last_id = ends[1], part.id
    if port_m is not None and airway.port:
        # A narrower hole at the very end is where the air leaves, at its own diameter.
        last = airway.parts[-1].kind == "port" and bore is not None and port_m < bore and not same_size(bore, port_m)
        elements += _port(airway.port.id, bore, port_m, last=last)
        bore = port_m if last else bore or port_m
    if bore is not None and not (airway.parts and airway.parts[-1].kind == "filter"):
        elements.append(Element(part_id="", kind="exit", name="exit", diameter_m=bore, square=_square(EXIT, bore)))
        if outlet is not None and fans:
            elements[outlet:] = _recovered(elements[outlet:], fans[-1])
    elements = [element.in_air(density_share) for element in elements]
    return Chain(
        airway_id=airway.id,
        elements=tuple(elements),
        fans=tuple(fans),
        needed=tuple(needed),
        rows=_gathered(elements),
        # Nothing in it: there is no way yet.
        shut=shut or not (elements or fans),
        density_share=density_share,
        moves=moves,
    )


def _recovered(behind: list[Element], fan: ChainFan) -> list[Element]:
    """Take the dynamic pressure at a bare fan's outlet off what lies behind it, from the exit on, to no less than 0."""
    credit = _square(EXIT, fan.spec.diameter_m) / fan.count**2
    found = []
    for item in reversed(behind):
        taken = min(credit, item.square)
        credit -= taken
        words = "exit, in the fan's static pressure" if item.kind == "exit" and taken >= item.square else item.name
        found.append(replace(item, square=item.square - taken, name=words))
    return found[::-1]


def _entry(part: AirPart, bore: float) -> list[Element]:
    if part.kind in ("filter", "fan", "fitting"):
        return []
    return [Element(part_id="", kind="entry", name="entry", diameter_m=bore, square=_square(ENTRY["sharp"], bore))]


def _joined(one_m: float, two_m: float) -> Element:
    narrow = min(one_m, two_m)
    return Element(
        part_id="",
        kind="adapter",
        name=f"adapter {one_m * 1000:.0f} to {two_m * 1000:.0f} mm (needed)",
        diameter_m=narrow,
        square=_square(adapter_loss(one_m, two_m), narrow),
    )


def _port(part_id: str, bore: float | None, port_m: float, *, last: bool) -> list[Element]:
    """A hole by itself has an entry; a hole narrower than what passes it narrows suddenly, and widens behind it."""
    if bore is None:
        loss = ENTRY["sharp"]
    elif port_m < bore and not same_size(bore, port_m):
        loss = adapter_loss(bore, port_m, "step") + (0.0 if last else adapter_loss(port_m, bore, "step"))
    else:
        return []
    return [Element(part_id=part_id, kind="port", name="port", diameter_m=port_m, square=_square(loss, port_m))]


def _gathered(elements: list[Element]) -> tuple[Element, ...]:
    """Squares summed up, ducts of a kind joined end to end: the same losses in fewer rows."""
    square = 0.0
    ducts: dict[tuple[float, float], float] = {}
    share = elements[0].density_share if elements else 1.0
    rest: list[Element] = []
    for item in elements:
        if item.opens_at_pa or item.bed_pa:
            rest.append(item)
        elif item.length_m:
            key = (item.diameter_m, item.roughness_m)
            ducts[key] = ducts.get(key, 0.0) + item.length_m * item.factor
        else:
            square += item.square
    plain = [Element(part_id="", kind="sum", name="", diameter_m=1.0, square=square)] if square else []
    joined = [
        Element(
            part_id="",
            kind="sum",
            name="",
            diameter_m=diameter,
            length_m=length,
            roughness_m=roughness,
            density_share=share,
        )
        for (diameter, roughness), length in ducts.items()
    ]
    return (*plain, *joined, *rest)
