"""One space's report."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace

from canopy.climate.canopy_gas import Surroundings
from canopy.evaluate.air.breathing import Breathing, breathing
from canopy.evaluate.air.margins import air_margins
from canopy.evaluate.air.path_margins import path_margins
from canopy.evaluate.air.paths import PathReport, path_reports
from canopy.evaluate.air.places import place_margins
from canopy.evaluate.air.pressure_margins import pressure_margins
from canopy.evaluate.air.stir_margins import stir_margins, stirred
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.margins import climate_margins, following
from canopy.evaluate.climate.runs import running_shares
from canopy.evaluate.climate.settings import setting_margins
from canopy.evaluate.crops.company import company_margins
from canopy.evaluate.crops.feeding import Feeding, feed_margins, feeding
from canopy.evaluate.crops.margins import plant_margins
from canopy.evaluate.crops.outlook import harvest_margins, outlook_margins
from canopy.evaluate.day.conflicts import day_margins
from canopy.evaluate.light.headroom import near_but_cool
from canopy.evaluate.light.lamp_care import lamp_margins
from canopy.evaluate.light.lighting import Lighting, lighting
from canopy.evaluate.light.margins import light_margins
from canopy.evaluate.light.warmth import warmth_margins
from canopy.evaluate.power.loads import CircuitLoad, Running, as_followed, circuit_load, household_tree, running
from canopy.evaluate.power.margins import CIRCUIT_MARGINS, circuit_margins, cost_margin, power_margins
from canopy.evaluate.power.tree_margins import tree_margins
from canopy.evaluate.shell.margins import shell_margins
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Margin, Verdict, Working, ranked, sentence, worst
from canopy.plan.document import Circuit, Plan, Space
from canopy.season import Standing, cast_of, standing_of


@dataclass(frozen=True, kw_only=True)
class SpaceReport:
    """Everything said of one space on a day; its ``climate`` only once it has been followed."""

    plan: Plan
    here: Standing
    feeding: Feeding
    lighting: Lighting
    breathing: Breathing
    paths: tuple[PathReport, ...]
    running: Running
    circuit: CircuitLoad | None
    margins: tuple[Margin, ...]
    climate: Simulated | None = None

    @property
    def space(self) -> Space:
        """The space."""
        return self.here.space

    def station_verdict(self, station: str) -> Verdict:
        """Give the worst verdict at a station.

        Parameters
        ----------
        station : such as "light"

        Returns
        -------
        str : the verdict
        """
        return worst([margin for margin in self.margins if margin.station == station])

    def mean_c(self, plant_id: str) -> float:
        """Give the mean of the air round a plant over the day.

        Parameters
        ----------
        plant_id : which

        Returns
        -------
        float : as followed, else steady [°C]
        """
        return self.climate.mean_c(plant_id) if self.climate else _steady_c(self.space, self.breathing)

    @property
    def verdict(self) -> Verdict:
        """The worst verdict of all."""
        return worst(self.margins)

    def margin(self, margin_id: str) -> Margin | None:
        """Find a margin by its id.

        Parameters
        ----------
        margin_id : the id

        Returns
        -------
        Margin : the margin, or None
        """
        return next((margin for margin in self.margins if margin.id == margin_id), None)


def evaluate_space(
    plan: Plan,
    space: Space,
    *,
    day: dt.date | None = None,
    quality: Quality = DEFAULT,
    map_height_m: float | None = None,
    with_map: bool = True,
    follow: bool = False,
) -> SpaceReport:
    """Evaluate one space of a plan.

    Parameters
    ----------
    space : one of its spaces
    day : the day it is looked at; the plan's own date when None
    quality : how finely to cut the walls for light
    map_height_m : height of the PPFD map; the plants' middle top when None [m]
    with_map : draw up the PPFD map too
    follow : follow its climate through three days too; without that it counts as not judged

    Returns
    -------
    SpaceReport : light, air, power, feed, and the margins, worst first
    """
    found = evaluate_standing(
        plan,
        standing_of(space, day or plan.date, cast_of(plan)),
        quality=quality,
        map_height_m=map_height_m,
        with_map=with_map,
    )
    return with_climate(found, followed(found)) if follow else found


def evaluate_standing(
    plan: Plan, here: Standing, *, quality: Quality = DEFAULT, map_height_m: float | None = None, with_map: bool = True
) -> SpaceReport:
    """Evaluate a space as it stands.

    Parameters
    ----------
    here : one of its spaces on a day
    quality : how finely to cut the walls for light
    map_height_m : height of the PPFD map; the plants' middle top when None [m]
    with_map : draw up the PPFD map too

    Returns
    -------
    SpaceReport : light, air, power, feed, and the margins, worst first
    """
    space = here.space
    light = lighting(here, quality, map_height_m, with_map=with_map)
    air = breathing(plan, here, light)
    paths = path_reports(plan, space, air)
    feed = feeding(here, air)
    run = running(plan, space)
    margins = (
        _begin(here)
        + company_margins(here)
        + plant_margins(here)
        + outlook_margins(plan, here, light, lambda _: _steady_c(space, air))
        + feed_margins(here, feed)
        + shell_margins(here)
        + light_margins(here, light)
        + lamp_margins(space, here.day)
        + air_margins(plan, here, air, paths)
        + path_margins(space, air, paths)
        + pressure_margins(plan, space, air)
        + stir_margins(here)
        + list(place_margins(here))
        + leaf_warmth(here, light, air)
        + [following(air.day.bounded or air.night.bounded)]
        + power_margins(plan, space, run)
    )
    margins = near_but_cool(here, margins)
    alone = SpaceReport(
        plan=plan,
        here=here,
        feeding=feed,
        lighting=light,
        breathing=air,
        paths=paths,
        running=run,
        circuit=None,
        margins=ranked(margins),
    )
    return on_circuit(alone, plan)


def on_circuit(report: SpaceReport, plan: Plan, loads: Mapping[str, CircuitLoad] | None = None) -> SpaceReport:
    """Give a report with its circuit as it is in a plan: all that a change elsewhere on it can alter.

    Parameters
    ----------
    report : of a space, in this plan or an earlier state
    plan : with all that hangs on the circuit
    loads : circuits that are summed up already, by id

    Returns
    -------
    SpaceReport : with that plan, and the circuit and its margins from it
    """
    tree = household_tree(plan)
    known = {node.id: node.item for node in tree.touching(report.space.id) if isinstance(node.item, Circuit)}
    chosen = plan.circuit(report.space.circuit_id)
    if chosen is not None:
        known = {chosen.id: chosen} | known
    found = [(loads or {}).get(key) or circuit_load(plan, circuit, tree) for key, circuit in known.items()]
    laid_over = (*CIRCUIT_MARGINS, "day.")
    rest = [margin for margin in report.margins if not margin.id.startswith(laid_over)]
    margins = [
        *rest,
        *circuit_margins(report.space, report.running, found),
        *tree_margins(report.space, tree),
        *day_margins(plan, report.here),
    ]
    return replace(report, plan=plan, circuit=found[0] if found else None, margins=ranked(margins))


@dataclass(frozen=True, kw_only=True)
class Followed:
    """A space's climate through three days, and what that comes to."""

    climate: Simulated
    margins: tuple[Margin, ...]


def followed(report: SpaceReport) -> Followed:
    """Follow a report's space through three days.

    Parameters
    ----------
    report : of the space as it stands

    Returns
    -------
    Followed : its climate, judged
    """
    plan = report.plan
    climate = simulated(plan, report.here, report.lighting)
    margins = climate_margins(report.here, climate)
    margins += harvest_margins(report.here, report.lighting, lambda plant: climate.mean_c(plant.id))
    if climate.overheats_s is None:
        margins += setting_margins(report.here, climate, plan.tariff.mean_price, plan.site.currency)
    return Followed(climate=climate, margins=tuple(margins))


def with_climate(report: SpaceReport, found: Followed) -> SpaceReport:
    """Give a report with the climate that was followed.

    Parameters
    ----------
    report : without it
    found : of the same space, standing the same

    Returns
    -------
    SpaceReport : its margins among the others; what devices draw and cost by how far they ran
    """
    anew = {margin.id for margin in found.margins}
    rest = [margin for margin in report.margins if margin.station != "climate" and margin.id not in anew]
    shares = running_shares(report.space, found.climate)
    told = replace(report, climate=found.climate, margins=ranked([*rest, *found.margins]))
    return as_it_runs(told, shares)


def as_it_runs(report: SpaceReport, shares: Mapping[str, float]) -> SpaceReport:
    """Give a report with what its devices draw and cost by how far they run.

    Parameters
    ----------
    report : with each of them running in all hours that stand for it
    shares : the share of the day for which a device runs, by its id

    Returns
    -------
    SpaceReport : as it is without such devices
    """
    if not shares:
        return report
    run = as_followed(report.running, shares, report.plan.tariff)
    cost = cost_margin(report.plan, run)
    margins = ranked([cost if margin.id == cost.id else margin for margin in report.margins])
    return replace(report, running=run, margins=margins)


def _steady_c(space: Space, air: Breathing) -> float:
    """Mean of the steady air over the day [°C]."""
    lit = space.lit_hours / 24
    return lit * air.day.temperature_c + (1 - lit) * air.night.temperature_c


def leaf_warmth(here: Standing, light: Lighting, air: Breathing) -> list[Margin]:
    """Judge leaves near lamps, in the air of the lit hours and what moves it at each plant.

    Parameters
    ----------
    here : the space on a day
    light : its computed light

    Returns
    -------
    list of Margin : the warmest leaf's, or none
    """
    if not here.plants or not here.space.fixtures:
        return []
    moved = stirred(here)
    around = Surroundings(
        temperature_c=air.day.temperature_c,
        rh_pct=min(max(air.day.rh_pct, 1.0), 99.0),
        air_speed_m_s=moved.mean_m_s,
        altitude_m=here.around.altitude_m,
    )
    return warmth_margins(here, light, around, {item.plant.id: item.speed_m_s for item in moved.plants})


def _begin(here: Standing) -> list[Margin]:
    """What is still missing before anything can be judged."""
    found = []
    nothing = Working(formula="—", steps=(), source="—", certainty="—")
    if not here.plants:
        later = bool(here.absent)
        words = "Nothing stands here on this day." if later else "Say what grows here, and every target follows."
        found.append(
            Margin(
                id="crops.none",
                station="crops",
                title="Crops",
                verdict="unknown",
                need=sentence("something to grow"),
                there=sentence("nothing on this day" if later else "nothing yet"),
                why=sentence(words),
                working=nothing,
            )
        )
    if not here.space.fixtures and not here.space.daylight:
        found.append(
            Margin(
                id="light.none",
                station="light",
                title="Lamps",
                verdict="unknown" if not here.plants else "short",
                need=sentence("light"),
                there=sentence("no lamp"),
                why=sentence("Hang a lamp to see its light."),
                working=nothing,
            )
        )
    return found
