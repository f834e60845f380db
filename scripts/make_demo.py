"""Write the demo household to examples/demo-household.json."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

from air_parts import bend, duct, fan, port, stirrer, strain

from canopy.design.crops.arranging import arrange
from canopy.design.start.space import default_faces
from canopy.equipment import DeviceSpec
from canopy.library import crops, fixtures
from canopy.plan import (
    Air,
    Airway,
    Circuit,
    Device,
    Fixture,
    HouseholdLoad,
    Opening,
    Plan,
    Plant,
    Planting,
    Room,
    Shelf,
    Site,
    Size,
    Space,
    Surface,
    Tariff,
    dumps,
    from_data,
)
from canopy.schedule import Cycle, Daily, by_hand

DAY = dt.date(2026, 3, 14)
PLANTINGS = (
    Planting(id="berries", name="Strawberries", crop_id="strawberry-day-neutral", starts_on=dt.date(2025, 12, 20)),
    Planting(id="beans", name="Beans", crop_id="bean-dwarf", starts_on=dt.date(2026, 2, 10)),
    Planting(id="tatsoi-1", name="Tatsoi 1", crop_id="tatsoi", starts_on=dt.date(2026, 2, 4)),
    Planting(id="tatsoi-2", name="Tatsoi 2", crop_id="tatsoi", starts_on=dt.date(2026, 2, 18)),
    Planting(id="chervil", name="Chervil", crop_id="chervil", starts_on=dt.date(2026, 1, 28)),
)


_ROOMS: dict[str, Room] = {}


def room(name: str, **figures: Any) -> str:
    """A room of the household; gives its id."""
    key = name.lower().replace(" ", "-")
    _ROOMS[key] = Room(id=key, name=name, **figures)
    return key


def _plant(number: int, crop_id: str, stage: str, x: float, y: float, **more: float) -> Plant:
    crop = crops()[crop_id]
    want = crop.stage(stage)
    assert want is not None
    data = {"pot_height_m": crop.pot_height_m, "height_m": want.height_m, "spread_m": want.spread_m, **more}
    return Plant(id=f"plant-{number}", crop_id=crop_id, stage=stage, x_m=x, y_m=y, **data)


def _dated(number: int, planting_id: str, x: float, y: float, **more: Any) -> Plant:
    crop_id = next(item.crop_id for item in PLANTINGS if item.id == planting_id)
    data = {"pot_height_m": crops()[crop_id].pot_height_m, **more}
    return Plant(id=f"plant-{number}", crop_id=crop_id, planting_id=planting_id, x_m=x, y_m=y, **data)


def _lamp(number: int, class_id: str, x: float, y: float, z: float, hours: float = 14.0, **more: Any) -> Fixture:
    schedule = Daily(start="06:00", hours=hours)
    return Fixture(id=f"lamp-{number}", spec=fixtures()[class_id].spec, x_m=x, y_m=y, z_m=z, schedule=schedule, **more)


def tent() -> Space:
    """Strawberries and dwarf beans: good light in the middle, a fan that is too weak behind its filter."""
    berries = [(0.2, 0.2), (0.5, 0.2), (0.8, 0.2), (0.2, 0.5), (0.5, 0.5), (0.8, 0.5)]
    beans = [(1.04, 0.22), (1.04, 0.5), (1.04, 0.78), (0.72, 0.78), (0.42, 0.78)]
    pot = {"pot_volume_l": 2.0, "pot_width_m": 0.17}
    plants = [_dated(k + 1, "berries", x, y, **pot) for k, (x, y) in enumerate(berries)]
    plants += [_dated(k + 7, "beans", x, y, pot_volume_l=3.5, pot_width_m=0.19) for k, (x, y) in enumerate(beans)]
    return Space(
        id="berry-tent",
        name="Berry tent",
        kind="tent",
        size=Size(width_m=1.23, depth_m=0.97, height_m=1.86),
        faces=default_faces("tent"),
        openings=(
            Opening(id="port-1", face="left", u_m=0.48, v_m=1.68, diameter_m=0.15, use="exhaust"),
            Opening(id="port-2", face="right", u_m=0.48, v_m=0.16, diameter_m=0.2, use="intake"),
            Opening(id="port-3", face="back", u_m=0.2, v_m=0.1, diameter_m=0.05, use="cable"),
        ),
        room_id=room("Back room", day_c=21, night_c=17, day_rh_pct=48, night_rh_pct=54, floor_m2=19),
        plants=tuple(plants),
        fixtures=(
            _lamp(1, "board-150", 0.36, 0.48, 1.02, dim=0.62, hours=14.5),
            _lamp(2, "board-150", 0.87, 0.48, 1.02, dim=0.62, hours=14.5),
        ),
        air=Air(max_rh_pct=70, noise_wish_dba=46),
        airways=(
            Airway(
                id="exhaust",
                name="Exhaust",
                parts=(
                    strain("filter-100", loading=1.6),
                    fan("axial-100"),
                    duct(1, 0.1, 0.6),
                    port("port-1"),
                    bend(1, 0.1),
                    duct(2, 0.1, 2.2, slack=0.25),
                    bend(2, 0.1, 60),
                ),
            ),
        ),
        stirrers=(stirrer(1, "clip-150-swing", 0.08, 0.5, 1.1, yaw_deg=0, pitch_deg=-25, swings=True),),
        load_limit_kg=20,
        circuit_id="hall",
    )


def closet() -> Space:
    """Leaf for the kitchen under bars that hang too high."""
    size = Size(width_m=0.83, depth_m=0.52, height_m=1.94)
    known = {item.id for item in PLANTINGS}
    leaf = [
        ("tatsoi-1", 0.14, 0.13),
        ("tatsoi-2", 0.34, 0.13),
        ("tatsoi-1", 0.14, 0.38),
        ("tatsoi-2", 0.34, 0.38),
        ("chervil", 0.55, 0.13),
        ("chervil", 0.55, 0.38),
        ("land-cress", 0.74, 0.13),
        ("sorrel", 0.73, 0.39),
    ]
    return Space(
        id="hall-closet",
        name="Hall closet",
        kind="closet",
        size=size,
        faces=default_faces("closet"),
        openings=(
            Opening(id="port-1", face="ceiling", u_m=0.7, v_m=0.26, diameter_m=0.125, use="exhaust"),
            Opening(id="port-2", face="left", u_m=0.26, v_m=0.09, diameter_m=0.1, use="intake"),
        ),
        room_id=room("Hall", day_c=20, night_c=17, day_rh_pct=50, night_rh_pct=56),
        plants=tuple(
            _dated(k + 1, kind, x, y, base_m=0.42)
            if kind in known
            else _plant(k + 1, kind, "vegetative", x, y, base_m=0.42)
            for k, (kind, x, y) in enumerate(leaf)
        ),
        shelves=(Shelf(id="shelf-1", name="Board", z_m=0.42, width_m=0.83, depth_m=0.52, load_limit_kg=25),),
        fixtures=(
            _lamp(1, "bar-30", 0.42, 0.15, 1.52, hours=13),
            _lamp(2, "bar-30", 0.42, 0.37, 1.52, hours=13),
        ),
        air=Air(max_rh_pct=72),
        airways=(Airway(id="exhaust", name="Exhaust", parts=(fan("case-120"), port("port-1"))),),
        stirrers=(stirrer(1, "usb-140", 0.05, 0.26, 0.86, yaw_deg=0, pitch_deg=-22, speed=0.8),),
        circuit_id="hall",
    )


def sideboard() -> Space:
    """African violets and streptocarpus behind glass doors; good throughout."""
    faces = default_faces("cabinet").model_copy(update={"front": Surface(material_id="glass")})
    violets = [(0.16, 0.13), (0.42, 0.13), (0.68, 0.13)]
    streps = [(0.17, 0.33), (0.47, 0.33), (0.77, 0.33)]
    plants = [_plant(k + 1, "african-violet", "flower", x, y) for k, (x, y) in enumerate(violets)]
    plants += [_plant(k + 4, "streptocarpus", "vegetative", x, y) for k, (x, y) in enumerate(streps)]
    return Space(
        id="sideboard",
        name="Glass-door sideboard",
        kind="cabinet",
        size=Size(width_m=0.94, depth_m=0.46, height_m=0.67),
        faces=faces,
        openings=(
            Opening(id="port-1", face="back", u_m=0.12, v_m=0.08, diameter_m=0.05, use="intake"),
            Opening(id="port-2", face="back", u_m=0.82, v_m=0.6, diameter_m=0.06, use="exhaust"),
        ),
        room_id=room("Living room", day_c=21, night_c=19, day_rh_pct=46, night_rh_pct=50),
        plants=tuple(plants),
        fixtures=(_lamp(1, "bar-45", 0.47, 0.23, 0.62, dim=0.78, hours=12),),
        air=Air(exchange_minutes=30, max_rh_pct=75, rule="heat", door=by_hand(2, 15)),
        stirrers=(
            stirrer(
                1,
                "usb-80",
                0.05,
                0.42,
                0.56,
                yaw_deg=0,
                pitch_deg=10,
                speed=0.6,
                schedule=Cycle(on_min=15, every_min=60),
            ),
        ),
        circuit_id="living",
    )


def glass_case() -> Space:
    """Filmy ferns and miniature begonias together: one wants a third of the other's light."""
    size = Size(width_m=0.57, depth_m=0.39, height_m=0.44)
    begonia, fern = crops()["begonia-miniature"], crops()["filmy-fern"]
    ferns = arrange(Size(width_m=0.28, depth_m=0.39, height_m=0.44), fern, fern.stages[0], 4)
    begonias = [(0.36, 0.12), (0.48, 0.12), (0.36, 0.27), (0.48, 0.27)]
    plants = ferns + [_plant(k + 5, begonia.id, "vegetative", x, y) for k, (x, y) in enumerate(begonias)]
    return Space(
        id="fern-case",
        name="Fern case",
        kind="glass-case",
        size=size,
        faces=default_faces("glass-case"),
        room_id=room("Study", day_c=20, night_c=18, day_rh_pct=47, night_rh_pct=52),
        openings=(
            Opening(id="slit-1", face="front", shape="slit", u_m=0.285, v_m=0.06, width_m=0.4, height_m=0.004),
            Opening(
                id="slit-2", face="back", shape="slit", u_m=0.285, v_m=0.43, width_m=0.4, height_m=0.006, use="exhaust"
            ),
        ),
        plants=tuple(plants),
        fixtures=(_lamp(1, "strip-18", 0.285, 0.2, 0.42, dim=0.75, hours=11.5),),
        air=Air(exchange_minutes=60, max_rh_pct=95, rule="heat", door=by_hand(1, 15)),
        stirrers=(
            stirrer(
                1,
                "usb-80",
                0.04,
                0.34,
                0.38,
                yaw_deg=-30,
                pitch_deg=-35,
                speed=0.6,
                schedule=Cycle(on_min=10, every_min=60),
            ),
        ),
        devices=(
            Device(
                id="device-1",
                spec=DeviceSpec(name="Fogger", kind="humidifier", power_w=22, heats_space=0.2),
                schedule=Daily(hours=0.6),
            ),
        ),
        circuit_id="living",
    )


def household() -> Plan:
    """The made-up household of the demo."""
    spaces = (tent(), closet(), sideboard(), glass_case())
    plan = Plan(
        name="Larkspur Lane",
        key="larkspur-lane",
        date=DAY,
        plantings=PLANTINGS,
        site=Site(latitude_deg=50.0, currency="EUR"),
        rooms=tuple(_ROOMS[space.room_id] for space in spaces),
        serial=20,
        tariff=Tariff(price_per_kwh=0.31),
        circuits=(
            Circuit(
                id="hall",
                name="Hall and utility",
                rule_set_id="eu-16",
                mains_v=230,
                breaker_a=16,
                other_loads=(
                    HouseholdLoad(id="load-1", name="Freezer", power_w=110, schedule=Daily(hours=10)),
                    HouseholdLoad(
                        id="load-2", name="Tumble dryer", power_w=2150, schedule=Daily(hours=3), any_time=True
                    ),
                    HouseholdLoad(
                        id="load-3", name="Oil radiator", power_w=900, schedule=Daily(start="18:00", hours=4)
                    ),
                ),
            ),
            Circuit(
                id="living",
                name="Living room",
                rule_set_id="eu-16",
                mains_v=230,
                breaker_a=16,
                other_loads=(
                    HouseholdLoad(id="load-1", name="Television and router", power_w=140, schedule=Daily(hours=5)),
                ),
            ),
        ),
        spaces=spaces,
    )
    return from_data(plan.model_dump(mode="json"))


if __name__ == "__main__":
    target = Path(__file__).resolve().parent.parent / "examples" / "demo-household.json"
    target.parent.mkdir(exist_ok=True)
    target.write_text(dumps(household()), encoding="utf-8")
    print(f"wrote {target.name}")
