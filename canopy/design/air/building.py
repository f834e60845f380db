"""Ways of air put together: a first exhaust, the same way for another fan, an intake that is large enough, a
circulation fan.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from canopy.air import ventilation
from canopy.air.chain import same_size
from canopy.air.fan_curve import steps_of
from canopy.air.losses import area_m2
from canopy.air.network import Moment
from canopy.air.operating import at_speed
from canopy.design.air.openings import INTAKE_M_S, open_area_m2
from canopy.equipment import FanSpec, FilterSpec
from canopy.evaluate.air.amounts import SPARE
from canopy.evaluate.air.breathing import breathing
from canopy.evaluate.light.lighting import Lighting
from canopy.library import ducts, fans, filters, fittings
from canopy.plan.airways import AirPart, Airway, DuctPart, FanPart, FilterPart, FittingPart, OtherSpeed, PortPart
from canopy.plan.document import Plan, Space
from canopy.plan.edit import fresh_id
from canopy.season import Standing

# A fan that gives so many times what is asked at its slowest step is the wrong one; so is one whose duct hisses.
_AMPLE, CALM_M_S = 2.0, 5.0


def duct_part(part_id: str, diameter_m: float, length_m: float, class_id: str = "flex-alu") -> DuctPart:
    """Make a length of the library's duct.

    Parameters
    ----------
    part_id : its id
    diameter_m : its diameter [m]
    length_m : its length [m]
    class_id : which duct

    Returns
    -------
    DuctPart : slack as usually installed
    """
    return DuctPart(id=part_id, spec=ducts()[class_id].spec, diameter_m=diameter_m, length_m=length_m)


def exhaust_parts(
    spec: FanSpec, port_id: str | None, *, speed: float = 1.0, strain: FilterSpec | None = None, duct_m: float = 0.5
) -> tuple[AirPart, ...]:
    """Lay out an exhaust: filter, fan and a short duct to the port.

    Parameters
    ----------
    spec : the fan
    port_id : the opening it passes, if there is one
    speed : the fan's speed, share of full speed
    strain : a carbon filter before the fan
    duct_m : duct between fan and port; none when 0 [m]

    Returns
    -------
    tuple of AirPart : in the order of the flow
    """
    parts: list[AirPart] = []
    if strain:
        parts.append(FilterPart(id="filter", spec=strain))
    parts.append(FanPart(id="fan", spec=spec, speed=speed))
    if duct_m > 0 and spec.kind != "case":
        parts.append(duct_part("duct", spec.diameter_m, duct_m))
    if port_id:
        parts.append(PortPart(id="port", opening_id=port_id))
    return tuple(parts)


def at_diameter(parts: Iterable[AirPart], diameter_m: float) -> tuple[AirPart, ...]:
    """Bring ducts, bends and fittings to one diameter.

    Parameters
    ----------
    parts : parts of a way of air
    diameter_m : the diameter [m]

    Returns
    -------
    tuple of AirPart : adapters left out, fittings in the library's nearest size; fans, filters and the port as they are
    """
    out: list[AirPart] = []
    for part in parts:
        if part.kind == "adapter":
            continue
        if part.kind in ("duct", "bend"):
            out.append(part.model_copy(update={"diameter_m": diameter_m}))
        elif part.kind == "fitting":
            out.append(_sized(part, diameter_m))
        else:
            out.append(part)
    return tuple(out)


def _sized(part: FittingPart, diameter_m: float) -> FittingPart:
    alike = [row.spec for row in fittings().values() if row.spec.sort == part.spec.sort]
    if not alike or same_size(part.spec.diameter_m, diameter_m):
        return part
    nearest = min(alike, key=lambda spec: abs(spec.diameter_m - diameter_m))
    return part.model_copy(update={"spec": nearest})


def refitted(
    airway: Airway, spec: FanSpec, *, speed: float = 1.0, strain: FilterSpec | None = None, clean: bool = False
) -> Airway:
    """Put another fan into a way of air, and bring what leads to and from it to its diameter.

    Parameters
    ----------
    airway : the way
    spec : the fan; it takes the place of the first one, further fans go
    speed : its speed, share of full speed
    strain : a carbon filter in place of the one that is there; as it is when None
    clean : leave filters out altogether

    Returns
    -------
    Airway : the same way with other parts; a measured flow no longer holds
    """
    parts: list[AirPart] = []
    placed = False
    for part in airway.parts:
        if part.kind == "fan":
            if not placed:
                parts.append(
                    part.model_copy(update={"spec": spec, "speed": speed, "count": 1, "other": _slower(part, speed)})
                )
            placed = True
        elif part.kind == "filter":
            if not clean:
                parts.append(
                    part.model_copy(update={"spec": strain or part.spec, "loading": 1.0 if strain else part.loading})
                )
        else:
            parts.append(part)
    if not placed:
        parts.insert(0, FanPart(id=fresh_id("fan", (p.id for p in parts)), spec=spec, speed=speed))
    if strain and not any(part.kind == "filter" for part in parts):
        parts.insert(0, FilterPart(id=fresh_id("filter", (p.id for p in parts)), spec=strain))
    return airway.model_copy(update={"parts": at_diameter(parts, spec.diameter_m), "measured": None})


def _slower(part: FanPart, speed: float) -> OtherSpeed | None:
    """A speed at other times keeps its share of the usual one."""
    if part.other is None or part.speed <= 0:
        return part.other
    return part.other.model_copy(update={"speed": round(min(1.0, part.other.speed / part.speed * speed), 3)})


def smallest_fan(
    plan: Plan, make: Callable[[FanSpec], tuple[Space, Airway]], need_m3_h: float, *, lit: bool = True
) -> tuple[Space, Airway, float] | None:
    """Find the smallest fan of the library with which a space gets a flow below full speed, and not far more than that.

    Parameters
    ----------
    plan : the plan, for joined spaces
    make : puts a fan into the space; gives the space and the way it is in
    need_m3_h : flow wanted altogether [m³/h]
    lit : lamps on

    Returns
    -------
    tuple : the space at that step, the way, and the speed (too much, or full speed, where no fan does better); None
        when none gives it
    """
    second: tuple[Space, Airway, float] | None = None
    for spec in sorted((row.spec for row in fans().values()), key=lambda spec: (spec.free_flow_m3_h, spec.power_w)):
        if spec.free_flow_m3_h < 0.8 * need_m3_h:
            continue
        space, airway = make(spec)
        led = any(part.kind in ("filter", "duct", "bend") for part in airway.parts)
        if spec.kind == "case" and (led or space.kind == "tent"):
            # Without a spigot it sits in a stiff wall, and takes neither filter nor duct.
            continue
        speed = slowest_step(plan, space, airway, need_m3_h, lit=lit)
        if speed is None:
            continue
        set_to = at_speed(space, airway, speed)
        air = ventilation(plan, set_to, Moment(lit=lit))
        moved = max(air.fan_out_m3_h, air.fan_in_m3_h)
        calm = not led or moved / 3600 <= CALM_M_S * area_m2(spec.diameter_m)
        if speed < 1 and moved <= _AMPLE * need_m3_h and calm:
            return set_to, airway, speed
        if second is None or (second[2] == 1 and speed < 1):
            second = (set_to, airway, speed)
    return second


def settled(plan: Plan, space: Space, airway_id: str, need_m3_h: float) -> Space:
    """Widen the intake for what a fan draws, and run the fan no faster than that then asks for.

    Parameters
    ----------
    plan : the plan, for joined spaces
    space : the space; its last opening is the intake
    airway_id : the way with the fan
    need_m3_h : flow wanted altogether [m³/h]

    Returns
    -------
    Space : with both set
    """
    calm = calmed(plan, space)
    airway = next(way for way in calm.airways if way.id == airway_id)
    speed = slowest_step(plan, calm, airway, need_m3_h)
    return calm if speed is None else at_speed(calm, airway, speed)


def sized(
    plan: Plan,
    here: Standing,
    lighting: Lighting,
    build: Callable[[float], Space | None],
    wanted_m3_h: float,
    spare: float,
) -> Space | None:
    """Build for a flow, and again where the new fan's own heat asks for more.

    Parameters
    ----------
    plan : the plan, for joined spaces
    here : the space on a day, as it is
    lighting : its computed light
    build : makes the space for a flow [m³/h]; None where it cannot
    wanted_m3_h : flow to begin with [m³/h]
    spare : how many times what is asked must be there

    Returns
    -------
    Space : that gives what is asked with so much to spare, or comes nearest in four tries; None where none can be built
    """
    made: Space | None = None
    for _ in range(4):
        built = build(wanted_m3_h)
        if built is None:
            break
        made = built
        found = breathing(plan, here.moved(made), lighting)
        need = found.governing.flow_m3_h
        if need is None or found.delivered_m3_h >= spare * need:
            return _eased(plan, made, SPARE * (need or 0.0))
        wanted_m3_h = max(1.04 * wanted_m3_h, 1.02 * spare * need)
    return made


def _eased(plan: Plan, space: Space, need_m3_h: float) -> Space:
    """Run the only fan that draws or blows no faster than what is asked in the end, less than it was built for."""
    ways = [way for way in space.airways if way.fans and way.ends != "space"]
    if len(ways) != 1 or ways[0].lead is None or need_m3_h <= 0:
        return space
    speed = slowest_step(plan, space, ways[0], need_m3_h)
    return at_speed(space, ways[0], speed) if speed is not None and speed < ways[0].lead.speed else space


def calmed(plan: Plan, space: Space) -> Space:
    """Widen the intake that was cut last until what a fan really draws comes in calmly.

    Parameters
    ----------
    plan : the plan, for joined spaces
    space : the space; its last opening is the intake

    Returns
    -------
    Space : with the intake wider, as far as the wall has room; unchanged where its last opening is no slit or mesh
    """
    for _ in range(4):
        hole, area = space.openings[-1] if space.openings else None, open_area_m2(space)
        if hole is None or hole.use != "intake" or hole.shape == "round" or hole.height_m is None or area <= 0:
            return space
        air = ventilation(plan, space)
        wanted = (air.fan_out_m3_h - air.fan_in_m3_h) / 3600 / INTAKE_M_S
        if wanted <= 1.05 * area:
            return space
        high = min(
            round(hole.height_m * (1 + (wanted - area) / (hole.across_m * hole.height_m)), 3),
            0.35 * space.size.height_m,
        )
        wider = hole.model_copy(update={"height_m": high, "v_m": round(max(hole.v_m, high / 2 + 0.02), 3)})
        space = space.model_copy(update={"openings": (*space.openings[:-1], wider)})
    return space


def slowest_step(
    plan: Plan, space: Space, airway: Airway, need_m3_h: float, *, lit: bool = True, loading: float | None = None
) -> float | None:
    """Find the slowest step of a way's fan at which a space gets a flow.

    Parameters
    ----------
    plan : the plan, for joined spaces
    airway : one of its ways
    need_m3_h : flow wanted altogether [m³/h]
    lit : lamps on
    loading : least resistance of filters against new, to look ahead; as they are when None

    Returns
    -------
    float : the speed; None when full speed does not give it
    """
    steps = steps_of(airway.lead.spec) if airway.lead else ()
    duty = airway.duty(space.lit, while_lit=lit)

    def gives(speed: float) -> bool:
        air = ventilation(plan, space, Moment(lit=lit, speeds={airway.id: speed}, loading=loading))
        return max(air.fan_in_m3_h, air.fan_out_m3_h) * duty >= need_m3_h

    if not steps or not gives(steps[-1]):
        return None
    low, high = 0, len(steps) - 1
    while low < high:
        middle = (low + high) // 2
        if gives(steps[middle]):
            high = middle
        else:
            low = middle + 1
    return steps[low]


def filter_for(diameter_m: float, flow_m3_h: float) -> FilterSpec | None:
    """Find the lightest carbon filter of the library that is made for a flow, on a spigot of about this diameter.

    Parameters
    ----------
    diameter_m : spigot of the fan [m]
    flow_m3_h : flow [m³/h]

    Returns
    -------
    FilterSpec : or None
    """
    able = [
        row.spec
        for row in filters().values()
        if row.spec.bed_inner_m and row.spec.rated_flow_m3_h >= flow_m3_h and row.spec.diameter_m >= diameter_m - 0.03
    ]
    return min(able, key=lambda spec: (not same_size(spec.diameter_m, diameter_m), spec.weight_kg or 0.0), default=None)
