"""Quiet hours kept: the fan slower while the lamps are off, and the lamps off in them."""

from __future__ import annotations

from canopy.air.fan_curve import steps_of
from canopy.air.network import Moment
from canopy.air.operating import main_way
from canopy.air.ventilation import ventilation
from canopy.design.change import Remedy, changes_between
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.day.clock import quiet_lane
from canopy.evaluate.day.conflicts import QUIET_DBA, overlap_min
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.airways import OtherSpeed
from canopy.plan.document import Space
from canopy.schedule import Daily

# By night a fan moves so much more than is asked, so that the verdict holds.
_SPARE = 1.15
_DAY_MIN = 1440


def mend_quiet(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Keep quiet hours: the fan no faster by night than the air asks, and the lamps' hours outside of them.

    Parameters
    ----------
    report : the space's report
    margin : "day.quiet"

    Returns
    -------
    Remedy : None without quiet hours or a fan, or where the air asks for more than is quiet
    """
    lane, way = quiet_lane(report.plan), main_way(report.space.airways)
    if lane is None or way is None or way.lead is None or way.control is not None:
        return None
    amounts = {}
    need = (report.breathing.dark.governing.flow_m3_h or 0.0) * _SPARE
    for step in sorted(steps_of(way.lead.spec)):
        if step > way.lead.speed_at(lit=False) + 1e-9:
            break
        made = _by_night(report.space, step)
        air = ventilation(report.plan, made, Moment(lit=False))
        if max(air.fan_in_m3_h, air.fan_out_m3_h) < need:
            continue
        words = "Run the fan at {s} while the lamps are off"
        amounts["s"] = Amount(value=100 * step, unit="%", decimals=0)
        ends = lane.spans[-1].end_min % _DAY_MIN
        if overlap_min(lane.spans, made.lit) > 0 and (noise_of(made, lit=True).total_dba or 0.0) > _wish(made):
            moved = _lit_from(made, ends)
            if moved is None:
                return None
            made, words = moved, words + f", and the lamps from {ends // 60:02.0f}:{ends % 60:02.0f}"
        if (noise_of(made, lit=False).total_dba or 0.0) > _wish(made):
            return None
        changes = changes_between(report.space, made, ("airways", "fixtures"))
        return Remedy(label=sentence(words, **amounts), changes=changes) if changes else None
    return None


def _wish(space: Space) -> float:
    return space.air.noise_wish_dba or QUIET_DBA


def _by_night(space: Space, speed: float) -> Space:
    """The main way's fans at another speed while the lamps are off."""
    way = main_way(space.airways)
    assert way is not None
    parts = tuple(
        part.model_copy(update={"other": OtherSpeed(speed=speed)}) if part.kind == "fan" else part for part in way.parts
    )
    after = way.model_copy(update={"parts": parts})
    return space.model_copy(update={"airways": tuple(after if item.id == way.id else item for item in space.airways)})


def _lit_from(space: Space, start_min: float) -> Space | None:
    """All lamps from the end of quiet hours on; None where their day does not fit between two nights."""
    clock = f"{int(start_min) // 60:02d}:{int(start_min) % 60:02d}"
    lamps = []
    for lamp in space.fixtures:
        if not isinstance(lamp.schedule, Daily) or lamp.schedule.start is None:
            return None
        lamps.append(lamp.model_copy(update={"schedule": lamp.schedule.model_copy(update={"start": clock})}))
    return space.model_copy(update={"fixtures": tuple(lamps)})
