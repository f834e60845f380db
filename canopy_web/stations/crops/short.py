"""The tab that answers the first questions: enough light, how much later, how many a pot, outdoors, which dose."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.harvests import HARDLY_CROPS
from canopy.evaluate.crops.in_short import InShort, in_short
from canopy.evaluate.naming import stage_name
from canopy.margin import Amount
from canopy.quantities import Reader, number, significant
from canopy.words import percent
from canopy_web.workspace.where import Where

_VERBS = {"once": "harvest", "cut-again": "first cut", "picking": "picking", "transplant": "moving on"}


def short_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    site = where.plan.site
    reader = where.reader(report)
    return {
        "shorts": [_row(item, reader) for item in in_short(report, site.shown_latitude_deg)],
        "latitude": site.shown_latitude_deg,
        "latitude_known": site.latitude_deg is not None,
    }


def _row(item: InShort, reader: Reader) -> dict[str, Any]:
    want = item.plant.want
    return {
        "name": stage_name(item.plant),
        "count": item.count,
        "verdict": item.verdict,
        "dli": _span(item.dli.low, item.dli.high, "mol/m²/d", reader),
        "wants": _span(want.dli_mol_m2_d.low, want.dli_mol_m2_d.high, "mol/m²/d", reader),
        "ppfd": _span(item.ppfd.low, item.ppfd.high, "µmol/m²/s", reader),
        "share": percent(item.share) if item.share < 1 else "",
        "later": _later(item),
        "pot": _pot(item, reader),
        "likes": [f"{like.sky} days in {dt.date(2026, like.month, 1):%B}" for like in item.likes]
        or [
            "no day of the year: it is dimmer than overcast in midwinter" if item.dim_outdoors else "no day of the year"
        ],
        "target": "" if item.target_ec_ms_cm is None else f"{number(item.target_ec_ms_cm, 2)} mS/cm",
        "doses": [
            (dose.part.name, f"{number(dose.ml_per_l, 1 if dose.ml_per_l >= 1 else 2)} mL/L") for dose in item.doses
        ],
        "usual": item.usual_feed,
        "trouble": item.trouble,
    }


def _span(low: float, high: float, unit: str, reader: Reader) -> str:
    return Amount(value=low, high=high if high > low * 1.02 else None, unit=unit).text(reader)


def _day(day: dt.date) -> str:
    return f"{day.day} {day:%b %Y}"


def _later(item: InShort) -> list[str]:
    """What too little light and warmth do to its harvest, in words."""
    words = []
    thin = item.mass.low < 0.95
    if item.fruiting and item.share < HARDLY_CROPS:
        words.append(f"with {percent(item.share)} of the daily light it wants it will hardly crop")
    elif thin:
        low, high = (number(100 * (1 - share), 0) for share in (item.mass.high, item.mass.low))
        slow = f"{number(item.slower.low, 1)} to {number(item.slower.high, 1)} times as long to the usual mass"
        words.append(f"{low} to {high} % lighter at its usual date, or {slow}")
    if item.awaited is not None:
        found, verb = item.awaited.usual, _VERBS[item.awaited.usual.kind]
        if item.awaited.moved:
            words.append(
                f"{verb} {_day(item.awaited.earliest)} to {_day(item.awaited.latest)} at the warmth here, instead of "
                f"{_day(found.likely)}"
            )
        else:
            words.append(f"{verb} about {_day(found.likely)}")
    elif thin:
        words.append("begin a planting under Season to get days")
    return words or ["nothing: it has the light it wants"]


def _pot(item: InShort, reader: Reader) -> dict[str, str]:
    """How many plants its pot carries, and why."""
    if item.pot_l is None or item.per_pot is None:
        return {"many": "no pot of its own", "why": ""}
    fewest, most = item.per_pot
    size = Amount(value=item.pot_l, unit="volume").text(reader)
    wants = Amount(value=item.wants_l.low, high=item.wants_l.high, unit="volume").text(reader)
    if most < 1:
        share = significant(item.pot_l / item.wants_l.low, 2)
        return {"many": "one, kept small", "why": f"{size} is {share} of the least that one plant wants ({wants})"}
    many = f"{max(fewest, 1)}" if most <= max(fewest, 1) else f"{max(fewest, 1)} to {most}"
    return {"many": many, "why": f"{size}; a plant wants {wants}"}
