"""Steps of devices, sensors and wiring."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.kit.steps.step import BuildStep, length, step_of
from canopy.margin import Sentence, sentence
from canopy.plan.document import Device

_RIGHT = {
    "heater": "It stands free by its maker's distances, 30 cm at least; it goes off at its setting, and when tipped.",
    "mat": "Its probe lies in the mix, not on the mat; it switches off at its setting.",
    "heat-lamp": "It hangs by a chain, in a cage, on porcelain, by its maker's distances; nothing near it gets hot.",
    "humidifier": "Its fog falls on no leaf, lamp, plug or wall; it stops when its tank is empty.",
    "dehumidifier": "Its bucket sits to the stop, or its hose runs downhill all the way; its outlet blows free.",
    "co2": "Its alarm sounds when one breathes on it; its valve is shut while one works inside.",
    "pump": "Its cord leaves the water upward; lifted out of it for a second it hums and no more.",
}
_WHERE = {
    "mat": "Flat on a dry insulated board, nothing folded, the pots right on it.",
    "pump": "In the water, on its feet, where it is drawn empty last.",
}


def equipped(report: SpaceReport) -> Iterator[BuildStep]:
    """Place each device.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    for device in report.space.devices:
        kind = device.spec.kind
        yield step_of(
            "Devices",
            f"device.{device.id}",
            f"Place {device.spec.name}",
            _place(device),
            _RIGHT.get(kind, "It stands free, and its cord reaches without a pull."),
            "What heats or wets the air does harm where it is too near.",
            of=(device.spec, device.x_m, device.y_m, device.z_m, device.control),
            care=("co2",) if kind == "co2" else ("mains",),
            parts=(device.id,),
        )


def _place(device: Device) -> str | Sentence:
    words = _WHERE.get(device.spec.kind, "Out of the way of water that runs or drips.")
    if device.control is not None or (device.spec.on_demand and not device.by_clock):
        words += " Plugged into its switch, not straight into the strip."
    if device.x_m is None or device.y_m is None:
        return words
    amounts = {"x": length(device.x_m), "y": length(device.y_m)}
    return sentence(f"{{x}} from the left, {{y}} from the front. {words}", **amounts)


def watched(report: SpaceReport) -> Iterator[BuildStep]:
    """Hang the thermometer among the leaves.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    tops = sorted(plant.top_m for plant in report.here.plants)
    height = tops[len(tops) // 2] if tops else report.space.size.height_m / 2
    yield step_of(
        "Sensors",
        "sensor",
        "Hang the thermometer at the leaves",
        sentence("About {z} above the floor, under a bit of card, out of the fan's stream.", z=length(height)),
        "Beside a second one for an hour it shows the same to one degree and five points.",
        "What it shows at the door is not what leaves feel.",
    )


def wired(report: SpaceReport) -> Iterator[BuildStep]:
    """Lead the cords, try what protects, set the timers.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space, step = report.space, partial(step_of, "Wiring")
    if not report.running.loads:
        return
    for margin in report.margins:
        if margin.danger:
            yield step(
                f"first.{margin.id}",
                f"Settle first: {margin.title}",
                margin.why,
                "The plan shows it no longer: its margins, or Power, have what mends it.",
                margin.danger,
                of=(margin.id,),
                care=("mains",),
            )
    names = list(dict.fromkeys(load.name for load in report.running.loads))
    yield step(
        "wiring",
        "Cords",
        f"{'; '.join(names)}: strip hung up off the floor; every cord hangs below its plug once before it rises to it; "
        "cords of low voltage on another side than mains; none under a pot, none coiled.",
        "Water poured down a cord would drip off before any plug.",
        "Water and mains meet at plugs.",
        of=[(load.part_id, load.plug) for load in report.running.loads],
        care=("mains",),
    )
    water = report.margin("power.water")
    if water is not None or report.here.plants:
        yield step(
            "rcd",
            "Press the test button",
            "Of the residual-current device before the outlet, or of the adapter; where there is neither, get the "
            "adapter before anything is plugged in.",
            "The strip goes dead at once, and lives again when it is reset.",
            "It is what saves one who reaches into water.",
            of=(water.verdict if water is not None else "",),
            care=("mains",),
        )
    if any(lamp.enabled and lamp.schedule.kind == "daily" for lamp in space.fixtures):
        yield step(
            "timers",
            "Set the timers",
            "By the timer sheet, clock first.",
            "Turned on by hand through a day, each switches what it should at its hours.",
            "A timer an hour off is a short-day plant that never flowers.",
            of=[lamp.schedule for lamp in space.fixtures],
        )
