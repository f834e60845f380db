"""Steps from the first water to the first plant: tank, a day without plants, leaks, then plants in half the light."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.kit.steps.step import BuildStep, step_of
from canopy.margin import Amount, sentence
from canopy.plan.care import TIMED
from canopy.words import counted

# Young leaves get half of their light at first, and the rest over so many days.
_FIRST_SHARE, _OVER_DAYS = 0.5, 10


def watered(report: SpaceReport) -> Iterator[BuildStep]:
    """Fill the store, measure what drips.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space, step = report.space, partial(step_of, "Water")
    holds = space.feed.reservoir_l if space.feed.way == "solution" else None
    tank = space.watering.tank_l if space.watering.way != "hand" else None
    if holds or tank:
        yield step(
            "tank",
            "Fill the tank and wait",
            sentence(
                "{litres} of plain water, for two hours.", litres=Amount(value=holds or tank or 0.0, unit="volume")
            ),
            "Dry tissue laid round it and under each joint stays dry.",
            "Better water than feed, better today than at night.",
            of=(space.feed.reservoir_l, space.watering),
            care=("mains",),
        )
    if space.watering.way in TIMED:
        yield step(
            "emitters",
            "Measure the drippers",
            "A cup under the first, the middle and the last for a minute.",
            "The cups differ by no more than a tenth; their sum times their number is what the plan counts with.",
            "The last one in the line is the first to fail.",
            of=(space.watering,),
        )


def dry_run(report: SpaceReport, empty: SpaceReport | None) -> Iterator[BuildStep]:
    """Run a day without plants beside the simulated one, and look for leaks.

    Parameters
    ----------
    report : of the space as it will stand
    empty : of the same space without plants, followed; None where it was not

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    step, space = partial(step_of, "Dry run"), report.space
    right = sentence(
        "Nothing trips, smells, drips or gets hot; the lowest and highest lie where the plan expects them."
    )
    found = empty.climate if empty is not None else None
    if found is not None and found.overheats_s is None:
        rows = found.last
        air, rh = found.traces.air_c[rows], found.traces.rh_pct[rows]
        right = sentence(
            "Read {low} to {high} and {dry} to {damp}, each within 1.5 K and 8 points where the room is as typed; "
            "nothing trips, smells, drips or gets hot.",
            low=Amount(value=float(air.min()), unit="temperature"),
            high=Amount(value=float(air.max()), unit="temperature"),
            dry=Amount(value=float(rh.min()), unit="%", decimals=0),
            damp=Amount(value=float(rh.max()), unit="%", decimals=0),
        )
    shut = ", the door shut" if space.door_side is not None and space.kind != "shelf" else ""
    yield step(
        "dry-run",
        "A day without plants",
        f"Everything on by its clock for 24 hours, without plants{shut}; write down the highest and the lowest.",
        right,
        "What is wrong shows in a day, and costs nothing yet.",
        of=(space.fixtures, space.airways, space.devices),
        care=("smoke-alarm",),
    )
    out = any(way.way == "out" and way.ends != "space" and way.fans for way in space.airways)
    if out and space.kind in ("tent", "closet", "cabinet"):
        loops = any(way.ends == "space" for way in space.airways)
        yield step(
            "smoke",
            "Leak test",
            "The exhaust at its usual speed, "
            + ("the fan between the spaces off, " if loops else "")
            + "the door shut: hold a smoking stick along every seam and zip, away from filters and cloth.",
            "Smoke is drawn in everywhere, and blown out nowhere but at the end of the duct.",
            "What goes out past the filter is what one smells.",
            of=(space.airways,),
            care=("smoke-alarm",),
        )


def planted(report: SpaceReport) -> Iterator[BuildStep]:
    """Fill the pots, set the plants, let them get used to the light.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    here, step = report.here, partial(step_of, "Plants")
    if not here.plants:
        return
    if report.feeding.mix is not None and report.feeding.mix_l > 0:
        yield step(
            "mix",
            "Moisten the mix and fill the pots",
            sentence(
                "{mix} of mix with {water} of water first.",
                mix=Amount(value=report.feeding.mix_l, unit="volume"),
                water=Amount(value=report.feeding.wetting_l, unit="volume"),
            ),
            "Squeezed in the hand it holds together and gives no drop.",
            "Dry mix sheds water for weeks.",
            of=(report.feeding.mix_l,),
            care=("spores",),
        )
    yield step(
        "plants",
        "Set the plants",
        f"{counted(len(here.plants), 'place')} by the plan view, youngest where it is dimmest.",
        "Each leaf has air round it, and every pot can be reached.",
        "What is not reached is not looked at.",
        of=[(plant.id, plant.plant.x_m, plant.plant.y_m) for plant in here.plants],
        care=sorted({caution for plant in here.plants for caution in plant.crop.cautions} & {"pets", "skin"}),
        parts=[plant.id for plant in here.plants],
    )
    yield from _brighter(report)


def _brighter(report: SpaceReport) -> Iterator[BuildStep]:
    lamps = [lamp for lamp in report.space.fixtures if lamp.enabled]
    if not lamps:
        return
    dims = [lamp.dim for lamp in lamps if lamp.can_dim]
    fixed = [lamp for lamp in lamps if not lamp.can_dim]
    words, amounts = list[str](), dict[str, Amount]()
    if dims:
        words.append(
            f"Dimmers at {{share}} on the first day, up by equal steps to {{full}} over {_OVER_DAYS} days"
            + ("; " if fixed else ".")
        )
        amounts = {
            "share": Amount(value=100 * _FIRST_SHARE * max(dims), unit="%", decimals=0),
            "full": Amount(value=100 * max(dims), unit="%", decimals=0),
        }
    if fixed:
        hours = max(lamp.hours for lamp in fixed)
        start = "lamps without a dimmer: " if dims else "They have no dimmer: "
        few = round(_FIRST_SHARE * hours, 2)
        words.append(
            f"{start}{few:g} h of light on the first day, an equal part more each day to {hours:g} h on the tenth."
        )
    yield step_of(
        "Plants",
        "brighter",
        "Half the light first",
        sentence("".join(words), **amounts),
        "New leaves stay flat and green; bleached or curled ones say: two steps back.",
        "Leaves that grew in shade burn in light that they would bear a week later.",
        of=([(lamp.dim, lamp.can_dim) for lamp in lamps],),
    )
