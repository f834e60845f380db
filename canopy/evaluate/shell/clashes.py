"""Things that stand in each other: lamps in lamps, shelves and columns; openings cut into each other."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.margin import Amount, Margin, Step, Working, sentence
from canopy.plan.document import Space
from canopy.plan.shell import Opening
from canopy.plan.solids import clashes, cut_into
from canopy.words import counted

_MOST_NAMED = 6


def clash_margins(space: Space) -> Iterator[Margin]:
    """Judge what stands where.

    Parameters
    ----------
    space : with its lamps, shelves, columns and openings

    Returns
    -------
    iterator of Margin : bodies, and openings; none of a kind where nothing is in the way of anything
    """
    found = sorted(clashes(space), key=lambda item: -item.depth_m)
    if found:
        worst = found[0]
        amounts = {"deep": Amount(value=worst.depth_m, unit="length")}
        rest = len(found) - 1
        more = f" There {'is' if rest == 1 else 'are'} {counted(rest, 'more such pair')}." if rest else ""
        yield Margin(
            id="space.clash",
            station="space",
            title="Things that stand in each other",
            parts=tuple(dict.fromkeys(key for item in found for key in (item.two_id, item.one_id))),
            verdict="over",
            mendable=True,
            need=sentence("none"),
            there=sentence(counted(len(found), "pair")),
            why=sentence(
                f"{worst.two[0].upper()}{worst.two[1:]} stands {{deep}} deep in {worst.one}.{more}", **amounts
            ),
            working=Working(
                formula="depth = the shortest way by which one could be moved out of the other",
                steps=tuple(
                    Step(
                        symbol="",
                        meaning=f"{item.one} and {item.two}",
                        amount=Amount(value=item.depth_m, unit="length"),
                    )
                    for item in found[:_MOST_NAMED]
                ),
                source="Geometry: separating axes of convex bodies",
                certainty="As typed; a frame of bars counts as the whole frame.",
            ),
        )
    holes = list(cut_into(space))
    if holes:
        yield _cut(holes)


def _cut(holes: list[tuple[Opening, Opening]]) -> Margin:
    one, two = holes[0]
    return Margin(
        id="space.holes",
        station="space",
        title="Openings cut into each other",
        parts=tuple(dict.fromkeys(hole.id for pair in holes for hole in pair)),
        verdict="over",
        mendable=True,
        need=sentence("none"),
        there=sentence(counted(len(holes), "pair")),
        why=sentence(
            f"The {_words(two)} on the {two.face} face reaches into the {_words(one)} there: cut neither before one is "
            "moved."
        ),
        working=Working(
            formula="distance of the middles against half of both sizes",
            steps=tuple(
                Step(symbol="", meaning=f"{_words(b)} in {_words(a)}", amount=Amount(value=b.across_m, unit="diameter"))
                for a, b in holes[:_MOST_NAMED]
            ),
            source="Geometry",
            certainty="As typed.",
        ),
    )


def _words(hole: Opening) -> str:
    return "port" if hole.shape == "round" else "mesh window" if hole.shape == "mesh" else hole.shape
