"""The kinds of quantity people type, with the units each accepts."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Display:
    """How one unit system shows a kind: pint unit, printed symbol, decimals."""

    unit: str
    symbol: str
    decimals: int


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A kind of quantity.

    ``unit`` is the unit inside the program (a pint name); ``aliases`` maps
    what people write to pint names; ``metric`` and ``us`` say how to show it.
    ``rewrites`` are patterns for unit names that hold digits, with a plain word for each.
    """

    name: str
    unit: str
    aliases: dict[str, str]
    metric: Display
    us: Display
    example: str
    rewrites: tuple[tuple[str, str], ...] = ()


_LENGTH = {
    "m": "meter",
    "meter": "meter",
    "metre": "meter",
    "meters": "meter",
    "metres": "meter",
    "cm": "centimeter",
    "mm": "millimeter",
    "in": "inch",
    "inch": "inch",
    "inches": "inch",
    '"': "inch",
    "″": "inch",
    "”": "inch",
    "''": "inch",
    "ft": "foot",
    "foot": "foot",
    "feet": "foot",
    "'": "foot",
    "′": "foot",
    "’": "foot",
    "yd": "yard",
}

LENGTH = Kind(
    name="length",
    unit="meter",
    aliases=_LENGTH,
    metric=Display(unit="centimeter", symbol="cm", decimals=1),
    us=Display(unit="inch", symbol="in", decimals=1),
    example="127 cm, 1.27 m or 4 ft 2 in",
)
HEIGHT_ABOVE_SEA = Kind(
    name="height above sea level",
    unit="meter",
    aliases=_LENGTH,
    metric=Display(unit="meter", symbol="m", decimals=0),
    us=Display(unit="foot", symbol="ft", decimals=0),
    example="240 m or 800 ft",
)
DIAMETER = Kind(
    name="diameter",
    unit="meter",
    aliases=_LENGTH,
    metric=Display(unit="millimeter", symbol="mm", decimals=0),
    us=Display(unit="inch", symbol="in", decimals=1),
    example="125 mm or 5 in",
)
FLOW = Kind(
    name="airflow",
    unit="meter**3/hour",
    aliases={
        "m3/h": "meter**3/hour",
        "m³/h": "meter**3/hour",
        "m^3/h": "meter**3/hour",
        "cmh": "meter**3/hour",
        "cfm": "foot**3/minute",
        "ft3/min": "foot**3/minute",
        "l/s": "liter/second",
        "m3/s": "meter**3/second",
    },
    metric=Display(unit="meter**3/hour", symbol="m³/h", decimals=0),
    us=Display(unit="foot**3/minute", symbol="CFM", decimals=0),
    example="180 m3/h or 106 CFM",
)
TEMPERATURE = Kind(
    name="temperature",
    unit="degree_Celsius",
    aliases={
        "c": "degree_Celsius",
        "°c": "degree_Celsius",
        "degc": "degree_Celsius",
        "f": "degree_Fahrenheit",
        "°f": "degree_Fahrenheit",
        "degf": "degree_Fahrenheit",
        "k": "kelvin",
    },
    metric=Display(unit="degree_Celsius", symbol="°C", decimals=1),
    us=Display(unit="degree_Fahrenheit", symbol="°F", decimals=0),
    example="22 C or 72 F",
)
TEMPERATURE_RISE = Kind(
    name="temperature rise",
    unit="kelvin",
    aliases={
        "k": "kelvin",
        "c": "kelvin",
        "°c": "kelvin",
        "f": "delta_degree_Fahrenheit",
        "°f": "delta_degree_Fahrenheit",
    },
    metric=Display(unit="kelvin", symbol="K", decimals=1),
    us=Display(unit="delta_degree_Fahrenheit", symbol="°F", decimals=1),
    example="4 K or 7 F",
)
POWER = Kind(
    name="power",
    unit="watt",
    aliases={"w": "watt", "watt": "watt", "watts": "watt", "kw": "kilowatt"},
    metric=Display(unit="watt", symbol="W", decimals=0),
    us=Display(unit="watt", symbol="W", decimals=0),
    example="150 W",
)
PERCENT = Kind(
    name="share",
    unit="percent",
    aliases={"%": "percent", "pct": "percent", "percent": "percent"},
    metric=Display(unit="percent", symbol="%", decimals=0),
    us=Display(unit="percent", symbol="%", decimals=0),
    example="60 %",
)
ANGLE = Kind(
    name="angle",
    unit="degree",
    aliases={"°": "degree", "deg": "degree", "degrees": "degree", "rad": "radian"},
    metric=Display(unit="degree", symbol="°", decimals=0),
    us=Display(unit="degree", symbol="°", decimals=0),
    example="15°",
)
DURATION = Kind(
    name="time",
    unit="hour",
    aliases={"h": "hour", "hr": "hour", "hrs": "hour", "hours": "hour", "hour": "hour", "min": "minute", "m": "minute"},
    metric=Display(unit="hour", symbol="h", decimals=1),
    us=Display(unit="hour", symbol="h", decimals=1),
    example="14 h or 13 h 30 min",
)

VOLUME = Kind(
    name="volume",
    unit="liter",
    aliases={
        "l": "liter",
        "litre": "liter",
        "liter": "liter",
        "litres": "liter",
        "liters": "liter",
        "ml": "milliliter",
        "gal": "gallon",
        "gallon": "gallon",
        "gallons": "gallon",
        "qt": "quart",
        "pt": "pint",
    },
    metric=Display(unit="liter", symbol="L", decimals=2),
    us=Display(unit="gallon", symbol="gal", decimals=2),
    example="11 L or 3 gal",
)
WEIGHT = Kind(
    name="weight",
    unit="kilogram",
    aliases={"kg": "kilogram", "g": "gram", "lb": "pound", "lbs": "pound", "oz": "ounce"},
    metric=Display(unit="kilogram", symbol="kg", decimals=1),
    us=Display(unit="pound", symbol="lb", decimals=1),
    example="12 kg or 26 lb",
)
EC = Kind(
    name="strength",
    unit="millisiemens/centimeter",
    aliases={
        "ms/cm": "millisiemens/centimeter",
        "ms": "millisiemens/centimeter",
        "ec": "millisiemens/centimeter",
        "us/cm": "microsiemens/centimeter",
        "µs/cm": "microsiemens/centimeter",
        "us": "microsiemens/centimeter",
        "µs": "microsiemens/centimeter",
        "ppmfive": "ppm500",
        "ppmseven": "ppm700",
    },
    metric=Display(unit="millisiemens/centimeter", symbol="mS/cm", decimals=2),
    us=Display(unit="millisiemens/centimeter", symbol="mS/cm", decimals=2),
    example="1.4 mS/cm, 700 ppm500 or 980 ppm700",
    rewrites=((r"ppm\s*\(?500\)?", "ppmfive"), (r"ppm\s*\(?700\)?", "ppmseven")),
)
PRESSURE = Kind(
    name="pressure",
    unit="pascal",
    aliases={
        "pa": "pascal",
        "pascal": "pascal",
        "pascals": "pascal",
        "hpa": "hectopascal",
        "mbar": "millibar",
        "inwg": "inch_H2O",
        "inwc": "inch_H2O",
        "mmwc": "mm_H2O",
        "mmwg": "mm_H2O",
    },
    metric=Display(unit="pascal", symbol="Pa", decimals=1),
    us=Display(unit="inch_H2O", symbol="in wg", decimals=2),
    example="180 Pa or 0.72 in wg",
    rewrites=(
        (r"in\.?\s*w\.?\s*[gc]\.?", "inwg"),
        (r"mm\s*w\.?\s*[gc]\.?", "mmwg"),
        (r"in\s*h2o", "inwg"),
        (r"mm\s*h2o", "mmwg"),
    ),
)
AIR_SPEED = Kind(
    name="air speed",
    unit="meter/second",
    aliases={"m/s": "meter/second", "ft/min": "foot/minute", "fpm": "foot/minute", "km/h": "kilometer/hour"},
    metric=Display(unit="meter/second", symbol="m/s", decimals=2),
    us=Display(unit="foot/minute", symbol="ft/min", decimals=0),
    example="0.5 m/s or 100 ft/min",
)
AREA = Kind(
    name="area",
    unit="meter**2",
    aliases={"sqm": "meter**2", "sqcm": "centimeter**2", "sqft": "foot**2", "sqin": "inch**2"},
    metric=Display(unit="meter**2", symbol="m²", decimals=1),
    us=Display(unit="foot**2", symbol="ft²", decimals=0),
    example="12 m² or 130 ft²",
    rewrites=(
        (r"cm\s*\^?[2²]", "sqcm"),
        (r"ft\s*\^?[2²]|sq\.?\s*ft", "sqft"),
        (r"in\s*\^?[2²]|sq\.?\s*in", "sqin"),
        (r"(?<![a-z])m\s*\^?[2²]", "sqm"),
    ),
)

SMALL_AREA = Kind(
    name="small area",
    unit="centimeter**2",
    aliases={"sqcm": "centimeter**2", "sqm": "meter**2", "sqin": "inch**2"},
    metric=Display(unit="centimeter**2", symbol="cm²", decimals=0),
    us=Display(unit="inch**2", symbol="in²", decimals=0),
    example="80 cm² or 12 in²",
    rewrites=(
        (r"cm\s*\^?[2²]", "sqcm"),
        (r"in\s*\^?[2²]|sq\.?\s*in", "sqin"),
        (r"(?<![a-z])m\s*\^?[2²]", "sqm"),
    ),
)
ROOM_VOLUME = Kind(
    name="room volume",
    unit="meter**3",
    aliases={"cbm": "meter**3", "cbft": "foot**3"},
    metric=Display(unit="meter**3", symbol="m³", decimals=2),
    us=Display(unit="foot**3", symbol="ft³", decimals=0),
    example="1.8 m³ or 64 ft³",
    rewrites=((r"ft\s*\^?[3³]|cu\.?\s*ft", "cbft"), (r"(?<![a-z])m\s*\^?[3³]", "cbm")),
)
HEAT_LOSS = Kind(
    name="heat loss",
    unit="watt/kelvin",
    aliases={"w/k": "watt/kelvin", "btu/h/f": "british_thermal_unit/hour/delta_degree_Fahrenheit"},
    metric=Display(unit="watt/kelvin", symbol="W/K", decimals=1),
    us=Display(unit="british_thermal_unit/hour/delta_degree_Fahrenheit", symbol="BTU/h·°F", decimals=0),
    example="27 W/K",
)
WATER_RATE = Kind(
    name="water rate",
    unit="gram/hour",
    aliases={"g/h": "gram/hour", "oz/h": "ounce/hour"},
    metric=Display(unit="gram/hour", symbol="g/h", decimals=0),
    us=Display(unit="ounce/hour", symbol="oz/h", decimals=1),
    example="90 g/h or 3.2 oz/h",
)
FORCE = Kind(
    name="force",
    unit="newton",
    aliases={"n": "newton", "lbf": "pound_force"},
    metric=Display(unit="newton", symbol="N", decimals=0),
    us=Display(unit="pound_force", symbol="lbf", decimals=0),
    example="30 N or 7 lbf",
)

KINDS = {
    k.name: k
    for k in (
        LENGTH,
        DIAMETER,
        FLOW,
        TEMPERATURE,
        TEMPERATURE_RISE,
        POWER,
        PERCENT,
        ANGLE,
        DURATION,
        VOLUME,
        WEIGHT,
        EC,
        PRESSURE,
        AIR_SPEED,
        AREA,
        SMALL_AREA,
        ROOM_VOLUME,
        HEAT_LOSS,
        WATER_RATE,
        FORCE,
    )
}
