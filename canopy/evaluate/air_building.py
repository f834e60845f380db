"""Ways of air put together: a first exhaust, the same way for another fan, an intake that is large enough, a stirring fan."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from math import atan2, ceil, degrees, hypot, sqrt

from canopy.air import ventilation
from canopy.air.fan_curve import steps_of
from canopy.equipment import FanSpec, FilterSpec, StirSpec
from canopy.evaluate.stir_margins import PlantAir, stirred
from canopy.library import ducts, fans, filters, fittings, stirrers
from canopy.plan.airways import AirPart, Airway, DuctPart, FanPart, FilterPart, FittingPart, PortPart, Stirrer
from canopy.plan.document import Plan, Space
from canopy.plan.edit import fresh_id
from canopy.plan.shell import Opening
from canopy.season import Standing

INTAKE_M_S = 1.2
_SLACK_M = 0.003


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
    if not alike or abs(part.spec.diameter_m - diameter_m) <= _SLACK_M:
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
                    part.model_copy(
                        update={"spec": spec, "speed": speed, "count": 1, "night_speed": _slower(part, speed)}
                    )
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


def _slower(part: FanPart, speed: float) -> float | None:
    """A night speed keeps its share of the day's."""
    if part.night_speed is None or part.speed <= 0:
        return part.night_speed
    return round(min(1.0, part.night_speed / part.speed * speed), 3)


def with_port(space: Space, airway: Airway, diameter_m: float) -> Space:
    """Give a way of air a port that is wide enough.

    Parameters
    ----------
    space : the space, the way among its own or not yet
    airway : the way
    diameter_m : diameter that must pass [m]

    Returns
    -------
    Space : with the way and its port; a narrower port is widened, a free one is taken, else one is cut
    """
    taken = {way.port.opening_id for way in space.airways if way.port and way.id != airway.id}
    use = "exhaust" if airway.way == "out" else "intake"
    hole = next((o for o in space.openings if airway.port and o.id == airway.port.opening_id), None)
    if hole is None:
        free = [o for o in space.openings if o.use == use and o.shape == "round" and o.open and o.id not in taken]
        hole = max(free, key=lambda o: o.across_m, default=None)
    openings = list(space.openings)
    if hole is None:
        hole = new_port(space, diameter_m, use)
        if hole is None:
            return _with_way(space, airway)
        openings.append(hole)
    elif hole.across_m < diameter_m - _SLACK_M or not hole.open:
        wide = max(diameter_m, hole.across_m)
        moved = hole.model_copy(update={"diameter_m": wide, "open": True, "use": use, **_inside(space, hole, wide / 2)})
        openings[openings.index(hole)] = moved
    if airway.port is None:
        port = PortPart(id=fresh_id("port", (part.id for part in airway.parts)), opening_id=hole.id)
        parts = (*airway.parts, port) if airway.way == "out" else (port, *airway.parts)
        airway = airway.model_copy(update={"parts": parts})
    return _with_way(space.model_copy(update={"openings": tuple(openings)}), airway)


def _with_way(space: Space, airway: Airway) -> Space:
    ways = [airway if way.id == airway.id else way for way in space.airways]
    if airway not in ways:
        ways.append(airway)
    return space.model_copy(update={"airways": tuple(ways)})


def _inside(space: Space, hole: Opening, radius: float) -> dict[str, float]:
    across = space.size.depth_m if hole.face in ("left", "right") else space.size.width_m
    up = space.size.depth_m if hole.face in ("floor", "ceiling") else space.size.height_m
    return {
        "u_m": round(min(max(hole.u_m, radius), across - radius), 4),
        "v_m": round(min(max(hole.v_m, radius), up - radius), 4),
    }


def new_port(space: Space, diameter_m: float, use: str) -> Opening | None:
    """Cut a round port: high on the left for an exhaust, low on the right for an intake.

    Parameters
    ----------
    space : the space
    diameter_m : its diameter [m]
    use : "exhaust" or "intake"

    Returns
    -------
    Opening : or None where no wall is large enough
    """
    size, radius = space.size, diameter_m / 2
    if size.depth_m <= diameter_m or size.height_m <= 1.5 * diameter_m:
        return None
    high = use == "exhaust"
    v = size.height_m - radius - 0.04 if high else radius + 0.06
    return Opening(
        id=fresh_id("port", (o.id for o in space.openings)), face="left" if high else "right", u_m=round(size.depth_m / 2, 3),
        v_m=round(min(max(v, radius), size.height_m - radius), 3), diameter_m=diameter_m, use=use,
    )  # fmt: skip


def open_area_m2(space: Space) -> float:
    """Give the area through which air comes in by itself.

    Parameters
    ----------
    space : the space

    Returns
    -------
    float : gross area of open openings that no way of air passes [m²]
    """
    taken = {way.port.opening_id for way in space.airways if way.port}
    return sum(o.free_area_m2 / o.clear_share for o in space.openings if o.passes_air and o.id not in taken)


def intake_opening(space: Space, flow_m3_h: float, *, taken_m2: float = 0.0) -> Opening | None:
    """Cut an intake that lets a flow in calmly: a mesh window in a tent, a slit elsewhere.

    Parameters
    ----------
    space : the space
    flow_m3_h : flow that comes in [m³/h]
    taken_m2 : area that is open already [m²]

    Returns
    -------
    Opening : low on the right or the back; None where nothing more is needed, or no wall has room
    """
    area = flow_m3_h / 3600 / INTAKE_M_S - taken_m2
    size = space.size
    if area <= 1e-4:
        return None
    used = {o.face for o in space.openings if o.v_m < 0.5 * size.height_m}
    for face, across in (
        ("right", size.depth_m),
        ("back", size.width_m),
        ("left", size.depth_m),
        ("front", size.width_m),
    ):
        if face in used or face == space.door_side:
            continue
        wide = 0.7 * across
        high = ceil(area / wide * 200) / 200
        if high > 0.35 * size.height_m:
            continue
        if wide > 4 * high:
            wide = ceil(max(sqrt(area * 4), 0.04) * 200) / 200
            high = ceil(area / wide * 200) / 200
        tent = space.kind == "tent"
        return Opening(
            id=fresh_id("intake", (o.id for o in space.openings)), face=face, u_m=round(across / 2, 3),
            v_m=round(high / 2 + 0.06 * size.height_m, 3), shape="mesh" if tent else "slit", width_m=round(wide, 3), height_m=high,
            clear_share=0.58 if tent else 1.0, use="intake",
        )  # fmt: skip
    return None


def smallest_fan(
    plan: Plan, make: Callable[[FanSpec], tuple[Space, Airway]], need_m3_h: float, *, lit: bool = True
) -> tuple[Space, Airway, float] | None:
    """Find the smallest fan of the library with which a space gets a flow below full speed, at the slowest step that does.

    Parameters
    ----------
    plan : the plan, for joined spaces
    make : puts a fan into the space; gives the space and the way it is in
    need_m3_h : flow wanted altogether [m³/h]
    lit : lamps on

    Returns
    -------
    tuple : the space at that step, the way, and the speed (full speed where no fan does it below); None when none gives it
    """
    full: tuple[Space, Airway, float] | None = None
    for spec in sorted((row.spec for row in fans().values()), key=lambda spec: (spec.free_flow_m3_h, spec.power_w)):
        if spec.free_flow_m3_h < 0.8 * need_m3_h:
            continue
        space, airway = make(spec)
        if spec.kind == "case" and any(part.kind in ("filter", "duct", "bend") for part in airway.parts):
            # Without a spigot it sits in a wall: it takes neither filter nor duct.
            continue
        speed = slowest_step(plan, space, airway, need_m3_h, lit=lit)
        if speed is not None and speed < 1:
            return at_speed(space, airway, speed), airway, speed
        if speed is not None and full is None:
            full = (at_speed(space, airway, speed), airway, speed)
    return full


def slowest_step(plan: Plan, space: Space, airway: Airway, need_m3_h: float, *, lit: bool = True) -> float | None:
    """Find the slowest step of a way's fan at which a space gets a flow.

    Parameters
    ----------
    plan : the plan, for joined spaces
    space : the space
    airway : one of its ways
    need_m3_h : flow wanted altogether [m³/h]
    lit : lamps on

    Returns
    -------
    float : the speed; None when full speed does not give it
    """
    steps = steps_of(airway.fans[0].spec) if airway.fans else ()

    def gives(speed: float) -> bool:
        air = ventilation(plan, space, lit=lit, speeds={airway.id: speed})
        return max(air.fan_in_m3_h, air.fan_out_m3_h) * airway.duty >= need_m3_h

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


def at_speed(space: Space, airway: Airway, speed: float) -> Space:
    """Set all fans of a way to a speed.

    Parameters
    ----------
    space : the space
    airway : the way
    speed : share of full speed

    Returns
    -------
    Space : with the way set
    """
    parts = tuple(
        part.model_copy(update={"speed": speed}) if part.kind == "fan" else part
        for part in next(way for way in space.airways if way.id == airway.id).parts
    )
    return _with_way(
        space, next(way for way in space.airways if way.id == airway.id).model_copy(update={"parts": parts})
    )


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
        row.spec for row in filters().values()
        if row.spec.bed_inner_m and row.spec.rated_flow_m3_h >= flow_m3_h and row.spec.diameter_m >= diameter_m - 0.03
    ]  # fmt: skip
    return min(
        able, key=lambda spec: (abs(spec.diameter_m - diameter_m) > _SLACK_M, spec.weight_kg or 0.0), default=None
    )


def aimed(here: Standing, spec: StirSpec) -> Stirrer:
    """Put a stirring fan high on the left, aimed at the middle of the plants' tops.

    Parameters
    ----------
    here : the space on a day
    spec : the fan

    Returns
    -------
    Stirrer : with an id that is not taken; aimed level across an empty space
    """
    size, plants = here.space.size, here.plants
    count = max(1, len(plants))
    top = max((plant.top_m for plant in plants), default=0.4 * size.height_m)
    aim_x = sum(plant.x_m for plant in plants) / count if plants else size.width_m / 2
    aim_y = sum(plant.y_m for plant in plants) / count if plants else size.depth_m / 2
    aim_z = sum(plant.top_m for plant in plants) / count if plants else top
    x, y, z = 0.06 * size.width_m, 0.5 * size.depth_m, min(top + 0.25 * size.height_m, 0.92 * size.height_m)
    return Stirrer(
        id=fresh_id("stirrer", (fan.id for fan in here.space.stirrers)), spec=spec, x_m=round(x, 3), y_m=round(y, 3),
        z_m=round(z, 3), yaw_deg=round(degrees(atan2(aim_y - y, max(aim_x - x, 0.01))), 0),
        pitch_deg=round(-degrees(atan2(max(z - aim_z, 0.0), max(hypot(aim_x - x, aim_y - y), 0.05))), 0),
        swings=spec.sweep_deg > 0,
    )  # fmt: skip


def suggest_stirrer(here: Standing) -> Stirrer | None:
    """Find the smallest stirring fan of the library that reaches every plant without blowing too hard.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Stirrer : high on the left, aimed at the middle of the tops; the one that leaves fewest out where none reaches all;
        None without plants
    """
    if not here.plants:
        return None
    from canopy.evaluate.stir_margins import least_m_s, most_m_s

    best: tuple[float, float, Stirrer] | None = None
    for row in sorted(stirrers().values(), key=lambda row: row.spec.flow_m3_h):
        if row.spec.kind not in ("usb", "clip"):
            continue
        made = aimed(here, row.spec)
        for speed in row.spec.steps or (1.0,):
            set_to = made.model_copy(update={"speed": speed})
            found = stirred(here.moved(here.space.model_copy(update={"stirrers": (*here.space.stirrers, set_to)})))
            missed = _missed(found.plants, least_m_s, most_m_s)
            if best is None or missed < best[0]:
                best = (missed, row.spec.power_w * speed**3, set_to)
            if missed == 0:
                return set_to
    return best[2] if best else None


def _missed(
    plants: tuple[PlantAir, ...], least: Callable[[PlantAir], float], most: Callable[[PlantAir], float]
) -> float:
    """How many plants lie outside what they stand, and a little for those below what they like."""
    out = sum(1.0 for item in plants if not least(item) <= item.speed_m_s <= most(item))
    return out + 0.01 * sum(1 for item in plants if item.speed_m_s < item.plant.want.air_speed_m_s.low)
