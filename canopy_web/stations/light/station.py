"""The Light station: lamps, light on each plant, backwards from the plants, the survey, the light outdoors."""

from __future__ import annotations

from canopy.evaluate import SpaceReport
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.stations.light.backwards import backwards_tab
from canopy_web.stations.light.lamp_forms import LampForm
from canopy_web.stations.light.lamps import lamps_tab
from canopy_web.stations.light.on_plants import on_plants_tab
from canopy_web.stations.light.outdoors import outdoors_tab
from canopy_web.stations.light.survey import survey_tab
from canopy_web.workspace.station import Figure, PartKind, Station, Tab, plain


def _mean(report: SpaceReport, reader: Reader) -> str:
    return reader.light.text(report.lighting.mean_ppfd_umol_m2_s)


def _daily(report: SpaceReport, reader: Reader) -> str:
    """The dimmest and the brightest plant: what is judged; without plants the mean."""
    doses = [plant.dli_mol_m2_d for plant in report.lighting.plants]
    if not doses:
        return Amount(value=report.lighting.dli_mol_m2_d, unit="mol/m²/d").text(reader)
    least, most = min(doses), max(doses)
    return Amount(value=least, high=most if most > least * 1.02 else None, unit="mol/m²/d").text(reader)


LIGHT = Station(
    key="light",
    name="Light",
    urls="canopy_web.stations.light.urls",
    template="light/_light.html",
    beneath="light/_under_plan.html",
    tabs=(
        Tab(key="lamps", name="Lamps", template="light/_lamps.html", fill=lamps_tab),
        Tab(key="leaves", name="On the leaves", template="light/_on_plants.html", fill=on_plants_tab),
        Tab(key="backwards", name="Backwards", template="light/_backwards.html", fill=backwards_tab),
        Tab(key="survey", name="Survey", template="light/_survey.html", fill=survey_tab),
        Tab(key="outdoors", name="Outdoors", template="light/_outdoors.html", fill=outdoors_tab),
    ),
    parts=(
        PartKind(
            collection="fixtures",
            noun="lamp",
            form=plain(LampForm),
            axes=("x_m", "y_m", "z_m", "dim"),
        ),
        PartKind(collection="light_goals", noun="light target"),
    ),
    assumed={"lamp": "the lamp"},
    figures=(
        Figure(name="Mean light", text=_mean),
        Figure(name="Daily light, dimmest–brightest", text=_daily, judged=("light.dli",)),
    ),
)
