"""What plants ask for as they grow: thin, pot on, pinch, tie, turn, wipe, harden off, harvest, lamps raised."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from canopy.care.job import Job, job
from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.harvests import expected
from canopy.evaluate.crops.outlook import first_touch
from canopy.library import YOUNG, Crop
from canopy.margin import Amount, sentence
from canopy.plan.plants import Planting
from canopy.season import Cast, Growing, StageSpan, spans
from canopy.words import counted

_DAY = dt.timedelta(days=1)
_SOWN_GROUPS = ("leaf", "herb", "root")
# Hardening off takes so many days before planting out; a step of acclimatising lasts so many and takes off so much.
_HARDEN_D, _STEP_D, _STEP_PCT, _CLOSED_PCT = 8, 3, 10, 90
_PINCH_D = 7
_VERBS = {"once": "Harvest", "cut-again": "Cut", "picking": "Pick"}


def growing_jobs(report: SpaceReport, begins: dt.date, to: dt.date, cast: Cast) -> Iterator[Job]:
    """Say what the plants of a space ask for.

    Parameters
    ----------
    report : of the space today
    begins : first day
    to : last day
    cast : crops and plantings

    Returns
    -------
    iterator of Job : by planting where it has days, weekly for what stands
    """
    space, here = report.space, report.here
    touch = first_touch(here, cast)
    if touch is not None and touch.lamp is not None and touch.day <= to:
        yield job(
            space,
            "raise",
            max(begins, touch.day - 2 * _DAY),
            what=sentence(f"{touch.plant.crop.name} ({touch.plant.number}) comes too near on {touch.day:%d %b}."),
            every_days=None,
            parts=(touch.plant.id, touch.lamp.id),
        )
    yield from _weekly(report, begins)
    for planting in report.plan.plantings:
        mine = [plant for plant in space.plants if plant.planting_id == planting.id]
        if mine and not (planting.cleared_on and planting.cleared_on <= begins):
            yield from _of_planting(report, planting, cast.crop(mine[0]), begins, to)


def _weekly(report: SpaceReport, begins: dt.date) -> Iterator[Job]:
    space, plants = report.space, report.here.plants
    climbing = tuple(plant.id for plant in plants if plant.plant.habit == "pole")
    if climbing:
        yield job(space, "tie", begins, parts=climbing)
    # Light from one side leans what stands in pots; lamps above do not.
    turned = tuple(p.id for p in plants if p.plant.habit == "stand" and p.plant.pot_kind in ("pot", "bag", "bucket"))
    if turned and space.daylight:
        yield job(space, "turn", begins, parts=turned)
    kept = tuple(plant.id for plant in plants if plant.crop.harvest == "keep" and plant.want.water != "dry")
    if kept:
        yield job(space, "wipe", min(begins, report.plan.date) + 30 * _DAY, parts=kept)


def _of_planting(report: SpaceReport, planting: Planting, crop: Crop, begins: dt.date, to: dt.date) -> Iterator[Job]:
    space, laid = report.space, spans(planting, crop)
    ids = tuple(plant.id for plant in space.plants if plant.planting_id == planting.id)
    standing = [plant for plant in report.here.plants if plant.id in ids]

    def once(kind: str, day: dt.date, **more: object) -> Iterator[Job]:
        if begins - 14 * _DAY <= day <= to:
            yield job(
                space,
                kind,
                day,
                of=planting.id,
                every_days=None,
                parts=ids,
                **more,  # type: ignore[arg-type]
            )

    young = [span for span in laid if span.stage.kind in YOUNG]
    grown = next((span for span in laid if span.stage.kind not in YOUNG), None)
    if young and grown is not None and crop.harvest != "transplant":
        if crop.group in _SOWN_GROUPS and not any(plant.cells for plant in space.plants if plant.id in ids):
            gap = Amount(value=grown.stage.spacing_m or crop.spacing_m, unit="length")
            yield from once(
                "thin",
                young[-1].starts + (young[-1].ends - young[-1].starts) // 2,
                title=f"Thin {planting.name}",
                what=sentence("To {gap} apart.", gap=gap),
            )
        small = [p for p in space.plants if p.id in ids and p.pot_volume_l and p.pot_volume_l < crop.container_l.low]
        if small:
            into = Amount(value=crop.container_l.low, high=crop.container_l.high, unit="volume")
            yield from once(
                "pot-on",
                grown.starts,
                title=f"Pot on {planting.name}",
                what=sentence(f"{counted(len(small), 'pot')} into {{into}}.", into=into),
            )
    if grown is not None and crop.group == "herb" and crop.harvest in ("picking", "cut-again"):
        yield from once("pinch", grown.starts + _PINCH_D * _DAY, title=f"Pinch out {planting.name}")
    yield from _acclimatised(report, planting, crop, laid, ids, begins, to)
    if standing:
        yield from _harvested(report, planting, standing, ids, begins, to)


def _acclimatised(
    report: SpaceReport,
    planting: Planting,
    crop: Crop,
    laid: tuple[StageSpan, ...],
    ids: tuple[str, ...],
    begins: dt.date,
    to: dt.date,
) -> Iterator[Job]:
    """A plant that came grown is led from closed air to that of its space, by steps."""
    first = planting.first_stage or crop.stages[0].kind
    came = first not in YOUNG and crop.group not in ("bulb",) and laid[0].stage.rh_pct.low >= 50
    if not came:
        return
    found = report.climate
    there = report.here.around.rh_pct(lit=True) if found is None else float(found.traces.rh_pct[found.last].mean())
    level, step = _CLOSED_PCT, 0
    while level > there and step < 6:
        day = planting.starts_on + step * _STEP_D * _DAY
        if begins - 14 * _DAY <= day <= to:
            amount = Amount(value=max(there, level), unit="%", decimals=0)
            yield job(
                report.space,
                "acclimatise",
                day,
                of=f"{planting.id}.{step + 1}",
                title=f"Acclimatise {planting.name}, step {step + 1}",
                what=sentence("Under a lid or in a bag at about {level} for three days.", level=amount),
                why=sentence(f"It came grown, from damper air; here it is about {there:.0f} %."),
                every_days=None,
                floats=False,
                parts=ids,
            )
        level, step = level - _STEP_PCT, step + 1


def _harvested(
    report: SpaceReport,
    planting: Planting,
    standing: list[Growing],
    ids: tuple[str, ...],
    begins: dt.date,
    to: dt.date,
) -> Iterator[Job]:
    light = {item.plant.id: item.dli_mol_m2_d for item in report.lighting.plants}
    dimmest = min(standing, key=lambda plant: light.get(plant.id, 0.0))
    awaited = expected(dimmest, light.get(dimmest.id, 0.0), report.mean_c(dimmest.id), report.here.day)
    if awaited is None:
        return
    usual = awaited.usual
    window = sentence(f"Between {awaited.earliest:%d %b} and {awaited.latest:%d %b}, by its warmth.")
    day = awaited.earliest + (awaited.latest - awaited.earliest) // 2
    again = usual.kind in ("picking", "cut-again")
    until = usual.until + (day - usual.likely) if usual.until else None
    if usual.kind == "transplant":
        if day - _HARDEN_D * _DAY <= to:
            yield job(
                report.space,
                "harden",
                day - _HARDEN_D * _DAY,
                of=planting.id,
                title=f"Harden off {planting.name}",
                what=window,
                every_days=1,
                until=day - _DAY,
                floats=False,
                parts=ids,
            )
        return
    last = until if again else day
    if day <= to and (last is None or last >= begins):
        yield job(
            report.space,
            "harvest",
            day,
            of=planting.id,
            title=f"{_VERBS[usual.kind]} {planting.name}",
            what=window,
            every_days=(3 if usual.kind == "picking" else 14) if again else None,
            until=until if again else None,
            parts=ids,
        )
