"""What more air than is needed costs: noise, electricity, and air that is too dry."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.air.fan_curve import steps_of
from canopy.air.network import Moment, network
from canopy.air.operating import OperatingPoint, at_speed, main_way, operating_point
from canopy.evaluate.air.breathing import Breathing
from canopy.evaluate.air.noise import noise_of
from canopy.plan.document import Plan
from canopy.power.load import MONTH_DAYS
from canopy.psychrometrics import humidity_ratio, relative_humidity_pct
from canopy.season import Standing

# From so many times the need on it is looked at what the rest costs; beyond the second it is too much at any cost.
LOOKED_AT, TOO_MUCH = 1.6, 2.5
# What counts as a cost: louder by so much where it is heard at all [dB(A)], so many watts, drier by so many points.
_LOUDER_DB, _HEARD_DBA, _WATTS, _DRIER_PCT = 3.0, 30.0, 5.0, 2.0
# The steady humidity is known to some ten points: so far below what crops take it is called dry [%].
_DRY_BY_PCT = 5.0


# Where next to nothing is asked for, a flow counts as so many times that.
_MOST_TIMES = 99.0


@dataclass(frozen=True, kw_only=True)
class Excess:
    """A flow beyond what is needed: how many times, the slowest speed that would do, and what that would save.

    ``louder_db`` and ``dba`` are None where nothing is heard; ``watts`` and ``month`` (in the plan's currency) what is
    drawn for nothing; ``rh_pct`` and ``low_pct`` the air's humidity and the least that the crops here take, where it is
    below that.
    """

    times: float
    speed: float | None
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
        """Whether it is judged as too much."""
        return self.times > TOO_MUCH or (self.times > LOOKED_AT and self.costs)


def excess(plan: Plan, here: Standing, breathing: Breathing, spare: float) -> Excess | None:
    """Find what a space's air costs beyond what is needed, lamps on.

    Parameters
    ----------
    plan : the plan
    here : the space on a day
    breathing : its computed air
    spare : how many times the need is enough

    Returns
    -------
    Excess : None where fans do not bring more than ``LOOKED_AT`` times what is asked
    """
    need, way = breathing.governing.flow_m3_h or 0.0, main_way(here.space.airways)
    there = breathing.delivered_m3_h
    if way is None or there <= LOOKED_AT * need or not any(way.speeds(lit=True)):
        return None
    found = network(plan, here.space, Moment(lit=True))
    duty = way.duty(here.space.lit, while_lit=True)
    times = min(there / need, _MOST_TIMES) if need > 0 else _MOST_TIMES
    now = operating_point(found, here.space.id, way.id)
    slower: OperatingPoint | None = None
    for step in steps_of(way.lead.spec) if way.lead else ():
        point = operating_point(found, here.space.id, way.id, step)
        if step < now.speed - 1e-6 and point.flow_m3_h * duty >= spare * need:
            slower = point
            break
    if slower is None:
        # Without a slower step that does, a smaller fan would: what is drawn beyond its share is not known.
        return Excess(times=times, speed=None, **_dry(here, breathing, spare * need / there))
    then = at_speed(here.space, way, slower.speed)
    loud, soft = noise_of(here.space).total_dba, noise_of(then).total_dba
    watts = now.power_w - slower.power_w
    hours = here.space.lit_hours * duty
    return Excess(
        times=times,
        speed=slower.speed,
        louder_db=loud - soft if loud is not None and soft is not None else None,
        dba=loud,
        watts=watts,
        month=watts * hours / 1000 * MONTH_DAYS * plan.tariff.price_per_kwh,
        **_dry(here, breathing, slower.flow_m3_h / max(now.flow_m3_h, 1e-9)),
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
