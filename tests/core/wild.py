"""Plans as wild as validation lets them be: fierce lamps in small boxes, any room, any height, any layout of air."""

from __future__ import annotations

import datetime as dt

from hypothesis import strategies as st

from canopy.library import crops, fans, filters, fixtures, materials, rule_sets, stirrers
from canopy.plan import FACES

KINDS = ("tent", "closet", "cabinet", "shelf", "glass-case")
CROPS = tuple(crop.id for crop in crops().values() if any(s.spread_m < 0.4 for s in crop.stages))[:12]


def share(low, high):
    return st.floats(low, high, allow_subnormal=False).map(lambda value: round(value, 3))


AIRS = st.fixed_dictionaries(
    {key: share(-30, 60) for key in ("day_c", "night_c")}
    | {key: share(1, 100) for key in ("day_rh_pct", "night_rh_pct")}
)
CLOCKS = st.none() | st.sampled_from(["00:00", "06:30", "22:15"])
CYCLES = st.fixed_dictionaries(
    {"kind": st.just("cycle"), "on_min": share(0.5, 10), "every_min": share(10, 90)}
    | {"when": st.sampled_from([None, "lit", "dark"])}
)
SCHEDULES = st.one_of(
    st.just({"kind": "always"}),
    st.just({"kind": "never"}),
    st.fixed_dictionaries({"kind": st.just("daily"), "start": CLOCKS, "hours": share(0, 24)}),
    CYCLES,
    st.fixed_dictionaries({"kind": st.just("with-lamps"), "when": st.sampled_from(["lit", "dark"])}),
)
LAMP_SCHEDULES = st.one_of(
    st.just({"kind": "always"}),
    st.fixed_dictionaries({"kind": st.just("daily"), "start": CLOCKS, "hours": share(0, 24)}),
)


@st.composite
def lamps(draw, size, number):
    base = draw(st.sampled_from([fixtures()["strip-10"], fixtures()["hps-400"]])).spec
    spec = base.model_copy(
        update={"length_m": 0.05, "width_m": 0.05, "thickness_m": 0.01, "power_w": draw(share(1, 3000)), "bars": 1}
    )
    return {
        "id": f"lamp-{number}",
        "spec": spec.model_dump(mode="json"),
        "x_m": draw(share(0.05, size["width_m"] - 0.05)),
        "y_m": draw(share(0.05, size["depth_m"] - 0.05)),
        "z_m": draw(share(0.06, size["height_m"] - 0.06)),
        "dim": draw(share(0, 1)),
        "schedule": draw(LAMP_SCHEDULES),
    }


@st.composite
def plants(draw, size, number):
    crop = crops()[draw(st.sampled_from(CROPS))]
    stage = draw(st.sampled_from(crop.stages))
    return {
        "id": f"plant-{number}",
        "crop_id": crop.id,
        "stage": stage.kind,
        "x_m": draw(share(0, size["width_m"])),
        "y_m": draw(share(0, size["depth_m"])),
        "pot_height_m": 0.05,
        "height_m": draw(share(0.01, max(0.02, size["height_m"] - 0.1))),
        "spread_m": draw(share(0.02, 1.2)),
    }


@st.composite
def airways(draw, number):
    fan = draw(st.sampled_from(list(fans().values()))).spec.model_dump(mode="json")
    parts = [{"kind": "fan", "id": "fan", "spec": fan, "speed": draw(share(0, 1))}]
    if draw(st.booleans()):
        parts[0]["other"] = {"speed": draw(share(0, 1))}
    if draw(st.booleans()):
        strain = draw(st.sampled_from(list(filters().values()))).spec.model_dump(mode="json")
        parts.insert(0, {"kind": "filter", "id": "filter", "spec": strain, "loading": draw(share(1, 4))})
    return {
        "id": f"way-{number}",
        "name": "Way",
        "way": draw(st.sampled_from(["out", "in"])),
        "ends": draw(st.sampled_from(["room", "other-room", "outdoors"])),
        "parts": parts,
        "schedule": draw(SCHEDULES),
    }


@st.composite
def spaces(draw, number, rooms):
    size = {key: draw(share(0.3, 2.2)) for key in ("width_m", "depth_m", "height_m")}
    d = round(min(size["depth_m"], size["height_m"]) / 3, 3)
    hole = {"id": "port", "face": "left", "u_m": size["depth_m"] / 2, "v_m": size["height_m"] / 2, "diameter_m": d}
    stirrer = draw(st.sampled_from(list(stirrers().values()))).spec.model_dump(mode="json")
    fan = {"id": "s", "spec": stirrer, "x_m": 0.05, "y_m": 0.05, "z_m": 0.1, "schedule": draw(SCHEDULES)}
    return {
        "id": f"space-{number}",
        "name": f"Space {number}",
        "kind": draw(st.sampled_from(KINDS)),
        "size": size,
        "faces": {face: {"material_id": draw(st.sampled_from(list(materials())))} for face in FACES},
        "room_id": draw(st.sampled_from(rooms)),
        "openings": [hole] if draw(st.booleans()) else [],
        "plants": [draw(plants(size, n)) for n in range(draw(st.integers(0, 2)))],
        "fixtures": [draw(lamps(size, n)) for n in range(draw(st.integers(0, 2)))],
        "airways": [draw(airways(n)) for n in range(draw(st.integers(0, 2)))],
        "stirrers": [fan] if draw(st.booleans()) else [],
        "devices": [
            {
                "id": "heater",
                "spec": {"name": "Heater", "kind": "heater", "power_w": draw(share(0, 20_000))},
                "schedule": draw(SCHEDULES),
            }
        ]
        if draw(st.booleans())
        else [],
        "air": {"rise_k": draw(share(0.1, 20)), "max_rh_pct": draw(share(20, 99.5)), "leak_cm2": draw(share(0, 2000))},
        "circuit_id": draw(st.sampled_from([None, "c"])),
    }


@st.composite
def plans(draw):
    """A plan's data that validation may accept; ``from_data`` decides."""
    rules = draw(st.sampled_from(list(rule_sets().values())))
    rooms = [
        {
            "id": f"room-{n}",
            "name": f"Room {n}",
            "floor_m2": draw(st.none() | share(0.6, 60)),
            "exchange_per_h": draw(share(0, 20)),
            "coldest": draw(st.none() | AIRS),
            "hottest": draw(st.none() | AIRS),
            **draw(AIRS),
        }
        for n in range(draw(st.integers(1, 2)))
    ]
    keys = [room["id"] for room in rooms]
    return {
        "format": "mild-canopy-plan",
        "version": 3,
        "name": "Wild",
        "date": draw(st.dates(dt.date(2020, 1, 1), dt.date(2030, 1, 1))).isoformat(),
        "site": {"altitude_m": draw(share(-400, 5000)), "latitude_deg": draw(st.none() | share(-66, 66))},
        "rooms": rooms,
        "circuits": [
            {"id": "c", "name": "C", "rule_set_id": rules.id, "mains_v": rules.mains_v, "breaker_a": rules.breaker_a}
        ],
        "spaces": [draw(spaces(n, keys)) for n in range(draw(st.integers(1, 2)))],
    }
