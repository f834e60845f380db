"""One space's report."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.evaluate.air_margins import air_margins
from canopy.evaluate.breathing import Breathing, breathing
from canopy.evaluate.climate_notes import climate_notes
from canopy.evaluate.company import company_margins
from canopy.evaluate.light_margins import light_margins
from canopy.evaluate.lighting import Lighting, lighting
from canopy.evaluate.power_margins import CircuitLoad, Running, circuit_load, power_margins, running
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Margin, Verdict, Working, ranked, sentence, worst
from canopy.plan.document import Plan, Space


@dataclass(frozen=True, kw_only=True)
class SpaceReport:
    """Everything said of one space."""

    space: Space
    lighting: Lighting
    breathing: Breathing
    running: Running
    circuit: CircuitLoad | None
    margins: tuple[Margin, ...]

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
    plan: Plan, space: Space, *, quality: Quality = DEFAULT, map_height_m: float | None = None, with_map: bool = True
) -> SpaceReport:
    """Evaluate one space of a plan.

    Parameters
    ----------
    plan : the plan
    space : one of its spaces
    quality : how finely to cut the walls for light
    map_height_m : height of the PPFD map; the plants' middle top when None [m]
    with_map : draw up the PPFD map too

    Returns
    -------
    SpaceReport : light, air, power, and the margins, worst first
    """
    light = lighting(space, quality, map_height_m, with_map=with_map)
    air = breathing(space, light)
    circuit = plan.circuit(space.circuit_id)
    margins = (
        _begin(space)
        + company_margins(space)
        + light_margins(space, light)
        + air_margins(space, air)
        + climate_notes(space, air)
    )
    margins += power_margins(plan, space)
    return SpaceReport(
        space=space, lighting=light, breathing=air, running=running(plan, space),
        circuit=circuit_load(plan, circuit) if circuit else None, margins=ranked(margins),
    )  # fmt: skip


def _begin(space: Space) -> list[Margin]:
    """What is still missing before anything can be judged."""
    found = []
    nothing = Working(formula="—", steps=(), source="—", certainty="—")
    if not space.plants:
        found.append(
            Margin(
                id="crops.none", station="crops", title="Crops", verdict="unknown", need=sentence("something to grow"),
                there=sentence("nothing yet"), why=sentence("Say what grows here, and every target follows."),
                working=nothing,
            )
        )  # fmt: skip
    if not space.fixtures:
        found.append(
            Margin(
                id="light.none", station="light", title="Lamps", verdict="unknown" if not space.plants else "short",
                need=sentence("light"), there=sentence("no lamp"), why=sentence("Hang a lamp to see its light."),
                working=nothing,
            )
        )  # fmt: skip
    return found
