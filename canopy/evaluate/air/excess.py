"""What more air than is needed costs: noise, electricity, and air that is too dry."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from canopy.air import ventilation
from canopy.air.fan_curve import STANDS, power_w, steps_of
from canopy.air.filter_bed import AGED
from canopy.air.network import Moment
from canopy.air.operating import at_speed, main_way
from canopy.evaluate.air.breathing import Breathing, filtered
from canopy.evaluate.air.noise import noise_of
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space
from canopy.power.load import MONTH_DAYS
from canopy.psychrometrics import humidity_ratio, relative_humidity_pct
from canopy.season import Standing

# From so many times the need on it is looked at what the rest costs; beyond the second it is too much at any cost.
LOOKED_AT, TOO_MUCH = 1.6, 2.5
# What counts as a cost: louder by so much where it is heard at all [dB(A)], so many watts, drier by so many points.
_LOUDER_DB, _HEARD_DBA, _WATTS, _DRIER_PCT = 3.0, 30.0, 5.0, 2.0
# The steady humidity is known to some ten points: so far below what crops take it is called dry [%].
_DRY_BY_PCT = 5.0


# A slower speed must do easily: what just does is left where it is.
_EASILY = 1.05
# Where next to nothing is asked for, a flow counts as so many times that.
_MOST_TIMES = 99.0


@dataclass(frozen=True, kw_only=True)
class Excess:
    """A flow beyond what is needed or usual: how many times, the slowest speeds that would do by the ways' ids (empty
    where none does), and what they would save.

    ``louder_db`` and ``dba`` are None where nothing is heard; ``watts`` and ``month`` (in the plan's currency) what is
    drawn for nothing; ``rh_pct`` and ``low_pct`` the air's humidity and the least that the crops here take, where it is
    below that.
    """

    times: float
    speeds: Mapping[str, float]
    louder_db: float | None = None
    dba: float | None = None
    watts: float = 0.0
    month: float = 0.0
    rh_pct: float | None = None
    low_pct: float | None = None

    @property
    def costs(self) -> bool:
        """Whether it costs enough to be worth changing."""
        loud = (self.louder_db or 0) >= _LOUDER_DB and (self.dba or 0) >= _HEARD_DBA
        return loud or self.watts >= _WATTS or self.rh_pct is not None

    @property
    def is_too_much(self) -> bool:
        """Whether it is judged as too much: beyond ``TOO_MUCH`` at any cost, else where a slower speed saves some."""
        return self.times > TOO_MUCH or (self.times > LOOKED_AT and self.costs and bool(self.speeds))


def usual_flow_m3_h(breathing: Breathing) -> float:
    """Give the flow above which it is looked at what the rest costs.

    Parameters
    ----------
    breathing : a space's computed air

    Returns
    -------
    float : what is needed, or an exchange every so many minutes, whichever is more: a flow that is usual is no excess
        [m³/h]
    """
    exchange = next((item.flow_m3_h for item in breathing.demands if item.criterion == "exchange"), None)
    return max(breathing.governing.flow_m3_h or 0.0, exchange or 0.0)


def excess(plan: Plan, here: Standing, breathing: Breathing, spare: float) -> Excess | None:
    """Find what a space's air costs beyond what is needed, lamps on.

    Parameters
    ----------
    here : the space on a day
    breathing : its computed air
    spare : how many times the need is enough

    Returns
    -------
    Excess : None where fans do not bring more than ``LOOKED_AT`` times what is asked or usual
    """
    space, need = here.space, breathing.governing.flow_m3_h or 0.0
    usual, there, way = usual_flow_m3_h(breathing), breathing.delivered_m3_h, main_way(space.airways)
    if way is None or there <= LOOKED_AT * usual or not any(way.speeds(lit=True)):
        return None
    times = min(there / usual, _MOST_TIMES) if usual > 0 else _MOST_TIMES
    duty = way.duty(space.lit, while_lit=True)
    # What would do must still do with the filter aged.
    loading = AGED if filtered(space) else None
    for speeds in _slower(space, way):
        air = ventilation(plan, space, Moment(speeds=speeds, loading=loading))
        if max(air.fan_in_m3_h, air.fan_out_m3_h) * duty >= _EASILY * spare * need:
            break
    else:
        # Without a slower step that does, a smaller fan would: what is drawn beyond its share is not known.
        return Excess(times=times, speeds={}, **_dry(here, breathing, spare * need / there))
    then = space
    for key, speed in speeds.items():
        then = at_speed(then, next(item for item in space.airways if item.id == key), speed)
    loud, soft = noise_of(space).total_dba, noise_of(then).total_dba
    watts = _drawn_w(space) - _drawn_w(then)
    hours = space.lit_hours * duty
    running = breathing.lit.air.running
    share = max(air.fan_in_m3_h, air.fan_out_m3_h) / max(running.fan_in_m3_h, running.fan_out_m3_h, 1e-9)
    return Excess(
        times=times,
        speeds=speeds,
        louder_db=loud - soft if loud is not None and soft is not None else None,
        dba=loud,
        watts=watts,
        month=watts * hours / 1000 * MONTH_DAYS * plan.tariff.mean_price,
        **_dry(here, breathing, share),
    )


def _slower(space: Space, way: Airway) -> Iterator[dict[str, float]]:
    """Slower speeds by the ways' ids, slowest first: each step of the main way, all others slowed alike."""
    now = way.lead.speed if way.lead else 0.0
    for step in steps_of(way.lead.spec) if way.lead else ():
        if step >= now - 1e-6:
            return
        speeds = {way.id: step}
        for other in space.airways:
            if other.id == way.id or other.ends == "space" or other.lead is None or other.lead.speed < STANDS:
                continue
            wanted = other.lead.speed * step / now
            speeds[other.id] = min(
                (s for s in steps_of(other.lead.spec) if s >= wanted - 1e-6), default=other.lead.speed
            )
        yield speeds


def _drawn_w(space: Space) -> float:
    """What the fans of all ways draw, lamps on [W]."""
    return sum(
        fan.count * power_w(fan.spec, speed)
        for way in space.airways
        for fan, speed in zip(way.fans, way.speeds(lit=True), strict=True)
    )


def _dry(here: Standing, breathing: Breathing, share: float) -> dict[str, float]:
    """Humidity and what is wanted at least, where it is too dry and ``share`` of the flow would leave it moister."""
    low, air, came = max((plant.want.rh_pct.low for plant in here.plants), default=0.0), breathing.day, breathing.lit
    if air.rh_pct >= low - _DRY_BY_PCT:
        return {}
    altitude = here.around.altitude_m
    before = humidity_ratio(came.intake.temperature_c, came.intake.rh_pct, altitude)
    gained = humidity_ratio(air.temperature_c, air.rh_pct, altitude) - before
    moister = relative_humidity_pct(air.temperature_c, before + gained / max(share, 0.05), altitude)
    return {"rh_pct": air.rh_pct, "low_pct": low} if moister - air.rh_pct >= _DRIER_PCT else {}
