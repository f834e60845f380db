"""Sizes in which devices for the climate are sold: power, and what it does."""

from __future__ import annotations

from canopy.equipment import DeviceSpec

# Heaters, mats [W]; humidifiers [g/h]; dehumidifiers [L/d at 26.7 °C and 60 %] with what they draw [W]; coolers [W].
_HEATERS_W = (25, 60, 120, 250, 500, 1000, 2000)
_MATS_W = (10, 20, 40, 75, 120, 200)
_HUMIDIFIERS_G_H = (50, 100, 200, 350, 600)
_DEHUMIDIFIERS_L_D = (
    (0.25, 25, "peltier"),
    (1.5, 110, "refrigerant"),
    (4, 160, "refrigerant"),
    (9, 230, "refrigerant"),
)
_COOLERS_W = (350, 700, 1500, 2500)


def sizes_of(kind: str) -> tuple[DeviceSpec, ...]:
    """List the usual sizes of a kind of device, the smallest first.

    Parameters
    ----------
    kind : "heater", "mat", "humidifier", "dehumidifier" or "cooler"

    Returns
    -------
    tuple of DeviceSpec : as a data sheet would say it
    """
    if kind == "heater":
        return tuple(DeviceSpec(name=f"Heater, {w} W", kind="heater", power_w=w) for w in _HEATERS_W)
    if kind == "mat":
        return tuple(DeviceSpec(name=f"Heat mat, {w} W", kind="mat", power_w=w) for w in _MATS_W)
    if kind == "humidifier":
        return tuple(
            DeviceSpec(
                name=f"Ultrasonic humidifier, {g} g/h",
                kind="humidifier",
                power_w=round(12 + g / 12),
                water_g_h=g,
                tank_l=round(max(1.0, g / 60), 1),
            )
            for g in _HUMIDIFIERS_G_H
        )
    if kind == "dehumidifier":
        return tuple(
            DeviceSpec.model_validate(
                {"name": f"Dehumidifier, {d:g} L a day", "kind": kind, "power_w": w, "dries_l_d": d, "drying": how}
            )
            for d, w, how in _DEHUMIDIFIERS_L_D
        )
    return tuple(
        DeviceSpec(
            name=f"Small air conditioner, {w} W", kind="cooler", power_w=round(w / 2.6), cools_w=w, heats_space=0
        )
        for w in _COOLERS_W
    )
