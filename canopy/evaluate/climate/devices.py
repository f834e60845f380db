"""What devices do to the air of a simulation, and what switches them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from canopy.climate.columns import DESICCANT, PELTIER, REFRIGERANT
from canopy.climate.system import Control, Gives, Sensed
from canopy.plan.controls import FanControl, GasRegulator, Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.psychrometrics import HEAT_OF_EVAPORATION_J_KG
from canopy.season import Growing

_KINDS = {"refrigerant": REFRIGERANT, "desiccant": DESICCANT, "peltier": PELTIER}
# Humidity ratio at the coil of a dehumidifier: below it nothing is taken (about 3 °C) [kg/kg].
_COIL = 0.0045
# What a cooler takes as water, of all the heat it takes.
_COOLER_WATER = 0.25
# Wet-bulb deficit at which pads are rated: 25 °C and 40 % [kg/kg].
_PAD_RATED = 0.0037
_CO2_KG_MOL = 0.04401
# What nobody set holds, without plants to ask [°C, %].
_BARE_C, _BARE_ROOT_C = (20.0, 16.0), 21.0
_BARE_RH = {"humidifier": 50.0, "dehumidifier": 65.0}
DeviceSetting = Thermostat | Hygrostat | GasRegulator


def gives(device: Device) -> Gives:
    """Give what a device does to its space at full output.

    Parameters
    ----------
    device : on its plug

    Returns
    -------
    Gives : heat, water and CO2; all its power ends as heat in the space as far as it stands in it
    """
    spec = device.spec
    heat = spec.power_w * spec.heats_space
    match spec.kind:
        case "mat":
            return Gives(pot_w=spec.power_w)
        case "heat-lamp":
            return Gives(air_w=0.4 * heat, leaf_w=0.2 * heat, pot_w=0.25 * heat, sheet_w=0.15 * heat)
        case "humidifier":
            kg_s = spec.gives_g_h / 3.6e6
            if spec.mist == "evaporative":
                return Gives(air_w=heat, pad_kg_s=kg_s / _PAD_RATED)
            # Steam brings its heat of evaporation along: its heater's power is in it, not in the air.
            dry = heat - HEAT_OF_EVAPORATION_J_KG * kg_s
            return Gives(vapour_kg_s=kg_s, air_w=max(0.0, dry) if spec.mist == "steam" else dry)
        case "dehumidifier":
            return Gives(air_w=heat, rated_kg_s=spec.takes_l_d / 86400, dryer=_KINDS[spec.drying], coil_ratio=_COIL)
        case "cooler":
            taken = spec.cools_w if spec.cools_w is not None else 2.5 * spec.power_w
            # Its own heat goes outside; what it takes as water comes back in the row of the dried air.
            return Gives(
                air_w=-taken,
                rated_kg_s=_COOLER_WATER * taken / HEAT_OF_EVAPORATION_J_KG,
                dryer=DESICCANT,
                coil_ratio=0.0075,
            )
        case "co2":
            return Gives(air_w=heat, co2_mol_s=(spec.co2_g_h or 0.0) / 1000 / 3600 / _CO2_KG_MOL)
        case _:
            return Gives(air_w=heat)


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What a device is switched by, and whether nobody said it: then it is what the crops here ask for."""

    control: DeviceSetting | None
    assumed: bool


def setting_of(device: Device, plants: Sequence[Growing]) -> Setting:
    """Find what switches a device.

    Parameters
    ----------
    device : on its plug
    plants : what grows there

    Returns
    -------
    Setting : as set; none for what runs by the clock alone; else, for what runs on demand, at the edge of the windows
        that the crops share
    """
    if device.control is not None or device.by_clock or not device.spec.on_demand:
        return Setting(control=device.control, assumed=False)
    kind, windows = device.spec.kind, [plant.want for plant in plants]
    if kind == "mat":
        root = max((w.root_c.low for w in windows), default=_BARE_ROOT_C - 1) + 1
        return Setting(control=Thermostat(senses="root", day_c=root, night_c=root), assumed=True)
    if kind in ("heater", "heat-lamp"):
        day = max((w.air_day_c.low for w in windows), default=_BARE_C[0] - 1) + 1
        night = max((w.air_night_c.low for w in windows), default=_BARE_C[1] - 1) + 1
        return Setting(control=Thermostat(day_c=day, night_c=min(day, night)), assumed=True)
    if kind == "cooler":
        high = min((w.air_day_c.high for w in windows), default=28.0) - 1
        return Setting(control=Thermostat(day_c=high, night_c=high), assumed=True)
    if kind == "humidifier":
        low = max((w.rh_pct.low for w in windows), default=_BARE_RH[kind] - 3) + 3
        return Setting(control=Hygrostat(day_rh_pct=low, night_rh_pct=low), assumed=True)
    if kind == "dehumidifier":
        high = min((w.rh_pct.high for w in windows), default=_BARE_RH[kind] + 3) - 3
        return Setting(control=Hygrostat(day_rh_pct=high, night_rh_pct=high), assumed=True)
    return Setting(control=GasRegulator(), assumed=True)


def control_of(device: Device, setting: DeviceSetting, target: str, where: str, gate: str) -> Control:
    """Write a device's switch for the simulation.

    Parameters
    ----------
    device : on its plug
    setting : what it is switched by
    target : the group it switches
    where : the enclosure its sensor is in
    gate : the drive that must allow it

    Returns
    -------
    Control : on and off around its band
    """
    if isinstance(setting, Thermostat):
        return Control(
            target=target,
            where=where,
            sensed=setting.senses,
            day=setting.day_c,
            night=setting.night_c,
            below=device.spec.kind != "cooler",
            band=setting.band_k,
            least_on_s=60 * setting.least_on_min,
            least_off_s=60 * setting.least_off_min,
            gate=gate,
        )
    if isinstance(setting, Hygrostat):
        return Control(
            target=target,
            where=where,
            sensed="rh",
            day=setting.day_rh_pct,
            night=setting.night_rh_pct,
            below=device.spec.kind == "humidifier",
            band=setting.band_pct,
            least_on_s=60 * setting.least_on_min,
            least_off_s=60 * setting.least_off_min,
            gate=gate,
        )
    return Control(
        target=target, where=where, sensed="co2", day=setting.ppm, night=0.0, band=setting.band_ppm, gate=gate
    )


def fan_controls(control: FanControl, where: str, planned: float, purge: str) -> tuple[Control, ...]:
    """Write a fan controller for the simulation.

    Parameters
    ----------
    control : as set
    where : its enclosure
    planned : where the speed that is set lies between its least and its most, 0..1
    purge : the drive of the minutes after lights-out; empty without

    Returns
    -------
    tuple of Control : what asks for most air counts
    """
    found = []

    def rises(sensed: Sensed, day: float | None, night: float | None, ramp: float, idle: float, full: float) -> None:
        if day is None or night is None:
            return
        found.append(
            Control(
                target=where,
                fan=True,
                where=where,
                sensed=sensed,
                day=day,
                night=night,
                below=False,
                ramp=ramp,
                idle=idle,
                full=full,
            )
        )

    idle = planned if control.cold_day_c is None else 0.0
    rises("air", control.hot_day_c, control.hot_night_c, control.ramp_k, idle, 1)
    rises("rh", control.damp_day_pct, control.damp_night_pct, control.ramp_pct, 0, 1)
    # From its least where it is cold up to the speed that is set.
    rises("air", control.cold_day_c, control.cold_night_c, control.ramp_k, 0, planned)
    if control.cold_day_c is None and planned > 0:
        found.append(Control(target=where, fan=True, where=where, sensed=None, full=planned))
    if purge:
        found.append(Control(target=where, fan=True, where=where, sensed=None, gate=purge))
    return tuple(found)
