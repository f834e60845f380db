"""The smallest change that mends a margin of light: dimmers, hours, height."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from canopy.design.change import Remedy
from canopy.evaluate.light.headroom import over
from canopy.evaluate.light.lamp_care import faded_to
from canopy.evaluate.light.lighting import Lighting, lighting
from canopy.evaluate.light.margins import EVEN_LEAST, least_even
from canopy.evaluate.space import SpaceReport
from canopy.library import StageTargets
from canopy.light.scene import PREVIEW
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture, Space
from canopy.plan.edit import lamp_hours
from canopy.plan.levels import roof_m
from canopy.season import Standing

_TO_SPARE = 1.03


def lit_lamps(space: Space) -> list[Fixture]:
    """List the lamps that are switched on.

    Returns
    -------
    list of Fixture : in the order of the plan
    """
    return [fixture for fixture in space.fixtures if fixture.enabled]


def _group(report: SpaceReport, margin: Margin) -> tuple[list[float], list[float], StageTargets]:
    members = [light for light in report.lighting.plants if light.plant.id in margin.parts]
    return (
        [light.dli_mol_m2_d for light in members],
        [light.ppfd_umol_m2_s for light in members],
        members[0].plant.want,
    )


def dimmed(space: Space, factor: float) -> Remedy | None:
    """Turn all lamps that have a dimmer up or down by one factor.

    Parameters
    ----------
    factor : what their dimmers are multiplied by

    Returns
    -------
    Remedy : None where a dimmer has no room for it, or none changes
    """
    lamps = [lamp for lamp in lit_lamps(space) if lamp.can_dim]
    new = [round(lamp.dim * factor, 2) for lamp in lamps]
    if not lamps or max(new) > 1.0 or min(new) < 0.02 or all(a == lamp.dim for a, lamp in zip(new, lamps, strict=True)):
        return None
    changes = tuple(
        Change(collection="fixtures", part_id=lamp.id, values={"dim": dim})
        for lamp, dim in zip(lamps, new, strict=True)
    )
    low, high = min(new), max(new)
    amount = Amount(value=low * 100, unit="%", high=high * 100 if high > low else None, decimals=0)
    verb = "Dim" if factor < 1 else "Turn up"
    return Remedy(label=sentence(f"{verb} the lamps to {{dim}}", dim=amount), changes=changes)


def _timed(space: Space, hours: float) -> Remedy:
    changes = tuple(
        Change(collection="fixtures", part_id=lamp.id, values=lamp_hours(lamp, hours)) for lamp in lit_lamps(space)
    )
    return Remedy(label=sentence("Run the lamps {h} a day", h=Amount(value=hours, unit="h")), changes=changes)


def mend_window(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a dose (DLI) or PPFD outside its window: by the dimmer, the hours, the height, or height and dimmer.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    dli, ppfd, want = _group(report, margin)
    by_day = margin.id.startswith("light.dli")
    values = dli if by_day else ppfd
    window = want.dli_mol_m2_d if by_day else want.ppfd_umol_m2_s
    space = report.space
    if margin.verdict == "over":
        return dimmed(space, window.high / max(values) / _TO_SPARE)
    if min(values) <= 0:
        return None
    factor = window.low / min(values) * _TO_SPARE
    turned_up = dimmed(space, factor)
    if turned_up and max(values) * factor <= max(window.high, max(values)) * 1.25:
        return turned_up
    hours = max(lamp.hours for lamp in lit_lamps(space)) * factor
    longest = min(plant.want.photoperiod_h.high for plant in report.here.plants)
    if by_day and hours <= longest:
        return _timed(space, min(longest, np.ceil(hours * 4) / 4))
    return (
        _spread(report, margin, by_day=by_day, low=window.low, high=window.high)
        or _lowered(report, lambda light: _least(light, margin, by_day) >= window.low)
        or turned_up
    )


def _spread(report: SpaceReport, margin: Margin, *, by_day: bool, low: float, high: float) -> Remedy | None:
    """Hang the lamps higher and turn them up, so that the dimmest and the brightest both come inside."""
    lamps = lit_lamps(report.space)
    for z in heights(report.here, down=False)[2::3]:
        light = lighting(moved_to(report.here, z), PREVIEW, with_map=False)
        members = [p for p in light.plants if p.plant.id in margin.parts]
        values = [p.dli_mol_m2_d if by_day else p.ppfd_umol_m2_s for p in members]
        least, most = low / min(values), high / max(values)
        if least <= most:
            turned = dimmed(report.space, float(np.sqrt(least * most)))
            hung = hung_at(report.space, z)
            if turned is None or not lamps:
                return None
            words = sentence(
                f"{hung.label.text} and {turned.label.text[0].lower()}{turned.label.text[1:]}",
                **dict(hung.label.amounts),
                **dict(turned.label.amounts),
            )
            return Remedy(label=words, changes=(*hung.changes, *turned.changes))
    return None


def _least(light: Lighting, margin: Margin, by_day: bool) -> float:
    members = [p for p in light.plants if p.plant.id in margin.parts]
    return min(p.dli_mol_m2_d if by_day else p.ppfd_umol_m2_s for p in members)


def heights(here: Standing, *, down: bool) -> list[float]:
    """Give heights of the lowest lamp's face to try, nearest first, all lamps moving alike.

    Parameters
    ----------
    here : the space on a day, with a lit lamp
    down : lower than they hang, else higher

    Returns
    -------
    list of float : where every lamp keeps clear of the plants under it and of the shelf or ceiling above it [m]
    """
    space, lamps = here.space, lit_lamps(here.space)
    now = min(lamp.z_m for lamp in lamps)
    lowering, raising = [], []
    for lamp in lamps:
        tops = [plant.top_m for plant in here.plants if over(space, lamp, plant)]
        lowest = max(tops, default=0.0) + lamp.least_distance_m
        roof = roof_m(space, lamp.x_m, lamp.y_m, lamp.z_m)
        highest = roof - lamp.spec.thickness_m - min(lamp.spec.hanger_m, 0.05)
        lowering.append(lowest - lamp.z_m)
        raising.append(highest - lamp.z_m)
    steps = np.arange(1, 60) * 0.02
    tried = -steps if down else steps
    return [round(now + float(step), 3) for step in tried if max(lowering) - 1e-9 <= step <= min(raising) + 1e-9]


def hung_at(space: Space, z: float) -> Remedy:
    """Hang all lit lamps higher or lower by the same distance.

    Parameters
    ----------
    space : the space, with a lit lamp
    z : height of the lowest lamp's face afterwards [m]

    Returns
    -------
    Remedy : one change a lamp
    """
    lamps = lit_lamps(space)
    shift = z - min(lamp.z_m for lamp in lamps)
    changes = tuple(
        Change(collection="fixtures", part_id=lamp.id, values={"z_m": round(lamp.z_m + shift, 3)}) for lamp in lamps
    )
    what = "Hang the lamps" if len(lamps) > 1 else "Hang the lamp"
    return Remedy(label=sentence(f"{what} at {{z}}", z=Amount(value=z, unit="length")), changes=changes)


def moved_to(here: Standing, z: float) -> Standing:
    """Give a space with its lit lamps higher or lower by the same distance, as `hung_at` hangs them.

    Parameters
    ----------
    here : the space on a day, with a lit lamp
    z : height of the lowest lit lamp's face afterwards [m]

    Returns
    -------
    Standing : the same day
    """
    space = here.space
    shift = z - min(lamp.z_m for lamp in lit_lamps(space))
    lamps = tuple(
        lamp.model_copy(update={"z_m": lamp.z_m + shift}) if lamp.enabled else lamp for lamp in space.fixtures
    )
    return here.moved(space.model_copy(update={"fixtures": lamps}))


def _search(report: SpaceReport, tried: list[float], holds: Callable[[Lighting], bool]) -> Remedy | None:
    """First height at which something holds; the light is taken as steady in height (bisection on the list)."""
    if not tried or not holds(lighting(moved_to(report.here, tried[-1]), PREVIEW, with_map=False)):
        return None
    low, high = 0, len(tried) - 1
    while low < high:
        middle = (low + high) // 2
        if holds(lighting(moved_to(report.here, tried[middle]), PREVIEW, with_map=False)):
            high = middle
        else:
            low = middle + 1
    return hung_at(report.space, tried[low])


def _lowered(report: SpaceReport, holds: Callable[[Lighting], bool]) -> Remedy | None:
    if not lit_lamps(report.space):
        return None
    return _search(report, heights(report.here, down=True), holds)


def mend_limit(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a PPFD over what a plant bears: dim all lamps.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    light = next(item for item in report.lighting.plants if item.plant.id == margin.parts[0])
    limit = light.plant.want.ppfd_limit_umol_m2_s
    return dimmed(report.space, limit / light.most_ppfd_umol_m2_s / _TO_SPARE)


def mend_ageing(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend lamps that are counted as newer than they are: count what they still give.

    Parameters
    ----------
    report : the space's report
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : never None
    """
    day = report.here.day
    lamps = [lamp for lamp in report.space.fixtures if lamp.id in margin.parts]
    return Remedy(
        label=sentence("Count what they still give"),
        changes=tuple(
            Change(collection="fixtures", part_id=lamp.id, values={"ageing": round(faded_to(lamp, day), 2)})
            for lamp in lamps
        ),
    )


def mend_evenness(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend uneven light: hang the lamps higher.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    if not lit_lamps(report.space):
        return None
    return _search(report, heights(report.here, down=False), lambda light: least_even(light) >= EVEN_LEAST * 1.02)


def mend_clearance(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a lamp that hangs too near a plant: raise it to a sixth more than its least distance.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    fixture = next(item for item in report.space.fixtures if item.id == margin.parts[0])
    plant = report.here.by_id[margin.parts[1]]
    z = round(plant.top_m + fixture.least_distance_m * 1.16, 3)
    if z + fixture.spec.thickness_m > roof_m(report.space, fixture.x_m, fixture.y_m, fixture.z_m):
        return None
    return Remedy(
        label=sentence("Raise this lamp to {z}", z=Amount(value=z, unit="length")),
        changes=(Change(collection="fixtures", part_id=fixture.id, values={"z_m": z}),),
    )


def mend_hours(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend hours of light outside what the crops want.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    low = max(plant.want.photoperiod_h.low for plant in report.here.plants)
    high = min(plant.want.photoperiod_h.high for plant in report.here.plants)
    if low > high:
        return None
    return _timed(report.space, low if margin.verdict == "short" else high)
