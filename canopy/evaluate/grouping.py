"""Margins in groups: by station and by what mends them, so that eight rows short of one thing read as one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from canopy.margin import ORDER, Margin, Verdict, gap, worst

# What mends a margin alike: a name, and the beginnings of its margins' ids.
_FAMILIES: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("light", "Light on the plants", ("light.dli", "light.ppfd", "light.limit", "light.evenness", "light.net")),
    ("hours", "Hours of light", ("light.hours",)),
    ("near", "Room at the lamps", ("light.clearance", "light.clearance-side", "light.headroom", "light.leaf-warmth")),
    (
        "room",
        "Room for the plants",
        ("crops.touch", "crops.crowding", "crops.edge", "crops.outgrown", "crops.overlap", "crops.cells"),
    ),
    ("roots", "Room for roots", ("crops.roots",)),
    ("together", "Living together", ("crops.together",)),
    ("feed", "Feed and reservoir", ("crops.feed", "crops.reservoir")),
    ("bears", "What it bears", ("space.load", "space.shelf")),
    ("stands", "What stands where", ("space.clash", "space.holes")),
    ("water", "Water and floor", ("space.spill", "space.drip", "space.floor")),
    ("still", "Moving air", ("air.stir", "air.place-stir")),
    ("hung", "Where fans and filters hang", ("air.place",)),
    ("around", "The room's air", ("air.room",)),
    ("heard", "Noise", ("air.noise",)),
    ("load", "Electrical load", ("power.circuit", "power.outlet", "power.chain")),
)
# All else of the air is one path: what moves it, what it passes, what comes in.
_USUAL = {"air": ("path", "Airflow and its path")}


@dataclass(frozen=True, kw_only=True)
class Group:
    """Margins of one station that the same changes mend, worst first."""

    key: str
    station: str
    title: str
    margins: tuple[Margin, ...]

    @property
    def verdict(self) -> Verdict:
        """The worst verdict in it."""
        return worst(self.margins)

    @property
    def first(self) -> Margin:
        """The one that is worst."""
        return self.margins[0]

    @property
    def counts(self) -> tuple[tuple[Verdict, int], ...]:
        """How many of each verdict, worst first."""
        found = [margin.verdict for margin in self.margins]
        return tuple((verdict, found.count(verdict)) for verdict in ORDER if verdict in found)

    @property
    def mendable(self) -> bool:
        """Whether the tool knows changes that may mend some of it."""
        return any(margin.mendable for margin in self.margins)


def family(margin: Margin) -> tuple[str, str]:
    """Say what mends a margin, as a key and in words.

    Parameters
    ----------
    margin : any margin

    Returns
    -------
    tuple of str : key and title; the margin's own where nothing else is mended alike
    """
    kind = ".".join(margin.id.split(".")[:2])
    for key, title, kinds in _FAMILIES:
        if kind in kinds:
            return key, title
    return _USUAL.get(margin.station, (margin.id, margin.title))


def grouped(margins: Iterable[Margin]) -> tuple[Group, ...]:
    """Gather margins that are neither good nor mere information.

    Parameters
    ----------
    margins : ranked, worst first

    Returns
    -------
    tuple of Group : in the order of their worst; what could do harm stands alone and first, in groups of one
    """
    found: dict[tuple[str, str], list[Margin]] = {}
    for margin in margins:
        if margin.information or margin.verdict == "good":
            continue
        key, _ = family(margin)
        found.setdefault((margin.station, margin.id if margin.danger else key), []).append(margin)
    return tuple(
        Group(
            key=f"{station}.{key}",
            station=station,
            title=family(rows[0])[1] if len(rows) > 1 else rows[0].title,
            margins=tuple(sorted(rows, key=lambda margin: (ORDER.index(margin.verdict), -gap(margin)))),
        )
        for (station, key), rows in found.items()
    )


def dangers(margins: Iterable[Margin]) -> tuple[Margin, ...]:
    """Give those by which somebody could come to harm.

    Parameters
    ----------
    margins : any margins

    Returns
    -------
    tuple of Margin : in their order
    """
    return tuple(margin for margin in margins if margin.danger)
