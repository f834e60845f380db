"""Write nine hard cases to examples/practices/: invented spaces that try every station."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

from air_parts import bend, duct, fan, port, strain
from make_examples import device, ground, lamp, plan, plants, room

from canopy.design.start.space import default_faces
from canopy.plan import (
    Air,
    Airway,
    Column,
    Opening,
    Plan,
    Shelf,
    Size,
    Space,
    Trellis,
    dumps,
)
from canopy.plan.document import Cover
from canopy.plan.layout import Place, grid, round_column
from canopy.schedule import Cycle, by_hand

HERE = Path(__file__).resolve().parent.parent / "examples" / "practices"
DAY = dt.date(2026, 11, 2)


def _holes(*ports: tuple[str, str, float, float, float, str]) -> tuple[Opening, ...]:
    """Round openings: id, face, place across and up, diameter, use."""
    return tuple(
        Opening.model_validate({"id": key, "face": face, "u_m": u, "v_m": v, "diameter_m": d, "use": use})
        for key, face, u, v, d, use in ports
    )


def _filtered(speed: float, duct_m: float) -> Airway:
    """An exhaust of 150 mm through a carbon filter and the first port."""
    parts = (strain("filter-150"), fan("inline-150-ec", speed=speed), duct(1, 0.15, duct_m), port("port-1"))
    return Airway(id="exhaust", name="Exhaust", parts=parts)


def two_vines() -> Plan:
    """Two vines one behind the other under a sodium lamp: the second stands in the shade of the first."""
    vines = [
        *plants([Place(x_m=0.5, y_m=0.3)], "passionflower", stage="flower", box="pot-24"),
        *plants([Place(x_m=0.5, y_m=0.75)], "passionflower", first=2, stage="vegetative", box="pot-24"),
    ]
    vines[0] = vines[0].model_copy(update={"height_m": 1.05, "spread_m": 0.5})
    vines[1] = vines[1].model_copy(update={"height_m": 0.55, "spread_m": 0.45})
    space = Space(
        id="vines",
        name="Two vines",
        kind="tent",
        size=Size(width_m=1.0, depth_m=1.0, height_m=2.1),
        faces=default_faces("tent"),
        plants=tuple(vines),
        fixtures=(lamp(1, "hps-400", 0.5, 0.42, 1.86, hours=15),),
        openings=_holes(("port-1", "left", 0.5, 1.9, 0.15, "exhaust"), ("port-2", "right", 0.5, 0.2, 0.15, "intake")),
        airways=(_filtered(speed=0.7, duct_m=1.2),),
    )
    return plan("Two vines, one behind the other", DAY, [space])


def fruiting_column() -> Plan:
    """Strawberries round a column in a white tent, with bars upright on all four sides."""
    column = Column(id="column", name="Column", x_m=0.6, y_m=0.6, z_m=0.2, height_m=1.4, diameter_m=0.2)
    places = round_column(column, 24, 4)
    berries = plants(places, "strawberry-day-neutral", stage="fruit", box="pocket-2", habit="outward")
    bars = [
        lamp(n, "bar-60-fruit", x, y, 0.9, hours=13, pitch_deg=90, yaw_deg=yaw, dim=0.7)
        for n, (x, y, yaw) in enumerate(((0.06, 0.6, 0), (1.14, 0.6, 180), (0.6, 0.06, 90), (0.6, 1.14, 270)), start=1)
    ]
    space = Space(
        id="column-tent",
        name="Column of berries",
        kind="tent",
        size=Size(width_m=1.2, depth_m=1.2, height_m=2.0),
        faces=default_faces("tent"),
        columns=(column,),
        plants=tuple(berries),
        fixtures=tuple(bars),
        openings=_holes(("port-1", "left", 0.3, 1.85, 0.125, "exhaust"), ("port-2", "right", 0.9, 0.2, 0.15, "intake")),
        airways=(
            Airway(
                id="exhaust",
                name="Exhaust",
                parts=(fan("inline-125-ec", speed=0.5), duct(1, 0.125, 0.8), bend(1, 0.125), port("port-1")),
            ),
        ),
    )
    return plan("A fruiting column", DAY, [space])


def stretched_rack() -> Plan:
    """Seedlings on three levels of a rack whose bars are shorter than the shelves: the ends stretch."""
    levels = (0.28, 0.76, 1.24)
    shelves = [
        Shelf(id=f"shelf-{n}", name=f"Level {n}", z_m=z, width_m=1.3, depth_m=0.5, load_limit_kg=45, kind="wire")
        for n, z in enumerate(levels, start=1)
    ]
    young, lamps = [], []
    for n, z in enumerate(levels):
        crop = ("kale", "lettuce-butterhead", "pak-choi")[n]
        where = grid(ground(0, 0, 1.3, 0.5), 18, columns=6)
        young += plants(where, crop, first=1 + 18 * n, stage="seedling", box="pot-9", base_m=z)
        lamps += [lamp(1 + 2 * n + k, "bar-45", 0.65, y, z + 0.4, hours=16) for k, y in enumerate((0.16, 0.34))]
    space = Space(
        id="rack",
        name="Rack",
        kind="shelf",
        size=Size(width_m=1.3, depth_m=0.5, height_m=1.8),
        faces=default_faces("shelf"),
        shelves=tuple(shelves),
        plants=tuple(young),
        fixtures=tuple(lamps),
    )
    return plan("A rack whose ends stretch", DAY, [space])


def trellis_behind_peppers() -> Plan:
    """Cucumbers on a trellis behind peppers under a hooded lamp, air pushed in through a filter; in feet and inches."""
    foot = 0.3048
    wide = 5 * foot
    front = plants(grid(ground(0, 0.1, wide, 0.6), 6, columns=3), "pepper", stage="fruit", box="bag-20")
    back = plants(
        grid(ground(0, 1.2, wide, 0.2), 3, columns=3), "cucumber-compact", first=7, stage="fruit", box="bag-12"
    )
    back = [vine.model_copy(update={"habit": "wall", "height_m": 1.5}) for vine in back]
    space = Space(
        id="trellis",
        name="Peppers and cucumbers",
        kind="tent",
        size=Size(width_m=wide, depth_m=5 * foot, height_m=6.5 * foot),
        faces=default_faces("tent"),
        trellises=(Trellis(id="trellis-1", name="Trellis", x_m=wide / 2, y_m=1.4, width_m=1.3, height_m=1.8),),
        plants=tuple(front + back),
        fixtures=(lamp(1, "hps-400-hood", wide / 2, 0.75, 1.75, hours=15),),
        openings=_holes(("port-1", "left", 0.7, 0.3, 0.2, "intake"), ("port-2", "right", 0.7, 1.8, 0.2, "exhaust")),
        airways=(
            Airway(
                id="push",
                name="Pushed in",
                way="in",
                parts=(strain("filter-200"), fan("inline-200-ec"), duct(1, 0.2, 1.0), port("port-1")),
            ),
        ),
    )
    return plan("Cucumbers behind peppers", DAY, [space])


def half_covered_case() -> Plan:
    """Orchids in a glass case under a tube half of which is covered, aired by a slit and two small fans."""
    low = plants(grid(ground(0.05, 0.05, 0.8, 0.35), 6, columns=3), "jewel-orchid", stage="vegetative", box="pot-9")
    space = Space(
        id="case",
        name="Glass case",
        kind="glass-case",
        size=Size(width_m=0.9, depth_m=0.45, height_m=0.6),
        faces=default_faces("glass-case"),
        plants=tuple(low),
        fixtures=(
            lamp(1, "t5-4x24", 0.45, 0.225, 0.52, hours=11, cover=Cover(share=0.5, where="start"), dim=1.0),
            lamp(2, "strip-10", 0.45, 0.1, 0.57, hours=11),
        ),
        openings=(
            Opening(id="slit", face="back", shape="slit", u_m=0.45, v_m=0.55, width_m=0.6, height_m=0.01),
            *_holes(("port-1", "left", 0.22, 0.5, 0.08, "exhaust"), ("port-2", "right", 0.22, 0.1, 0.08, "intake")),
        ),
        airways=(
            Airway(
                id="out", name="Out", parts=(fan("case-80"), port("port-1")), schedule=Cycle(on_min=10, every_min=60)
            ),
            Airway(id="in", name="In", way="in", parts=(fan("case-80"), port("port-2"))),
        ),
        air=Air(max_rh_pct=90, hung=False),
    )
    return plan("A glass case, half shaded", DAY, [space])


def tubs_of_potatoes() -> Plan:
    """Potatoes in six tubs in a cool closet."""
    tubs = plants(grid(ground(0, 0, 1.5, 0.9), 6, columns=3), "potato", stage="tuber", box="tub-36")
    space = Space(
        id="potatoes",
        name="Potatoes",
        kind="closet",
        size=Size(width_m=1.5, depth_m=0.9, height_m=2.2),
        faces=default_faces("closet"),
        room_id=room("Larder", day_c=15, night_c=12),
        plants=tuple(tubs),
        fixtures=(lamp(1, "board-240", 0.45, 0.45, 1.7, hours=12), lamp(2, "board-240", 1.05, 0.45, 1.7, hours=12)),
    )
    return plan("Potatoes in tubs", DAY, [space])


def linked_tents() -> Plan:
    """Two tents in a loop: warm air of the large one goes through the nursery and back; an hourly purge."""
    big = Space(
        id="large",
        name="Large tent",
        kind="tent",
        size=Size(width_m=1.2, depth_m=1.2, height_m=2.0),
        faces=default_faces("tent"),
        plants=tuple(
            plants(grid(ground(0, 0, 1.2, 1.2), 6, columns=3), "basil-sweet", stage="vegetative", box="pot-19")
        ),
        fixtures=(lamp(1, "rig-4-bar-260", 0.6, 0.6, 1.3, hours=16, dim=0.8),),
        openings=_holes(
            ("port-1", "right", 0.6, 1.8, 0.125, "exhaust"),
            ("port-2", "right", 0.6, 0.3, 0.125, "intake"),
            ("port-3", "left", 0.6, 1.8, 0.125, "exhaust"),
            ("port-4", "left", 0.6, 0.2, 0.15, "intake"),
        ),
        airways=(
            Airway(
                id="loop-out",
                name="Loop, out",
                ends="space",
                space_id="nursery",
                far_opening_id="port-1",
                parts=(fan("inline-125-ec", speed=0.5), duct(1, 0.125, 1.2), port("port-1")),
            ),
            Airway(
                id="loop-back",
                name="Loop, back",
                way="in",
                ends="space",
                space_id="nursery",
                far_opening_id="port-2",
                parts=(duct(2, 0.125, 1.4), bend(1, 0.125), port("port-2")),
            ),
            Airway(
                id="purge",
                name="Purge",
                parts=(fan("axial-100", id="purge-fan"), port("port-3")),
                schedule=Cycle(on_min=10, every_min=60),
            ),
        ),
    )
    nursery = Space(
        id="nursery",
        name="Nursery",
        kind="tent",
        size=Size(width_m=0.8, depth_m=0.8, height_m=1.6),
        faces=default_faces("tent"),
        plants=tuple(plants(grid(ground(0, 0, 0.8, 0.8), 16, columns=4), "parsley", stage="seedling", box="pot-9")),
        fixtures=(lamp(1, "board-100", 0.4, 0.4, 0.9, hours=16, dim=0.5),),
        openings=_holes(("port-1", "left", 0.4, 1.4, 0.125, "intake"), ("port-2", "left", 0.4, 0.3, 0.125, "exhaust")),
        devices=(device(1, "Heat mat", "mat", 30, 12),),
    )
    return plan("Two tents in a loop", DAY, [big, nursery])


def display_cabinet() -> Plan:
    """Miniatures on glass shelves in a display cabinet: a bulb on top, linked strips below, doors open by day."""
    heights = (0.5, 0.95, 1.4)
    shelves = [
        Shelf(id=f"shelf-{n}", name=f"Glass {n}", z_m=z, width_m=0.78, depth_m=0.36, thickness_m=0.006, kind="glass")
        for n, z in enumerate(heights, start=1)
    ]
    low = []
    for n, (crop, z) in enumerate(zip(("african-violet", "begonia-miniature", "peperomia"), heights, strict=True)):
        low += plants(
            grid(ground(0, 0, 0.78, 0.36), 5, columns=5),
            crop,
            first=1 + 5 * n,
            stage="vegetative",
            box="pot-9",
            base_m=z,
        )
    strips = [
        lamp(2 + n, "strip-18", 0.39, 0.18, z - 0.06, hours=12, chain="strips") for n, z in enumerate(heights[1:])
    ]
    space = Space(
        id="cabinet",
        name="Display cabinet",
        kind="cabinet",
        size=Size(width_m=0.78, depth_m=0.36, height_m=1.85),
        faces=default_faces("cabinet").model_copy(
            update={side: default_faces("glass-case").left for side in ("left", "right", "front")}
        ),
        shelves=tuple(shelves),
        plants=tuple(low),
        fixtures=(lamp(1, "bulb-24", 0.39, 0.18, 1.7, hours=12), *strips),
        air=Air(door=by_hand(2, 240)),
    )
    return plan("A display cabinet", DAY, [space])


def platform_climbers() -> Plan:
    """Tall climbers on a platform in a tall tent, tips near the lamp."""
    vines = plants(
        grid(ground(0.1, 0.2, 1.0, 0.7), 4, columns=2), "tomato-dwarf", stage="fruit", box="bucket-18", base_m=0.35
    )
    vines = [vine.model_copy(update={"habit": "pole", "height_m": 1.1 + 0.12 * n}) for n, vine in enumerate(vines)]
    space = Space(
        id="tall",
        name="Tall tent",
        kind="tent",
        size=Size(width_m=1.2, depth_m=1.2, height_m=2.4),
        faces=default_faces("tent"),
        plants=tuple(vines),
        fixtures=(lamp(1, "rig-6-bar-480", 0.6, 0.6, 2.25, hours=16, dim=0.9),),
        openings=_holes(("port-1", "back", 0.6, 2.2, 0.15, "exhaust"), ("port-2", "front", 0.6, 0.2, 0.2, "intake")),
        airways=(_filtered(speed=0.8, duct_m=1.5),),
    )
    return plan("Climbers on a platform", DAY, [space])


PRACTICES = {
    "two-vines": two_vines,
    "fruiting-column": fruiting_column,
    "stretched-rack": stretched_rack,
    "trellis-behind-peppers": trellis_behind_peppers,
    "half-covered-case": half_covered_case,
    "tubs-of-potatoes": tubs_of_potatoes,
    "linked-tents": linked_tents,
    "display-cabinet": display_cabinet,
    "platform-climbers": platform_climbers,
}


if __name__ == "__main__":
    HERE.mkdir(exist_ok=True)
    for name, make in PRACTICES.items():
        (HERE / f"{name}.json").write_text(dumps(make()), encoding="utf-8")
