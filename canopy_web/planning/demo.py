"""What a visitor of the demo finds in the household: hours of quiet, limits that are watched, two past rounds."""

from __future__ import annotations

import datetime as dt

from canopy.plan import Plan, Plant, Planting
from canopy.plan.controls import Alert
from canopy.plan.document import Quiet

QUIET = Quiet(start="22:30", hours=7.5)
_WATCHED = {
    "berry-tent": (
        Alert(id="alert-1", figure="rh_pct", most=True, value=80, for_min=30, back=3, why="grey mould on the fruit"),
        Alert(id="alert-2", figure="air_c", most=False, value=12, for_min=30, back=1, in_quiet=True),
        Alert(id="alert-3", figure="air_c", most=False, value=0, silent=True, for_min=60),
        Alert(id="alert-4", figure="trap_rise", most=True, value=1, for_min=0, why="thrips"),
    ),
    "fern-case": (Alert(id="alert-1", figure="rh_pct", most=False, value=60, for_min=120, back=3),),
}

# Two rounds of one crop in the closet, in the same places: first day, day of clearing, and on which day between them
# the bars were hung higher; days before today.
CLOSET, LOW_BARS_M = "hall-closet", 1.02
BARS_RAISED = 82
ROUNDS = (("tatsoi-a", "Tatsoi, two rounds ago", 126, 84), ("tatsoi-b", "Tatsoi, last round", 81, 39))
_PLACES = ((0.14, 0.13), (0.34, 0.13), (0.14, 0.38), (0.34, 0.38))


def round_plants(number: int) -> tuple[str, ...]:
    """The ids of the plants of a round."""
    return tuple(f"plant-{40 + 10 * number + k}" for k in range(len(_PLACES)))


def grown_before(plan: Plan) -> Plan:
    """Give the demo household with what grew in its closet before: cleared by now."""
    closet = plan.space(CLOSET)
    assert closet is not None
    like = next(plant for plant in closet.plants if plant.crop_id == "tatsoi")
    plantings, plants = list(plan.plantings), list(closet.plants)
    for number, (key, name, began, cleared) in enumerate(ROUNDS):
        plantings.append(
            Planting(
                id=key,
                name=name,
                crop_id="tatsoi",
                starts_on=plan.date - dt.timedelta(days=began),
                cleared_on=plan.date - dt.timedelta(days=cleared),
                sown=6,
                spent=2.4,
                shop_price=16.0,
            )
        )
        places = zip(round_plants(number), _PLACES, strict=True)
        plants += [
            Plant.model_validate({**like.model_dump(), "id": key_of, "planting_id": key, "x_m": x, "y_m": y})
            for key_of, (x, y) in places
        ]
    spaces = tuple(s.model_copy(update={"plants": tuple(plants)}) if s.id == CLOSET else s for s in plan.spaces)
    return plan.model_copy(update={"plantings": tuple(plantings), "spaces": spaces, "serial": 60})


def bars_low(plan: Plan) -> Plan:
    """Give the household as it was in the first round: the closet's bars nearer to the leaves."""
    closet = plan.space(CLOSET)
    assert closet is not None
    lamps = tuple(lamp.model_copy(update={"z_m": LOW_BARS_M}) for lamp in closet.fixtures)
    spaces = tuple(s.model_copy(update={"fixtures": lamps}) if s.id == CLOSET else s for s in plan.spaces)
    return plan.model_copy(update={"spaces": spaces})


def watched(plan: Plan) -> Plan:
    """Give the demo household with hours of quiet and watched limits."""
    spaces = tuple(space.model_copy(update={"alerts": _WATCHED.get(space.id, ())}) for space in plan.spaces)
    return plan.model_copy(update={"spaces": spaces, "quiet": QUIET})
