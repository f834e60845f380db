"""What nobody has to buy, as the simulated day shows; nothing of what was not judged."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.evaluate import SpaceReport
from canopy.margin import Amount, Sentence, sentence


def needless(report: SpaceReport) -> Iterator[tuple[str, Sentence]]:
    """Say what a space does without.

    Parameters
    ----------
    report : with its climate, where it was followed

    Returns
    -------
    iterator of (str, Sentence) : what, and what the simulation shows of it
    """
    kinds = {device.spec.kind for device in report.space.devices}
    found = report.climate
    if found is None or found.overheats_s is not None or not report.here.plants:
        return
    rows = found.last
    rh = Amount(value=float(found.traces.rh_pct[rows].mean()), unit="%", decimals=0)
    if not kinds & {"humidifier", "dehumidifier"} and _good(report, "climate.rh", "climate.vpd"):
        yield "No humidifier, no dehumidifier", sentence("simulated at {rh} on the mean of the day", rh=rh)
    coldest = Amount(value=float(found.traces.air_c[rows].min()), unit="temperature")
    if not kinds & {"heater", "mat", "heat-lamp"} and _good(report, "climate.air-night", "climate.root"):
        yield "No heater", sentence("at the coldest {c} on this day", c=coldest)
    if "cooler" not in kinds and _good(report, "climate.air-day"):
        warmest = Amount(value=float(found.traces.air_c[rows].max()), unit="temperature")
        yield "No air conditioner", sentence("at the warmest {c} on this day", c=warmest)
    if "co2" not in kinds and _good(report, "climate.co2"):
        yield "No CO₂", sentence("the room's air brings what these leaves take")


def _good(report: SpaceReport, *kinds: str) -> bool:
    """Whether all of these margins are there and none of them is short or over."""
    found = [margin for margin in report.margins if margin.id.startswith(kinds)]
    return bool(found) and all(margin.verdict in ("good", "tight") for margin in found)
