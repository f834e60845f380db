"""Small diagrams of what one can see on plants: a few outlines of our own, and what is wrong marked in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import cos, pi, sin

# All are drawn on 48 by 48. "line" is the outline, "sick" what is discoloured, "dark" what is dark or dead, "pale" what
# is bleached or powdery, "wet" what is water.


@dataclass(frozen=True)
class Stroke:
    """A path and what it stands for."""

    d: str
    kind: str


_LEAF = "M24 4C36 10 40 24 24 44C8 24 12 10 24 4Z"
_VEINS = "M24 6V46M24 16L32 12M24 16L16 12M24 24L34 19M24 24L14 19M24 32L31 28M24 32L17 28"
_POT = "M16 34H32L30 45H18Z"
_SOIL = "M4 30H44V45H4Z"


def _dots(*places: tuple[float, float, float]) -> str:
    return "".join(
        f"M{x - r:g} {y:g}a{r:g} {r:g} 0 1 0 {2 * r:g} 0a{r:g} {r:g} 0 1 0 {-2 * r:g} 0Z" for x, y, r in places
    )


def _ring(x: float, y: float, r: float, count: int, size: float) -> str:
    turns = [2 * pi * k / count for k in range(count)]
    return _dots(*((round(x + r * cos(t), 1), round(y + r * sin(t), 1), size) for t in turns))


def _leaf(*more: Stroke, fill: str = "") -> tuple[Stroke, ...]:
    base = (Stroke(_LEAF, fill),) if fill else ()
    return (*base, *more, Stroke(_LEAF, "line"), Stroke("M24 6V46", "line"))


def _plant(stem: str, leaves: str, *more: Stroke) -> tuple[Stroke, ...]:
    return (*more, Stroke(_POT, "line"), Stroke(stem, "line"), Stroke(leaves, "line"))


def _bug(*more: Stroke) -> tuple[Stroke, ...]:
    return more


_SPOTS = _dots((18, 16, 2.6), (29, 20, 3), (21, 27, 2.4), (27, 33, 2))
_SPECKS = _dots(*((14 + 2.9 * k % 20, 12 + 5.3 * k % 24, 0.8) for k in range(22)))
_FRUIT = _dots((24, 28, 14))
_ROOTS = "M24 20C24 28 14 30 12 42M24 20C24 30 22 34 20 44M24 20C24 30 28 34 30 44M24 20C24 28 34 30 38 42"
_UPRIGHT = "M24 34V14"
_PAIRS = "M24 26C18 20 14 20 10 24C16 28 20 28 24 26M24 26C30 20 34 20 38 24C32 28 28 28 24 26"
_TOPS = "M24 16C20 10 16 10 13 12C17 17 20 18 24 16M24 16C28 10 32 10 35 12C31 17 28 18 24 16"

PICTURES: Mapping[str, tuple[Stroke, ...]] = {
    "leaf-yellow": _leaf(Stroke(_VEINS, "line"), fill="sick"),
    "leaf-veins": (Stroke(_LEAF, "sick"), Stroke(_VEINS, "band"), Stroke(_LEAF, "line")),
    "leaf-dark": _leaf(fill="dark"),
    "leaf-purple": _leaf(Stroke(_VEINS, "vein")),
    "leaf-edge": _leaf(
        Stroke("M24 4C36 10 40 24 24 44C8 24 12 10 24 4ZM24 9C15 14 13 24 24 38C35 24 33 14 24 9Z", "dark")
    ),
    "leaf-tip": _leaf(Stroke("M18 36L24 44L30 36C27 34 21 34 18 36Z", "dark")),
    "leaf-bleached": _leaf(Stroke("M24 4C36 10 38 18 34 26C24 22 20 22 14 26C10 18 12 10 24 4Z", "pale")),
    "leaf-spots": _leaf(Stroke(_SPOTS, "dark")),
    "leaf-silver": _leaf(
        Stroke("M16 14L22 18L20 22L15 18ZM27 22L33 20L31 27L27 27Z", "pale"),
        Stroke(_dots((19, 17, 0.9), (30, 23, 0.9), (22, 30, 0.9), (29, 30, 0.9)), "dark"),
    ),
    "leaf-stipple": _leaf(Stroke(_SPECKS, "sick"), Stroke("M34 8L44 4M35 12L45 12M33 16L44 20M40 5L41 18", "thread")),
    "leaf-trails": _leaf(Stroke("M16 16C20 12 24 18 21 22C18 26 28 26 30 20C32 15 36 22 30 30", "trail")),
    "leaf-holes": _leaf(Stroke(_dots((18, 18, 3.4), (29, 25, 4)), "hole"), Stroke("M36 14C30 14 30 20 37 21", "hole")),
    "leaf-powder": _leaf(Stroke(_dots((18, 16, 4), (28, 18, 5), (22, 28, 5), (29, 31, 3)), "pale")),
    "leaf-fuzz": _leaf(
        Stroke(_dots((20, 22, 7)), "dark"),
        Stroke("M14 17L10 13M18 14L17 9M25 16L28 11M13 24L8 25M26 26L31 29", "thread"),
    ),
    "leaf-sticky": _leaf(Stroke(_dots((17, 18, 1.8), (29, 16, 1.8), (24, 29, 2), (31, 27, 1.5)), "wet")),
    "curl-up": (
        Stroke("M6 14C10 34 38 34 42 14", "line"),
        Stroke("M6 14C14 24 34 24 42 14", "line"),
        Stroke("M24 22V42", "line"),
    ),
    "curl-down": (
        Stroke("M24 10C10 10 6 22 8 36C14 26 18 22 24 20", "line"),
        Stroke("M24 10C38 10 42 22 40 36C34 26 30 22 24 20", "line"),
        Stroke("M24 10V44", "line"),
    ),
    "leaf-twisted": (Stroke("M24 6C34 10 18 16 28 22C38 28 14 32 24 44C10 36 22 30 16 24C10 18 14 10 24 6Z", "line"),),
    "leaf-blisters": _leaf(Stroke(_dots((18, 18, 2), (22, 26, 2), (28, 18, 2), (30, 27, 2), (25, 34, 1.6)), "bump")),
    "leaf-glassy": _leaf(Stroke("M15 16C22 12 26 20 22 26C16 28 12 22 15 16ZM27 26C33 22 34 30 28 34Z", "wet")),
    "leaf-mosaic": _leaf(Stroke("M17 12L24 16L20 22L14 18ZM26 18L34 20L29 28L25 25ZM18 28L24 30L23 37Z", "sick")),
    "plant-limp": _plant(
        "M24 34C24 22 20 18 14 20", "M14 20C8 22 8 30 10 34C15 30 16 25 14 20M24 26C32 22 36 26 38 34C32 33 28 30 24 26"
    ),
    "plant-leggy": _plant(
        "M24 34V4",
        "M24 8C20 5 17 5 15 7C18 10 21 10 24 8M24 8C28 5 31 5 33 7C30 10 27 10 24 8"
        "M24 22C28 19 31 19 33 21C30 24 27 24 24 22",
    ),
    "plant-leaning": _plant(
        "M24 34C26 24 32 16 40 12",
        "M40 12C36 7 33 7 30 9C33 13 36 14 40 12M32 19C27 15 24 16 22 18C26 22 29 22 32 19",
        Stroke(_dots((42, 5, 3)), "sick"),
    ),
    "plant-small": _plant(
        "M24 34V28", "M24 30C20 26 17 27 16 29C19 32 22 32 24 30M24 30C28 26 31 27 32 29C29 32 26 32 24 30"
    ),
    "plant-plain": _plant(_UPRIGHT, _PAIRS + _TOPS, Stroke("M20 5L28 11M28 5L20 11", "cross")),
    "plant-bolts": _plant("M24 34V6", _PAIRS, Stroke(_ring(24, 7, 3.6, 6, 1.8), "sick")),
    "plant-fallen": (
        Stroke(_SOIL, "soil"),
        Stroke("M16 30C17 28 17 27 18 27C26 26 34 27 42 24", "line"),
        Stroke("M42 24C40 19 36 19 34 21C36 25 39 26 42 24", "line"),
        Stroke(_dots((17, 28, 2)), "dark"),
    ),
    "fruit-drop": (
        Stroke("M10 8H38M24 8V14", "line"),
        Stroke(_dots((24, 38, 5)), "sick"),
        Stroke("M24 18V22M24 25V29", "thread"),
    ),
    "fruit-end": (Stroke(_dots((24, 38, 6)), "dark"), Stroke(_FRUIT, "line"), Stroke("M24 14V8M24 12L30 9", "line")),
    "fruit-bent": (Stroke("M14 14C36 8 42 30 26 42C30 30 28 22 14 14Z", "line"), Stroke("M14 14L10 8", "line")),
    "fruit-crack": (
        Stroke("M24 16L21 22L26 26L22 32L25 40", "crack"),
        Stroke(_FRUIT, "line"),
        Stroke("M24 14V8M24 12L30 9", "line"),
    ),
    "roots-brown": (Stroke("M6 18H42", "line"), Stroke("M24 18V6", "line"), Stroke(_ROOTS, "rotten")),
    "roots-bound": (
        Stroke("M12 10H36L33 44H15Z", "line"),
        Stroke("M16 20C24 14 34 18 32 24C30 30 16 26 16 32C16 38 30 40 32 34", "thread"),
    ),
    "soil-crust": (Stroke(_SOIL, "soil"), Stroke("M4 30C10 26 14 31 20 28C26 25 32 31 44 27V32H4Z", "pale")),
    "soil-green": (Stroke(_SOIL, "soil"), Stroke("M4 30C12 27 20 31 28 28C34 26 40 30 44 28V33H4Z", "band")),
    "soil-mould": (
        Stroke(_SOIL, "soil"),
        Stroke("M10 30L8 24M14 30L15 22M20 30L18 25M27 30L29 23M34 30L33 25M39 30L42 24", "thread"),
    ),
    "tub-drift": (
        Stroke("M8 26H40V42H8Z", "wet"),
        Stroke("M8 18V42H40V18", "line"),
        Stroke("M6 12C12 2 18 20 24 10C30 0 36 18 42 6", "line"),
    ),
    "glass-drips": (
        Stroke("M8 6H40V42H8Z", "line"),
        Stroke(_dots((15, 16, 2.4), (25, 12, 2), (33, 20, 2.6), (20, 28, 2.2)), "wet"),
        Stroke("M15 18V32M33 22V38M25 14V22", "wetline"),
    ),
    "bug-gnat": _bug(
        Stroke("M24 20C20 26 20 34 24 40C28 34 28 26 24 20Z", "dark"),
        Stroke(_dots((24, 16, 3.4)), "dark"),
        Stroke("M22 20C12 18 8 28 10 34C18 32 22 26 22 20M26 20C36 18 40 28 38 34C30 32 26 26 26 20", "line"),
        Stroke("M21 24L10 16M27 24L38 16M21 32L14 44M27 32L34 44M23 13L18 6M25 13L30 6", "line"),
    ),
    "bug-white": _bug(
        Stroke("M24 12C12 20 12 34 24 42C36 34 36 20 24 12Z", "pale"),
        Stroke("M24 12V42M24 12C12 20 12 34 24 42C36 34 36 20 24 12Z", "line"),
        Stroke(_dots((24, 10, 2.6)), "dark"),
    ),
    "bug-slender": _bug(
        Stroke("M24 6C20 14 20 34 24 44C28 34 28 14 24 6Z", "sick"),
        Stroke("M24 6C20 14 20 34 24 44C28 34 28 14 24 6Z", "line"),
        Stroke("M22 14L16 10M26 14L32 10M21 22L14 22M27 22L34 22M22 30L16 34M26 30L32 34", "line"),
    ),
    "bug-cluster": _bug(
        Stroke("M24 46V2", "line"),
        Stroke(_dots((19, 12, 3.6), (29, 16, 3.6), (18, 22, 3.6), (29, 26, 3.6), (19, 32, 3.6), (28, 36, 3.2)), "band"),
    ),
    "bug-cotton": _bug(
        Stroke("M24 46V24L10 8M24 24L38 8", "line"),
        Stroke(_ring(24, 24, 5, 7, 3), "pale"),
        Stroke(_ring(24, 24, 5, 7, 3), "line"),
    ),
    "bug-shell": _bug(
        Stroke("M22 46V2M26 46V2", "line"),
        Stroke("M22 10C14 10 14 20 22 20ZM26 22C34 22 34 32 26 32ZM22 32C15 32 15 40 22 40Z", "dark"),
    ),
}
