"""The worked tent of the physics: a 125 mm fan behind its filter, two flaps and seams; parts to vary it with."""

from __future__ import annotations

import datetime as dt

from canopy.equipment import DuctSpec, FanSpec, FilterSpec
from canopy.plan import (
    USUAL_ROOM,
    Air,
    Airway,
    BendPart,
    DuctPart,
    Faces,
    FanPart,
    FilterPart,
    Opening,
    Plan,
    Room,
    Size,
    Space,
    Surface,
)

FAN = FanSpec(name="Fan", free_flow_m3_h=286, max_pressure_pa=238, diameter_m=0.125, power_w=28, noise_dba_1m=47)
SMALL = FanSpec(name="Small", free_flow_m3_h=172, max_pressure_pa=92, diameter_m=0.1, power_w=14)
CARBON = FilterSpec(
    name="Carbon",
    diameter_m=0.125,
    rated_flow_m3_h=248,
    rated_pressure_pa=64,
    bed_inner_m=0.125,
    bed_thickness_m=0.038,
    bed_length_m=0.4,
    weight_kg=5,
)
FLEX = DuctSpec(name="Flex")


def duct(number, length_m, slack=0.12, diameter_m=0.125):
    return DuctPart(id=f"duct-{number}", spec=FLEX, diameter_m=diameter_m, length_m=length_m, slack=slack)


def exhaust(*, speed=1.0, slack=0.12, loading=1.0, filtered=True, behind_m=0.125, spec=FAN, **more):
    parts = [FilterPart(id="filter", spec=CARBON, loading=loading)] if filtered else []
    parts += [
        duct(1, 0.4, slack),
        FanPart(id="fan", spec=spec, speed=speed),
        duct(2, 1.9, slack, behind_m),
        BendPart(id="bend-1", diameter_m=behind_m),
        BendPart(id="bend-2", diameter_m=behind_m, angle_deg=60),
    ]
    return Airway(id="exhaust", name="Exhaust", parts=tuple(parts), **more)


def tent(*ways, flaps=True, **more):
    """The tent of 1.15 × 0.85 × 1.9 m, CdA of its flaps 0.0091 m², 18 cm² of seams."""
    film = Surface(material_id="reflective-film")
    flap = Opening(
        id="flap",
        face="left",
        u_m=0.4,
        v_m=0.95,
        shape="mesh",
        width_m=0.26,
        height_m=0.1,
        clear_share=0.0091 / 0.60 / 0.026,
        open=flaps,
    )
    room = more.pop("room", None)
    if room is not None:
        more["room_id"] = known(room)
    return Space(
        id="tent",
        name="Tent",
        faces=Faces(left=film, right=film, front=film, back=film, floor=film, ceiling=film),
        **{
            "kind": "tent",
            "size": Size(width_m=1.15, depth_m=0.85, height_m=1.9),
            "openings": (flap,),
            "airways": ways,
            "air": Air(leak_cm2=18),
            **more,
        },
    )


_ROOMS = {USUAL_ROOM.id: USUAL_ROOM}


def a_room(**figures):
    return Room(id="a-room", name="A room", **figures)


def known(room):
    """The id under which a household of these tests holds a room."""
    key = f"room-{len(_ROOMS)}"
    _ROOMS[key] = room.model_copy(update={"id": key})
    return key


def household(*spaces, **more):
    rooms = tuple(_ROOMS[key] for key in dict.fromkeys(space.room_id for space in spaces)) or (USUAL_ROOM,)
    return Plan(name="House", date=dt.date(2026, 3, 1), spaces=spaces, rooms=rooms, **more)
