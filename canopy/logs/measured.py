"""What sensors and meters measure: each quantity with the unit it is kept in, those it comes in, what is possible."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from canopy.errors import QuantityError

QuantityId = Literal[
    "air_c",
    "leaf_c",
    "root_c",
    "water_c",
    "rh_pct",
    "co2_ppm",
    "ppfd",
    "power_w",
    "energy_kwh",
    "ph",
    "ec_ms_cm",
    "level_l",
    "soil_pct",
    "battery_pct",
]
_CELSIUS: Mapping[str, tuple[float, float]] = {"°C": (1.0, 0.0), "°F": (5 / 9, -160 / 9), "K": (1.0, -273.15)}
_SHARE: Mapping[str, tuple[float, float]] = {"%": (1.0, 0.0), "0 to 1": (100.0, 0.0)}


@dataclass(frozen=True, kw_only=True)
class Measured:
    """A quantity that is read: ``unit`` as it is kept, ``units`` it may come in with factor and offset into that, from
    ``low`` to ``high`` what a sensor can show; what lies outside is a fault and not kept. ``decimals`` as it is shown.
    """

    id: QuantityId
    name: str
    unit: str
    units: Mapping[str, tuple[float, float]]
    low: float
    high: float
    decimals: int = 1
    words: tuple[str, ...] = ()


# How a column of another program is often headed; the first match counts.
MEASURED: Mapping[str, Measured] = {
    item.id: item
    for item in (
        Measured(
            id="leaf_c",
            name="Leaf temperature",
            unit="°C",
            units=_CELSIUS,
            low=-40,
            high=90,
            words=("leaf", "canopy temp", "infrared"),
        ),
        Measured(
            id="root_c",
            name="Root temperature",
            unit="°C",
            units=_CELSIUS,
            low=-40,
            high=90,
            words=("root", "soil temp", "substrate temp", "medium temp"),
        ),
        Measured(
            id="water_c",
            name="Water temperature",
            unit="°C",
            units=_CELSIUS,
            low=-5,
            high=90,
            words=("water temp", "reservoir temp", "tank temp", "solution temp"),
        ),
        Measured(
            id="soil_pct",
            name="Water in the mix",
            unit="%",
            units=_SHARE,
            low=0,
            high=100,
            decimals=0,
            words=("soil moist", "vwc", "substrate moist", "medium moist", "soil hum"),
        ),
        Measured(
            id="rh_pct",
            name="Humidity",
            unit="%",
            units=_SHARE,
            low=0,
            high=105,
            decimals=0,
            words=("humid", "rh", "feuchte", "humed", "h"),
        ),
        Measured(
            id="air_c",
            name="Air temperature",
            unit="°C",
            units=_CELSIUS,
            low=-60,
            high=90,
            words=("temp", "air", "t", "°c", "°f"),
        ),
        Measured(
            id="co2_ppm",
            name="CO₂",
            unit="ppm",
            units={"ppm": (1.0, 0.0), "%": (10_000.0, 0.0)},
            low=0,
            high=60_000,
            decimals=0,
            words=("co2", "co₂", "carbon"),
        ),
        Measured(
            id="ppfd",
            name="Light",
            unit="µmol/m²/s",
            units={"µmol/m²/s": (1.0, 0.0)},
            low=0,
            high=5000,
            decimals=0,
            words=("ppfd", "par", "µmol", "umol", "light"),
        ),
        Measured(
            id="energy_kwh",
            name="Energy, counted",
            unit="kWh",
            units={"kWh": (1.0, 0.0), "Wh": (0.001, 0.0)},
            low=0,
            high=1e7,
            decimals=2,
            words=("kwh", "energy", "wh"),
        ),
        Measured(
            id="power_w",
            name="Power",
            unit="W",
            units={"W": (1.0, 0.0), "kW": (1000.0, 0.0)},
            low=-20_000,
            high=50_000,
            decimals=0,
            words=("power", "watt", "(w)", "[w]"),
        ),
        Measured(id="ph", name="pH", unit="", units={"pH": (1.0, 0.0)}, low=0, high=14, words=("ph",)),
        Measured(
            id="ec_ms_cm",
            name="EC",
            unit="mS/cm",
            units={
                "mS/cm": (1.0, 0.0),
                "µS/cm": (0.001, 0.0),
                "ppm (500)": (1 / 500, 0.0),
                "ppm (640)": (1 / 640, 0.0),
                "ppm (700)": (1 / 700, 0.0),
            },
            low=0,
            high=30,
            decimals=2,
            words=("ec", "conduct", "tds"),
        ),
        Measured(
            id="level_l",
            name="Level",
            unit="L",
            units={"L": (1.0, 0.0), "gal": (3.785411784, 0.0)},
            low=0,
            high=5000,
            words=("level", "litre", "liter", "volume"),
        ),
        Measured(
            id="battery_pct",
            name="Battery",
            unit="%",
            units=_SHARE,
            low=0,
            high=101,
            decimals=0,
            words=("battery", "batt"),
        ),
    )
}
# In the order in which a person looks for them.
SHOWN: tuple[QuantityId, ...] = (
    "air_c",
    "rh_pct",
    "co2_ppm",
    "ppfd",
    "leaf_c",
    "root_c",
    "soil_pct",
    "water_c",
    "ph",
    "ec_ms_cm",
    "level_l",
    "power_w",
    "energy_kwh",
    "battery_pct",
)


def measured(quantity_id: str) -> Measured:
    """Find a quantity.

    Parameters
    ----------
    quantity_id : such as "air_c"

    Returns
    -------
    Measured : with its units

    Raises
    ------
    QuantityError : there is none of that name
    """
    found = MEASURED.get(quantity_id)
    if found is None:
        raise QuantityError(f"“{quantity_id}” is no quantity that is kept: use {', '.join(SHOWN)}")
    return found


def kept(quantity_id: str, value: float, unit: str = "") -> float:
    """Bring a reading into the unit in which it is kept.

    Parameters
    ----------
    quantity_id : such as "air_c"
    value : as it was read, finite
    unit : it was read in, one of the quantity's; the unit it is kept in when ""

    Returns
    -------
    float : in the quantity's own unit

    Raises
    ------
    QuantityError : an unknown unit, or a value that no sensor can show
    """
    item = measured(quantity_id)
    factor, offset = _factor(item, unit)
    found = value * factor + offset
    if not item.low <= found <= item.high:
        raise QuantityError(
            f"{item.name}: {value:g} {unit or item.unit} cannot be; {item.low:g} to {item.high:g} {item.unit} are kept"
        )
    return found


def _factor(item: Measured, unit: str) -> tuple[float, float]:
    if not unit or unit == item.unit:
        return 1.0, 0.0
    if unit not in item.units:
        raise QuantityError(f"{item.name} is read in {', '.join(item.units)}; “{unit}” is none of them")
    return item.units[unit]
