"""From ten answers to a whole space: sensible defaults, a first lamp and a first fan, all marked as assumed."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from math import ceil
from typing import Literal

import numpy as np

from canopy.equipment import FanSpec, FixtureSpec
from canopy.evaluate.air.building import calmed, exhaust_parts, sized, smallest_fan
from canopy.evaluate.air.openings import intake_opening, with_port
from canopy.evaluate.air.stir_building import suggest_stirrer
from canopy.evaluate.breathing import breathing
from canopy.evaluate.lighting import lighting
from canopy.library import Crop, StageTargets, find, fixtures
from canopy.light.photometry import ppf
from canopy.light.scene import PREVIEW
from canopy.plan.airways import Airway
from canopy.plan.document import Air, Fixture, Plan, Space
from canopy.plan.layout import Rect, grid
from canopy.plan.plants import Plant
from canopy.plan.shell import Faces, Room, Size, SpaceKind, Surface
from canopy.season import Cast, Standing, standing_of

_LININGS = {
    "tent": ("reflective-film", "reflective-film", "grey-tray"),
    "closet": ("painted-wall", "painted-wall", "grey-tray"),
    "cabinet": ("white-board", "white-board", "grey-tray"),
    "shelf": ("open", "white-board", "grey-tray"),
    "glass-case": ("glass", "glass", "soil"),
}
_EXCHANGE_MINUTES = {"tent": 3.0, "closet": 3.0, "cabinet": 3.0, "shelf": 5.0, "glass-case": 60.0}
_VENTED = ("tent", "closet", "cabinet")
_WALL_M = 0.02
# What a few answers make has no days yet: any day will do.
_ANY_DAY = dt.date(2026, 1, 1)
# How far inside a window a suggestion must lie: more than the preview's own error.
_INSIDE = 1.04


@dataclass(frozen=True, kw_only=True)
class Answers:
    """What a new grower says; ``more`` are further crops with their counts (0: as many as fit beside the others).

    Lamp and fan are chosen when left open (""), or left out ("none").
    """

    space_id: str
    name: str
    kind: SpaceKind
    width_m: float
    depth_m: float
    height_m: float
    crop_id: str = ""
    stage: str = ""
    count: int = 0
    more: tuple[tuple[str, int], ...] = ()
    lamp_class_id: str = ""
    lamp_count: int = 0
    circuit_id: str | None = None
    room: Room | None = None


def main_stage(crop: Crop) -> StageTargets:
    """Give the stage a plan starts from.

    Parameters
    ----------
    crop : the crop

    Returns
    -------
    StageTargets : the vegetative stage, or the last there is
    """
    return crop.stage("vegetative") or crop.stages[-1]


def default_faces(kind: SpaceKind) -> Faces:
    """Give the usual linings of a kind of space.

    Parameters
    ----------
    kind : the kind

    Returns
    -------
    Faces : six surfaces
    """
    side, top, floor = (Surface(material_id=key) for key in _LININGS[kind])
    back = Surface(material_id="painted-wall") if kind == "shelf" else side
    return Faces(left=side, right=side, front=side, back=back, floor=floor, ceiling=top)


def arrange(size: Size, crop: Crop, stage: StageTargets, count: int, taken: tuple[str, ...] = ()) -> list[Plant]:
    """Stand plants on a floor in an even grid.

    Parameters
    ----------
    size : the space
    crop : what they are
    stage : their stage
    count : how many
    taken : ids in use

    Returns
    -------
    list of Plant : drawn in to fit the height, evenly spread
    """
    height = min(stage.height_m, max(0.02, 0.75 * size.height_m - crop.pot_height_m))
    pot = min(crop.pot_height_m, 0.2 * size.height_m)
    used, made = set(taken), []
    for place in grid(Rect(width_m=size.width_m, depth_m=size.depth_m), count):
        key = next(f"plant-{k}" for k in range(1, 2000) if f"plant-{k}" not in used)
        used.add(key)
        made.append(
            Plant(
                id=key,
                crop_id=crop.id,
                stage=stage.kind,
                x_m=place.x_m,
                y_m=place.y_m,
                pot_height_m=round(pot, 4),
                height_m=round(height, 4),
                spread_m=stage.spread_m,
                habit="stand" if crop.habit == "hang" else crop.habit,
            )
        )
    return made


def hang(size: Size, spec: FixtureSpec, count: int, top_m: float, hours: float, *, lift: float = 0.32) -> list[Fixture]:
    """Hang so many lamps side by side over the plants.

    Parameters
    ----------
    size : the space
    spec : the lamp
    count : how many
    top_m : height of the tallest plant's top [m]
    hours : hours a day [h]
    lift : distance over the tops as a share of the longer side, if that is more than the lamp's least distance

    Returns
    -------
    list of Fixture : empty when they do not fit
    """
    w, d, h = size.width_m - _WALL_M, size.depth_m - _WALL_M, size.height_m
    across = spec.overall_width_m if spec.shape == "rectangle" else spec.length_m
    turned = spec.length_m > w or (d > w and spec.length_m <= d and across <= w)
    along, over = (across, spec.length_m) if turned else (spec.length_m, across)
    columns = next((c for c in range(1, count + 1) if ceil(count / c) * over <= d and c * along <= w), 0)
    if not columns or spec.thickness_m + spec.hanger_m >= h:
        return []
    rows = ceil(count / columns)
    ceiling = h - spec.thickness_m - min(spec.hanger_m, 0.2 * h)
    wanted = top_m + max(1.3 * spec.min_distance_m, lift * max(size.width_m, size.depth_m))
    z = round(max(min(wanted, ceiling), 0.05), 3)
    made = []
    for number in range(count):
        row, column = divmod(number, columns)
        in_row = min(columns, count - row * columns)
        made.append(
            Fixture(
                id=f"lamp-{number + 1}",
                spec=spec,
                x_m=round(size.width_m * (column + 0.5) / in_row, 4),
                y_m=round(size.depth_m * (row + 0.5) / rows, 4),
                z_m=z,
                yaw_deg=90.0 if turned else 0.0,
                hours=hours,
            )
        )
    return made


def line_up(
    space: Space, spec: FixtureSpec, *, along: str, gap_m: float, z_m: float, count: int = 0, length_m: float = 0.0
) -> list[Fixture]:
    """Link bars end to end along the width or the depth, as many as fit, in the middle of the space.

    Parameters
    ----------
    space : the space
    spec : the bar
    along : "width" or "depth"
    gap_m : gap between two bars, for the link [m]
    z_m : height of their faces [m]
    count : how many; as many as fit when 0
    length_m : the length they must fit in, in the middle of the space; all of it when 0 [m]

    Returns
    -------
    list of Fixture : one chain; empty when not even one fits
    """
    size = space.size
    reach, across = (size.width_m, size.depth_m) if along == "width" else (size.depth_m, size.width_m)
    wide = spec.overall_width_m if spec.shape == "rectangle" else spec.length_m
    most = int((reach - _WALL_M + gap_m + 1e-9) / (spec.length_m + gap_m))
    if length_m:
        most = min(most, int((length_m + gap_m + 1e-9) / (spec.length_m + gap_m)))
    many = min(count or most, most)
    if many < 1 or wide > across or z_m + spec.thickness_m > size.height_m:
        return []
    step = spec.length_m + gap_m
    used = {lamp.chain for lamp in space.fixtures}
    name = next(f"chain {number}" for number in range(1, 100) if f"chain {number}" not in used)
    hours = next((lamp.hours for lamp in space.fixtures), 14.0)
    made = []
    for number in range(many):
        at = round(reach / 2 + (number - (many - 1) / 2) * step, 4)
        x, y = (at, size.depth_m / 2) if along == "width" else (size.width_m / 2, at)
        made.append(
            Fixture(
                id=f"lamp-{number + 1}",
                spec=spec,
                x_m=x,
                y_m=y,
                z_m=z_m,
                yaw_deg=0.0 if along == "width" else 90.0,
                hours=hours,
                chain=name if many > 1 else "",
            )
        )
    return made


def _with_lamps(here: Standing, spec: FixtureSpec, count: int, want: StageTargets) -> tuple[Space, float] | None:
    """Hang lamps, low or high, and dim them to the middle of the window.

    Gives the lit space and how far it misses: 0 when every plant lies inside the window.
    """
    space = here.space
    hours, top = _hours(want), max((p.top_m for p in here.plants), default=0.2)
    best: tuple[Space, float] | None = None
    for lift in (0.32, 0.5, 0.7):
        lamps = hang(space.size, spec, count, top, hours, lift=lift)
        if not lamps or (best and lamps[0].z_m == best[0].fixtures[0].z_m):
            continue
        lit = space.model_copy(update={"fixtures": tuple(lamps)})
        dli = np.array([plant.dli_mol_m2_d for plant in lighting(here.moved(lit), PREVIEW, with_map=False).plants])
        if dli.min() <= 0:
            continue
        aim = (want.dli_mol_m2_d.low + want.dli_mol_m2_d.high) / 2
        dim = min(1.0, max(0.05, round(float(aim / dli.mean()), 2)))
        miss = max(0.0, _INSIDE * want.dli_mol_m2_d.low / max(dli.min() * dim, 1e-9) - 1)
        miss += max(0.0, _INSIDE * dli.max() * dim / want.dli_mol_m2_d.high - 1)
        if best is None or miss < best[1]:
            best = (
                lit.model_copy(update={"fixtures": tuple(lamp.model_copy(update={"dim": dim}) for lamp in lamps)}),
                miss,
            )
        if miss == 0:
            break
    return best


def _hours(want: StageTargets) -> float:
    window = want.photoperiod_h
    return round((max(window.low, 1) + window.high) / 2 * 2) / 2


def suggest_lamps(here: Standing) -> Space:
    """Hang the least lamps of the library that bring a space's plants to the middle of their window.

    Parameters
    ----------
    here : the space with its plants

    Returns
    -------
    Space : lit, dimmed to fit; with the strongest that fits when none is strong enough; unchanged when none fits
    """
    space = here.space
    if not here.plants:
        return space
    want = max((plant.want for plant in here.plants), key=lambda t: t.dli_mol_m2_d.high)
    floor = space.size.width_m * space.size.depth_m
    aim = (want.dli_mol_m2_d.low + want.dli_mol_m2_d.high) / 2 / (_hours(want) * 0.0036)
    rough = aim * floor / 0.55
    choices = sorted(
        (
            (count * row.spec.power_w, count, row.spec)
            for row in fixtures().values()
            if row.spec.technology == "led" and row.spec.shape == "rectangle"
            for count in (1, 2, 3, 4)
            if 0.6 * rough <= count * ppf(row.spec) <= 4 * rough
        ),
        key=lambda choice: (choice[0], choice[1]),
    )
    best: tuple[Space, float] | None = None
    for tried, (_, count, spec) in enumerate(choices):
        made = _with_lamps(here, spec, count, want)
        if made and (best is None or made[1] < 0.8 * best[1]):
            best = made
        if best and (best[1] == 0 or tried > 12):
            break
    return best[0] if best else space


def suggest_air(here: Standing) -> Space:
    """Fit the smallest fan of the library that delivers what a space needs with a fifth to spare, and something that
    stirs.

    Parameters
    ----------
    here : the space, lit and planted

    Returns
    -------
    Space : with an exhaust, its port, an intake and a stirring fan; without a fan where it breathes enough by itself
    """
    space = here.space
    plan = Plan.model_construct(name="-", date=here.day, spaces=(space,))
    light = lighting(here, PREVIEW, with_map=False)
    found = breathing(plan, space, light)
    wanted = _FAN_TO_SPARE * (found.governing.flow_m3_h or 0.0)
    if found.delivered_m3_h < wanted:
        space = sized(plan, light, lambda flow: _vented(plan, here.space, flow), wanted, _FAN_TO_SPARE) or space
    stirrer = suggest_stirrer(here.moved(space))
    return space.model_copy(update={"stirrers": (stirrer,)}) if stirrer and space.kind in _STIRRED else space


_FAN_TO_SPARE = 1.25
_STIRRED = ("tent", "closet", "cabinet", "shelf")


def _vented(plan: Plan, space: Space, flow_m3_h: float) -> Space | None:
    """Fit the smallest fan that gives a flow, with its port and an intake."""

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        airway = Airway(id="exhaust-1", name="Exhaust", parts=exhaust_parts(spec, None))
        made = with_port(space, airway, spec.diameter_m)
        intake = intake_opening(made, flow_m3_h)
        if intake:
            made = made.model_copy(update={"openings": (*made.openings, intake)})
        return made, made.airways[-1]

    found = smallest_fan(plan, make, flow_m3_h)
    return calmed(plan, found[0]) if found else None


def begin_space(answers: Answers, cast: Cast | None = None) -> Space:
    """Make a whole space of a few answers.

    Parameters
    ----------
    answers : what the grower said
    cast : crops of the person's own beside the library's

    Returns
    -------
    Space : planted, lit and vented, with all that was not said marked as assumed
    """
    known = cast or Cast()
    size = Size(width_m=answers.width_m, depth_m=answers.depth_m, height_m=answers.height_m)
    rule: Literal["largest", "heat"] = "largest" if answers.kind in _VENTED else "heat"
    space = Space(
        id=answers.space_id,
        name=answers.name,
        kind=answers.kind,
        size=size,
        faces=default_faces(answers.kind),
        door_side=None if answers.kind == "shelf" else "front",
        room=answers.room or Room(),
        air=Air(exchange_minutes=_EXCHANGE_MINUTES[answers.kind], rule=rule),
        circuit_id=answers.circuit_id,
        assumed=("faces", "room", "air", "circuit", "openings"),
    )
    if answers.crop_id:
        plants, driest = _planted(size, answers, known)
        space = space.model_copy(
            update={
                "plants": plants,
                "assumed": (*space.assumed, "stage"),
                "air": space.air.model_copy(update={"max_rh_pct": driest}),
            }
        )
    space = _first_lamps(space, answers, known)
    return suggest_air(standing_of(space, _ANY_DAY, known)) if answers.kind in _VENTED and space.plants else space


def _planted(size: Size, answers: Answers, known: Cast) -> tuple[tuple[Plant, ...], float]:
    """Stand the crops side by side in strips from left to right; gives them and the humidity they allow at most [%]."""
    wanted = [(answers.crop_id, answers.count), *answers.more]
    plants: list[Plant] = []
    driest, share = 92.0, size.width_m / len(wanted)
    for place, (crop_id, count) in enumerate(wanted):
        crop = find(known.crops, crop_id, "crop")
        stage = (crop.stage(answers.stage) if answers.stage and not place else None) or main_stage(crop)
        strip = Size.model_construct(width_m=share, depth_m=size.depth_m, height_m=size.height_m)
        many = count or max(1, int(share * size.depth_m / crop.spacing_m**2 * 0.7))
        made = arrange(strip, crop, stage, min(many, 200), tuple(plant.id for plant in plants))
        plants += [plant.model_copy(update={"x_m": round(plant.x_m + place * share, 4)}) for plant in made]
        driest = min(driest, max(40.0, stage.rh_pct.high))
    return tuple(plants), driest


def _first_lamps(space: Space, answers: Answers, known: Cast) -> Space:
    if answers.lamp_class_id == "none":
        return space
    here = standing_of(space, _ANY_DAY, known)
    if not answers.lamp_class_id:
        return suggest_lamps(here).model_copy(update={"assumed": (*space.assumed, "lamp")})
    spec = find(fixtures(), answers.lamp_class_id, "lamp").spec
    count = max(1, answers.lamp_count)
    if here.plants:
        made = _with_lamps(here, spec, count, here.plants[0].want)
        return made[0] if made else space
    return space.model_copy(update={"fixtures": tuple(hang(space.size, spec, count, 0.2, 14.0))})
