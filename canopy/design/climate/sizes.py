"""Sizes in which devices for the climate are sold, from the library's classes."""

from __future__ import annotations

from canopy.equipment import DeviceSpec
from canopy.library import devices


def strength(spec: DeviceSpec) -> float:
    """Say how much a device does, to set its kind in order.

    Parameters
    ----------
    spec : its data sheet

    Returns
    -------
    float : water given [g/h] or taken [L/d], heat taken [W], CO2 given [g/h], else its power [W]
    """
    known = {
        "humidifier": spec.gives_g_h,
        "dehumidifier": spec.takes_l_d,
        "cooler": spec.cools_w or 2.5 * spec.power_w,
        "co2": spec.co2_g_h or 0.0,
    }
    return known.get(spec.kind, spec.power_w)


def sizes_of(kind: str) -> tuple[DeviceSpec, ...]:
    """List the classes of a kind of device, the smallest first.

    Parameters
    ----------
    kind : such as "heater", "mat", "humidifier", "dehumidifier" or "cooler"

    Returns
    -------
    tuple of DeviceSpec : as their data sheets would say it; of humidifiers those that give mist
    """
    found = [item.spec for item in devices().values() if item.spec.kind == kind]
    if kind == "humidifier":
        found = [spec for spec in found if spec.mist == "ultrasonic"]
    return tuple(sorted(found, key=strength))
