"""Write ten example plans to examples/: invented rooms and equipment, each a case of its own."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from air_parts import bend, duct, fan, fitting, port, stirrer, strain

from canopy.design.start.space import default_faces
from canopy.equipment import DeviceSpec
from canopy.library import containers, crops, fixtures
from canopy.plan import (
    USUAL_ROOM,
    Air,
    Airway,
    Ambient,
    Circuit,
    Daylight,
    Device,
    Feed,
    FeedPart,
    Fixture,
    Ground,
    Net,
    Opening,
    Plan,
    Plant,
    Planting,
    Room,
    Shelf,
    Size,
    Space,
    Surface,
    Tariff,
    dumps,
    from_data,
)
from canopy.plan.layout import Place, Rect, grid, on_wall
from canopy.schedule import Always, Cycle, Daily, by_hand
from canopy.season import container_values

HERE = Path(__file__).resolve().parent.parent / "examples"
OPEN = Surface(material_id="open")


_ROOMS: dict[str, Room] = {}


def room(name: str, **figures: Any) -> str:
    """A room of the household; gives its id."""
    key = name.lower().replace(" ", "-")
    _ROOMS[key] = Room(id=key, name=name, **figures)
    return key


def plants(
    places: Sequence[Place],
    crop_id: str,
    *,
    first: int = 1,
    stage: str = "",
    planting: str = "",
    box: str = "",
    base_m: float = 0.0,
    **more: Any,
) -> list[Plant]:
    """Plants of one crop in their places, as they stand or following a planting."""
    crop = crops()[crop_id]
    pot = container_values(containers()[box] if box else None, crop)
    want = crop.stage(stage) if stage else None
    size: dict[str, Any] = {"planting_id": planting}
    if want is not None:
        size = {"stage": stage, "height_m": want.height_m, "spread_m": want.spread_m}
    return [
        Plant(
            id=f"plant-{first + n}",
            crop_id=crop_id,
            x_m=p.x_m,
            y_m=p.y_m,
            base_m=round(base_m + p.base_m, 4),
            facing_deg=p.facing_deg,
            **{"habit": crop.habit, **pot, **size, **more},
        )
        for n, p in enumerate(places)
    ]


def lamp(number: int, class_id: str, x: float, y: float, z: float, hours: float = 14.0, **more: Any) -> Fixture:
    """A lamp of the library in its place."""
    schedule = Daily(start="06:00", hours=hours)
    return Fixture(id=f"lamp-{number}", spec=fixtures()[class_id].spec, x_m=x, y_m=y, z_m=z, schedule=schedule, **more)


def ground(x: float, y: float, width: float, depth: float) -> Rect:
    """A piece of ground."""
    return Rect(x_m=x, y_m=y, width_m=width, depth_m=depth)


def device(number: int, name: str, kind: Any, power_w: float, hours: float, heats: float = 1.0) -> Device:
    """A device on a plug."""
    spec = DeviceSpec(name=name, kind=kind, power_w=power_w, heats_space=heats)
    return Device(id=f"device-{number}", spec=spec, schedule=Always() if hours == 24 else Daily(hours=hours))


def plan(name: str, day: dt.date, spaces: Sequence[Space], plantings: Sequence[Planting] = ()) -> Plan:
    """A household with one circuit."""
    circuit = Circuit(id="circuit-1", name="Room circuit", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    wired = [space.model_copy(update={"circuit_id": "circuit-1"}) for space in spaces]
    keys = dict.fromkeys(space.room_id for space in spaces)
    made = Plan(
        name=name,
        serial=100,
        rooms=tuple(_ROOMS.get(key, USUAL_ROOM) for key in keys),
        date=day,
        tariff=Tariff(price_per_kwh=0.29),
        circuits=(circuit,),
        plantings=tuple(plantings),
        spaces=tuple(wired),
    )
    return from_data(made.model_dump(mode="json"))


def bookcase_bulbs() -> Plan:
    """Saffron and crocus forced in trays on the shelves of a cool bookcase."""
    size = Size(width_m=0.84, depth_m=0.31, height_m=1.83)
    faces = default_faces("cabinet").model_copy(update={"front": OPEN})
    shelves = [
        Shelf(id=f"shelf-{n}", name=f"Shelf {n}", z_m=z, width_m=0.84, depth_m=0.31, load_limit_kg=30)
        for n, z in ((1, 0.42), (2, 0.98))
    ]
    rows = grid(ground(0, 0, 0.84, 0.31), 14, columns=7)
    saffron = plants(rows, "saffron", planting="saffron", box="pot-9", base_m=0.42)
    crocus = plants(rows, "crocus-forced", first=15, planting="crocus", box="pot-9", base_m=0.98)
    lamps = (lamp(1, "bar-30", 0.42, 0.155, 0.86, hours=11), lamp(2, "bar-30", 0.42, 0.155, 1.36, dim=0.35, hours=10))
    space = Space(
        id="bookcase",
        name="Bookcase",
        kind="cabinet",
        size=size,
        faces=faces,
        door_side=None,
        shelves=tuple(shelves),
        room_id=room("Cool room", day_c=14, night_c=10, day_rh_pct=58, night_rh_pct=64),
        plants=tuple(saffron + crocus),
        fixtures=lamps,
        air=Air(exchange_minutes=10, rule="heat", max_rh_pct=80),
        stirrers=(
            stirrer(1, "usb-140", 0.05, 0.08, 0.74, yaw_deg=14, speed=0.6),
            stirrer(2, "usb-140", 0.05, 0.08, 1.24, yaw_deg=14, speed=0.6),
        ),
    )
    plantings = [
        Planting(id="saffron", name="Saffron", crop_id="saffron", starts_on=dt.date(2026, 9, 20)),
        Planting(id="crocus", name="Crocus", crop_id="crocus-forced", starts_on=dt.date(2027, 1, 4)),
    ]
    return plan("Bookcase of bulbs", dt.date(2027, 1, 16), [space], plantings)


def alcove_bulb() -> Plan:
    """Sorrel, chervil and land cress in an alcove under one screw-in bulb."""
    faces = default_faces("closet").model_copy(update={"front": OPEN})
    row = grid(ground(0, 0, 0.66, 0.38), 6, columns=3)
    kinds = ("sorrel", "chervil", "land-cress") * 2
    leaf = [
        plants([place], kind, first=n + 1, stage="vegetative", box="pot-13")[0]
        for n, (place, kind) in enumerate(zip(row, kinds, strict=True))
    ]
    space = Space(
        id="alcove",
        name="Alcove",
        kind="closet",
        size=Size(width_m=0.66, depth_m=0.38, height_m=0.92),
        faces=faces,
        door_side=None,
        room_id=room("Alcove room", day_c=18, night_c=15),
        plants=tuple(leaf),
        fixtures=(lamp(1, "bulb-24", 0.33, 0.19, 0.66, hours=14),),
        air=Air(exchange_minutes=10, rule="heat"),
        stirrers=(stirrer(1, "usb-140", 0.06, 0.08, 0.46, yaw_deg=24, pitch_deg=-12, speed=0.6),),
    )
    return plan("Alcove under one bulb", dt.date(2026, 2, 3), [space])


def pocket_wall() -> Plan:
    """Alpine strawberries in wall pockets, lit from the side."""
    size = Size(width_m=1.06, depth_m=0.58, height_m=1.72)
    places = on_wall("back", (size.width_m, size.depth_m, size.height_m), 20, columns=5, low_m=0.12, high_m=1.62)
    berries = plants(places, "strawberry-alpine", stage="fruit", box="pocket-2", habit="outward")
    lamps = tuple(lamp(n + 1, "bar-45", 0.53, 0.06, z, tilt_deg=90, hours=14) for n, z in enumerate((0.34, 0.86, 1.38)))
    space = Space(
        id="pockets",
        name="Wall of pockets",
        kind="closet",
        size=size,
        faces=default_faces("closet"),
        room_id=room("Hallway", day_c=19, night_c=13),
        plants=tuple(berries),
        fixtures=lamps,
        load_limit_kg=60,
        openings=(
            Opening(id="port-1", face="ceiling", u_m=0.9, v_m=0.3, diameter_m=0.12, use="exhaust"),
            Opening(id="port-2", face="front", shape="slit", u_m=0.53, v_m=0.04, width_m=0.9, height_m=0.03),
        ),
        air=Air(max_rh_pct=78),
        airways=(Airway(id="exhaust", name="Exhaust", parts=(fan("case-120", speed=0.6), port("port-1"))),),
        stirrers=(stirrer(1, "tower-slim", 0.1, 0.16, 0.9, yaw_deg=40, speed=0.6, swings=True),),
    )
    return plan("Wall of alpine strawberries", dt.date(2026, 4, 10), [space])


def winter_guests() -> Plan:
    """A calamondin from the balcony beside autumn-sown onions: very unequal heights, out again in spring."""
    size = Size(width_m=1.08, depth_m=0.74, height_m=1.98)
    tree = plants([Place(x_m=0.36, y_m=0.38)], "calamondin", planting="tree", box="pot-30")
    onions = plants(
        grid(ground(0.68, 0.06, 0.36, 0.62), 24, columns=4),
        "onion-seedlings",
        first=2,
        planting="onions",
        box="pot-6",
        base_m=0.72,
    )
    shelf = Shelf(id="shelf-1", name="Stand", x_m=0.66, y_m=0.0, z_m=0.72, width_m=0.42, depth_m=0.74, kind="wire")
    window = Daylight(
        id="window-1",
        face="front",
        u_m=0.54,
        v_m=1.1,
        width_m=0.9,
        height_m=1.2,
        hours=9,
        by_month=(0.8, 1.6, 3.0, 4.6, 6.0, 6.8, 6.6, 5.4, 3.6, 2.0, 1.0, 0.6),
    )
    space = Space(
        id="winter-closet",
        name="Landing closet",
        kind="closet",
        size=size,
        faces=default_faces("closet"),
        room_id=room("Landing", day_c=15, night_c=12, day_rh_pct=55, night_rh_pct=60),
        plants=tuple(tree + onions),
        shelves=(shelf,),
        daylight=(window,),
        fixtures=(lamp(1, "board-150", 0.46, 0.37, 1.62, hours=12),),
        openings=(
            Opening(id="port-1", face="left", u_m=0.37, v_m=1.86, diameter_m=0.12, use="exhaust"),
            Opening(id="port-2", face="right", u_m=0.37, v_m=0.12, diameter_m=0.12, use="intake"),
        ),
        air=Air(exchange_minutes=5, rule="heat", rise_k=7, max_rh_pct=75, door=by_hand(2, 10)),
        stirrers=(
            stirrer(
                1,
                "clip-150-swing",
                0.07,
                0.1,
                1.3,
                yaw_deg=20,
                pitch_deg=-25,
                speed=0.6,
                swings=True,
                schedule=Cycle(on_min=15, every_min=30),
            ),
        ),
    )
    plantings = [
        Planting(
            id="tree", name="Calamondin", crop_id="calamondin", starts_on=dt.date(2025, 10, 25), first_stage="rest"
        ),
        Planting(
            id="onions",
            name="Onions",
            crop_id="onion-seedlings",
            starts_on=dt.date(2026, 1, 8),
            cleared_on=dt.date(2026, 4, 12),
        ),
    ]
    return plan("Winter guests", dt.date(2026, 2, 20), [space], plantings)


def wardrobe_climbers() -> Plan:
    """Passionflower and vanilla on poles in a glass-door wardrobe."""
    faces = default_faces("cabinet").model_copy(update={"front": Surface(material_id="glass")})
    climbers = plants([Place(x_m=0.24, y_m=0.3)], "passionflower", stage="flower", box="pot-24", habit="pole")
    climbers += plants([Place(x_m=0.84, y_m=0.2)], "vanilla", first=2, stage="vegetative", box="pot-19", habit="pole")
    lamps = (
        lamp(1, "board-100", 0.3, 0.28, 1.84, dim=0.85, hours=13),
        lamp(2, "bar-45", 0.48, 0.05, 1.0, tilt_deg=90, hours=13),
    )
    space = Space(
        id="wardrobe",
        name="Glass-door wardrobe",
        kind="cabinet",
        size=Size(width_m=0.96, depth_m=0.57, height_m=2.04),
        faces=faces,
        room_id=room("Bedroom", day_c=22, night_c=18, day_rh_pct=50),
        plants=tuple(climbers),
        fixtures=lamps,
        openings=(
            Opening(id="port-1", face="back", u_m=0.12, v_m=0.08, diameter_m=0.1, use="intake"),
            Opening(id="port-2", face="back", u_m=0.84, v_m=1.96, diameter_m=0.08, use="exhaust"),
        ),
        air=Air(exchange_minutes=30, rule="heat", rise_k=4.5, max_rh_pct=80),
        airways=(
            Airway(id="exhaust", name="Exhaust", parts=(fan("case-80"), port("port-2"), fitting(1, "light-trap-80"))),
        ),
        stirrers=(stirrer(1, "usb-140", 0.06, 0.5, 1.5, yaw_deg=-30, pitch_deg=-20),),
        devices=(device(1, "Small humidifier", "humidifier", 18, 6, 0.2),),
    )
    return plan("Climbers in a wardrobe", dt.date(2026, 5, 2), [space])


def two_cases() -> Plan:
    """A tall and a low glass case with begonias, filmy fern and sundews."""
    tall_size, low_size = (
        Size(width_m=0.46, depth_m=0.44, height_m=0.62),
        Size(width_m=0.63, depth_m=0.34, height_m=0.36),
    )
    begonias = plants(
        grid(ground(0.02, 0.02, 0.42, 0.2), 3), "begonia-miniature", stage="vegetative", box="pot-6", base_m=0.16
    )
    ferns = plants(grid(ground(0.02, 0.24, 0.42, 0.18), 3), "filmy-fern", first=4, stage="vegetative", box="pot-6")
    sundews = plants(grid(ground(0, 0, 0.63, 0.34), 8), "sundew", stage="vegetative", box="pot-9")
    tall = Space(
        id="tall-case",
        name="Tall case",
        kind="glass-case",
        size=tall_size,
        faces=default_faces("glass-case"),
        room_id=room("Sitting room", day_c=20, night_c=17, day_rh_pct=50),
        plants=tuple(begonias + ferns),
        fixtures=(lamp(1, "strip-10", 0.23, 0.12, 0.59, dim=0.8, hours=12),),
        air=Air(exchange_minutes=60, rule="heat", max_rh_pct=95, door=by_hand(1, 10)),
        stirrers=(
            stirrer(
                1,
                "usb-80",
                0.05,
                0.4,
                0.54,
                yaw_deg=-40,
                pitch_deg=-30,
                speed=0.6,
                schedule=Cycle(on_min=10, every_min=60),
            ),
        ),
        openings=(
            Opening(id="slit-1", face="front", shape="slit", u_m=0.23, v_m=0.08, width_m=0.34, height_m=0.003),
            Opening(
                id="slit-2",
                face="ceiling",
                shape="mesh",
                u_m=0.23,
                v_m=0.38,
                width_m=0.3,
                height_m=0.02,
                clear_share=0.5,
                use="exhaust",
            ),
        ),
        devices=(device(1, "Fogger", "humidifier", 20, 0.5, 0.2),),
    )
    low = Space(
        id="low-case",
        name="Low case",
        kind="glass-case",
        size=low_size,
        faces=default_faces("glass-case").model_copy(update={"ceiling": OPEN}),
        room_id=room("Window bay", day_c=20, night_c=15, day_rh_pct=50),
        plants=tuple(sundews),
        fixtures=(lamp(1, "strip-18", 0.315, 0.17, 0.33, hours=14),),
        air=Air(exchange_minutes=30, rule="heat", max_rh_pct=90),
        stirrers=(
            stirrer(1, "usb-80", 0.05, 0.17, 0.28, pitch_deg=-30, speed=0.6, schedule=Cycle(on_min=10, every_min=30)),
        ),
    )
    return plan("Two glass cases", dt.date(2026, 3, 1), [tall, low])


def spare_lamp_stones() -> Plan:
    """Living stones and haworthias under a spare lamp."""
    stones = plants(
        grid(ground(0.04, 0.03, 0.36, 0.24), 12, columns=4), "living-stones", stage="vegetative", box="pot-6"
    )
    haworthias = plants(
        grid(ground(0.42, 0.03, 0.32, 0.24), 6, columns=3), "haworthia", first=13, stage="vegetative", box="pot-9"
    )
    space = Space(
        id="sill",
        name="Board by the desk",
        kind="shelf",
        size=Size(width_m=0.78, depth_m=0.3, height_m=0.48),
        faces=default_faces("shelf"),
        door_side=None,
        room_id=room("Desk room", day_c=21, night_c=16, day_rh_pct=42, night_rh_pct=45),
        plants=tuple(stones + haworthias),
        fixtures=(lamp(1, "bar-30", 0.39, 0.14, 0.38, hours=12),),
        air=Air(exchange_minutes=10, rule="heat", max_rh_pct=60),
        feed=Feed(mix_id="grit-mix"),
        stirrers=(stirrer(1, "usb-80", 0.04, 0.26, 0.28, yaw_deg=-15, pitch_deg=-5, speed=0.6),),
    )
    return plan("Stones under a spare lamp", dt.date(2026, 6, 14), [space])


def _drying_nook() -> Space:
    """The tight cupboard beside the basement tent that dries what the loop brings."""
    return Space(
        id="nook",
        name="Drying nook",
        kind="cabinet",
        size=Size(width_m=0.58, depth_m=0.62, height_m=1.2),
        faces=default_faces("cabinet"),
        room_id=room("Basement", floor="concrete", day_c=17, night_c=14, day_rh_pct=58, night_rh_pct=62),
        openings=(
            Opening(id="port-1", face="right", u_m=0.3, v_m=1.08, diameter_m=0.125, use="intake"),
            Opening(id="port-2", face="right", u_m=0.3, v_m=0.2, diameter_m=0.15, use="exhaust"),
        ),
        air=Air(exchange_minutes=60, rule="heat", max_rh_pct=70),
        devices=(device(1, "Dehumidifier, 10 L a day", "dehumidifier", 190, 9),),
    )


def basement_rhizomes() -> Plan:
    """Ginger and turmeric in tubs on a cold basement floor, in a closed loop through a drying nook, purged ten
    minutes an hour.
    """
    ginger = plants([Place(x_m=0.32, y_m=0.34), Place(x_m=0.32, y_m=0.9)], "ginger", planting="ginger", box="pot-30")
    turmeric = plants(
        [Place(x_m=0.9, y_m=0.34), Place(x_m=0.9, y_m=0.9)], "turmeric", first=3, planting="turmeric", box="tub-36"
    )
    space = Space(
        id="basement",
        name="Basement tent",
        kind="tent",
        size=Size(width_m=1.22, depth_m=1.24, height_m=1.88),
        faces=default_faces("tent"),
        room_id=room("Basement", floor="concrete", day_c=17, night_c=14, day_rh_pct=58, night_rh_pct=62),
        ground=Ground(below_c=11, insulation_m=0.02, lip_m=0.03),
        plants=tuple(ginger + turmeric),
        fixtures=(lamp(1, "board-240", 0.61, 0.62, 1.62, dim=0.75, hours=13),),
        openings=(
            Opening(id="port-1", face="left", u_m=0.6, v_m=1.8, diameter_m=0.125, use="exhaust"),
            Opening(id="port-2", face="left", u_m=0.6, v_m=0.2, diameter_m=0.15, use="intake"),
            Opening(id="port-3", face="right", u_m=0.6, v_m=1.74, diameter_m=0.1, use="exhaust"),
            Opening(
                id="mesh-1", face="right", shape="mesh", u_m=0.6, v_m=0.2, width_m=0.2, height_m=0.1, clear_share=0.55
            ),
        ),
        air=Air(max_rh_pct=80, hung=False),
        airways=(
            Airway(
                id="loop-out",
                name="Loop, out",
                ends="space",
                space_id="nook",
                far_opening_id="port-1",
                parts=(
                    fan("inline-125-ec", speed=0.6),
                    duct(1, 0.125, 0.4),
                    port("port-1"),
                    bend(1, 0.125),
                    duct(2, 0.125, 1.1),
                ),
            ),
            Airway(
                id="loop-back",
                name="Loop, back",
                way="in",
                ends="space",
                space_id="nook",
                far_opening_id="port-2",
                away=Ambient(day_c=22, day_rh_pct=45, night_c=19, night_rh_pct=50),
                parts=(duct(3, 0.15, 0.8), port("port-2")),
            ),
            Airway(
                id="purge",
                name="Purge",
                parts=(fan("axial-100", id="purge-fan"), port("port-3")),
                schedule=Cycle(on_min=10, every_min=60),
            ),
        ),
        stirrers=(stirrer(1, "clip-200-swing", 0.08, 0.62, 1.2, pitch_deg=-20, speed=0.6, swings=True),),
        devices=(device(1, "Heat mat under the tubs", "mat", 60, 16), device(2, "Tube heater", "heater", 135, 10)),
        load_limit_kg=25,
        feed=Feed(mix_id="coir"),
    )
    plantings = [
        Planting(id="ginger", name="Ginger", crop_id="ginger", starts_on=dt.date(2026, 2, 1)),
        Planting(id="turmeric", name="Turmeric", crop_id="turmeric", starts_on=dt.date(2026, 2, 1)),
    ]
    return plan("Rhizomes in the basement", dt.date(2026, 6, 1), [space, _drying_nook()], plantings)


def buckets_net() -> Plan:
    """Okra and edamame in solution buckets under a discharge lamp and a net."""
    okra = plants([Place(x_m=0.3, y_m=0.3), Place(x_m=0.3, y_m=0.86)], "okra", planting="okra", box="bucket-18")
    beans = plants(grid(ground(0.62, 0.08, 0.58, 1.0), 4), "edamame", first=3, planting="edamame", box="bucket-12")
    parts = (
        FeedPart(id="part-1", name="Base", ec_ms_cm_per_ml_l=0.42, share=2),
        FeedPart(id="part-2", name="Calcium and magnesium", ec_ms_cm_per_ml_l=0.31, share=1),
    )
    space = Space(
        id="bucket-tent",
        name="Bucket tent",
        kind="tent",
        size=Size(width_m=1.26, depth_m=1.16, height_m=2.12),
        faces=default_faces("tent"),
        room_id=room("Spare room", day_c=21, night_c=18),
        net=Net(z_m=1.0, weight_kg=0.5),
        plants=tuple(okra + beans),
        fixtures=(lamp(1, "hps-400", 0.63, 0.58, 1.74, hours=12),),
        ground=Ground(lip_m=0.11),
        openings=(
            Opening(id="port-1", face="left", u_m=0.25, v_m=1.96, diameter_m=0.15, use="exhaust"),
            Opening(id="port-2", face="right", u_m=0.58, v_m=0.18, diameter_m=0.2, use="intake"),
            Opening(
                id="mesh-1", face="back", shape="mesh", u_m=0.63, v_m=0.16, width_m=0.4, height_m=0.12, clear_share=0.58
            ),
        ),
        air=Air(max_rh_pct=70, noise_wish_dba=55),
        airways=(
            Airway(
                id="exhaust",
                name="Exhaust",
                parts=(
                    strain("filter-150"),
                    fan("inline-150"),
                    duct(1, 0.15, 0.5, slack=0.04),
                    port("port-1"),
                    bend(1, 0.15),
                    duct(2, 0.15, 1.8),
                    fitting(1, "damper-150"),
                ),
            ),
        ),
        stirrers=(stirrer(1, "clip-200-swing", 0.08, 0.58, 1.4, pitch_deg=-25, swings=True),),
        devices=(device(1, "Air pump", "pump", 8, 24, 0.5),),
        load_limit_kg=40,
        feed=Feed(way="solution", water_ec_ms_cm=0.45, reservoir_l=40, change_days=10, top_up_share=0.5, parts=parts),
    )
    plantings = [
        Planting(id="okra", name="Okra", crop_id="okra", starts_on=dt.date(2026, 3, 2)),
        Planting(id="edamame", name="Edamame", crop_id="edamame", starts_on=dt.date(2026, 3, 16)),
    ]
    return plan("Buckets under a net", dt.date(2026, 5, 4), [space], plantings)


def propagation_box() -> Plan:
    """Fuchsia and pelargonium cuttings in a propagation box with mat and fogger."""
    left = plants(grid(ground(0.02, 0.02, 0.3, 0.34), 12, columns=3), "soft-cuttings", planting="fuchsia", box="pot-6")
    right = plants(
        grid(ground(0.34, 0.02, 0.3, 0.34), 12, columns=3), "pelargonium", first=13, planting="pelargonium", box="pot-6"
    )
    space = Space(
        id="box",
        name="Propagation box",
        kind="glass-case",
        size=Size(width_m=0.66, depth_m=0.38, height_m=0.36),
        faces=default_faces("glass-case").model_copy(update={"floor": Surface(material_id="white-plastic")}),
        room_id=room("Utility room", day_c=18, night_c=15, day_rh_pct=50),
        plants=tuple(left + right),
        fixtures=(lamp(1, "strip-18", 0.33, 0.19, 0.34, dim=0.8, hours=14),),
        air=Air(exchange_minutes=60, rule="heat", rise_k=8, max_rh_pct=92, door=by_hand(2, 10)),
        stirrers=(
            stirrer(1, "usb-80", 0.05, 0.19, 0.28, pitch_deg=-20, speed=0.6, schedule=Cycle(on_min=15, every_min=60)),
        ),
        openings=(
            Opening(
                id="slide-1", face="left", shape="slit", u_m=0.19, v_m=0.3, width_m=0.06, height_m=0.02, use="exhaust"
            ),
            Opening(id="slide-2", face="right", shape="slit", u_m=0.19, v_m=0.05, width_m=0.06, height_m=0.02),
        ),
        devices=(device(1, "Heat mat", "mat", 22, 18), device(2, "Fogger", "humidifier", 22, 0.7, 0.2)),
        ground=Ground(stands_on="shelf", below_c=16),
    )
    plantings = [
        Planting(id="fuchsia", name="Fuchsia cuttings", crop_id="soft-cuttings", starts_on=dt.date(2026, 3, 1)),
        Planting(id="pelargonium", name="Pelargonium cuttings", crop_id="pelargonium", starts_on=dt.date(2026, 3, 1)),
    ]
    return plan("Propagation box", dt.date(2026, 3, 12), [space], plantings)


EXAMPLES = {
    "bookcase-bulbs": bookcase_bulbs,
    "alcove-one-bulb": alcove_bulb,
    "pocket-wall": pocket_wall,
    "winter-guests": winter_guests,
    "wardrobe-climbers": wardrobe_climbers,
    "two-glass-cases": two_cases,
    "spare-lamp-stones": spare_lamp_stones,
    "basement-rhizomes": basement_rhizomes,
    "buckets-and-net": buckets_net,
    "propagation-box": propagation_box,
}

if __name__ == "__main__":
    HERE.mkdir(exist_ok=True)
    for name, make in EXAMPLES.items():
        (HERE / f"{name}.json").write_text(dumps(make()), encoding="utf-8")
        print(f"wrote {name}.json")
