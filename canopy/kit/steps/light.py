"""Steps of the lamps: tried on the bench, then hung or fixed as each is borne."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.kit.mounts import mount_of, shelf_over
from canopy.kit.steps.step import BuildStep, length, overhead, step_of, weight
from canopy.margin import sentence
from canopy.plan.document import Fixture, Space

_OLD_LAMPS = ("fluorescent", "hps", "metal-halide")
_HOT_LAMPS = ("hps", "metal-halide", "incandescent")
_GLASS_SHELF = (
    "In two clips over the edges of the glass, or on a cross bar beside it; never by glue alone, which lets go when "
    "the lamp is warm."
)
# How a lamp is borne: what is done, and how one knows that it is right.
_BORNE = {
    "ropes": (
        "Two ropes, each to a bar of the frame of its own, never to a zip or the cloth.",
        "It hangs level; with one rope let go by a hand's breadth the other holds it.",
    ),
    "bars": (
        "Two ropes, each over a bar of its own.",
        "It hangs level; with one rope let go by a hand's breadth the other holds it.",
    ),
    "shelf": (
        "Two clips or saddles under the board above it, one at each end, screwed or clamped; glue alone lets go when "
        "it is warm.",
        "Pulled down at one end with a finger it stays.",
    ),
    "ceiling": (
        "Two clips or saddles screwed under the ceiling, one at each end.",
        "Pulled down at one end with a finger it stays.",
    ),
    "wall": (
        "Two brackets, one at each end, screwed to the wall or clamped to a pole, turned as the drawing has it.",
        "It keeps its angle when a hand knocks against it.",
    ),
    "rim": (
        "On two cross bars over the rim of the case, with ends that cannot slide off; no pane bears it, and air passes "
        "between lamp and glass.",
        "Pushed from the side it stays over the case; nothing of it touches glass.",
    ),
    "holder": (
        "Screwed into a holder of its thread that is rated for its watts, with a cord of its own and strain relief; "
        "the holder hangs by a hook or chain, not by its cord.",
        "The cord hangs slack; the holder is no warmer than a hand after an hour.",
    ),
    "clip": (
        "Its clamp on a board or pole that it grips all round, a tie from its stem to the same as a second hold.",
        "Knocked by a hand it turns, and does not fall.",
    ),
    "foot": (
        "On its foot, on level ground, its cord led where nobody pulls at it.",
        "Pushed at its head it does not tip.",
    ),
}


def lit(report: SpaceReport) -> Iterator[BuildStep]:
    """Try every lamp, then bear each where the drawing has it.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space, step = report.space, partial(step_of, "Light")
    lamps = [lamp for lamp in space.fixtures if lamp.enabled]
    if not lamps:
        return
    kinds = {lamp.spec.technology for lamp in lamps}
    hot = bool(kinds & set(_HOT_LAMPS))
    dims = any(lamp.can_dim for lamp in lamps)
    right = "It does not flicker, buzz or smell;" + (" its dimmer turns it down;" if dims else "")
    right += " nothing within an arm's length of it gets hot." if hot else " its body is no warmer than a cup of tea."
    yield step(
        "bench",
        "Try every lamp on the bench",
        "On a bare table, one hour each, at full; an old lamp that it replaces and its cord out of use and out of "
        "reach first.",
        right,
        "A lamp that fails overhead fails over water.",
        of=[lamp.spec for lamp in lamps],
        care=("mains", "glare", *(("mercury",) if kinds & set(_OLD_LAMPS) else ()), *(("hot-lamps",) if hot else ())),
    )
    for number, lamp in enumerate(space.fixtures, 1):
        if lamp.enabled:
            yield _hung(space, number, lamp)


def _hung(space: Space, number: int, lamp: Fixture) -> BuildStep:
    mount, bears = mount_of(space, lamp), lamp.spec.weight_kg
    words, right = _BORNE[mount]
    shelf = shelf_over(space, lamp) if mount == "shelf" else None
    if shelf is not None and shelf.kind == "glass":
        words = _GLASS_SHELF
    does = "Its middle {x} from the left and {y} from the front, its shining face {z} above the floor. " + words
    amounts = {"x": length(lamp.x_m), "y": length(lamp.y_m), "z": length(lamp.z_m)}
    if bears and mount in ("ropes", "bars"):
        does += " Pull each rope with {kg} by hand before you hang the lamp on it."
        amounts["kg"] = weight(2 * bears)
    near_glass = mount == "rim" or (shelf is not None and shelf.kind == "glass")
    return step_of(
        "Light",
        f"lamp.{lamp.id}",
        f"{'Hang' if mount in ('ropes', 'bars', 'holder') else 'Fix'} lamp {number}: {lamp.spec.name}",
        sentence(does, **amounts),
        right,
        "The height is the light: what hangs nearer shines brighter, on less.",
        of=(lamp.spec, lamp.x_m, lamp.y_m, lamp.z_m, lamp.yaw_deg, lamp.tilt_deg, mount),
        care=(
            *(overhead(space) if mount in ("ropes", "bars", "ceiling") else ()),
            *(("glass",) if near_glass else ()),
            *(("mains",) if mount == "holder" else ()),
        ),
        parts=(lamp.id,),
    )
