"""What the frame knows of a station: a record. The frame never names a station; a registry outside it does."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.margin import Verdict, worst
from canopy.plan import Space
from canopy.plan.changes import Collection
from canopy.quantities import Reader
from canopy_web.forms.part import PartForm

# Where a request is (`canopy_web.workspace.where.Where`, which names the station's record in its turn).
Place = Any
# Fills what a tab's template shows; the third are forms that were refused, by key.
Fill = Callable[[Place, SpaceReport, Mapping[str, Any]], dict[str, Any]]


@dataclass(frozen=True, kw_only=True)
class Tab:
    """One part of a station: what fills it, and the template that shows it."""

    key: str
    name: str
    template: str
    fill: Fill


# Makes the form of a part: the place, the part as the page showed it, and what was sent.
PartFormOf = Callable[[Place, Any, Any], PartForm]


def plain(form: type[PartForm]) -> PartFormOf:
    """Make forms straight over a part's own record."""

    def make(where: Place, part: Any, data: Any = None) -> PartForm:
        return form(part.model_dump(mode="json"), data, system=where.system, prefix=part.id)

    return make


@dataclass(frozen=True, kw_only=True)
class PartKind:
    """A kind of part that lies in a list of a space, with all that the frame does with it.

    ``fresh`` makes a new one; ``axes`` are the measures by which it is dragged.
    """

    collection: Collection
    noun: str
    form: PartFormOf | None = None
    axes: tuple[str, ...] = ()
    fresh: Callable[[Space], dict[str, Any]] | None = None
    named: str = ""

    @property
    def article(self) -> str:
        """The noun with "a" or "an", as the history says that one was added."""
        return self.named or f"{'an' if self.noun[0] in 'aeiou' else 'a'} {self.noun}"


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One cell of the title block: a figure that leads to its station.

    ``judged`` are the beginnings of the margins that judge this very figure: the worst of them is its verdict.
    """

    name: str
    text: Callable[[SpaceReport, Reader], str]
    judged: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Station:
    """Everything that the frame needs of a station.

    ``urls`` is the module with its addresses, ``template`` what stands above its tabs, ``parts`` the kinds of parts it
    brings, ``assumed`` what may be taken for granted there, in words, ``layers`` what it adds to the drawing,
    ``figures`` its cells of the title block. ``beneath`` is the template of what belongs right under the drawing;
    ``follows`` says that its tabs show the climate, which comes after the rest; ``judges`` that margins are of it.
    """

    key: str
    name: str
    urls: str
    tabs: tuple[Tab, ...]
    template: str = "workspace/_tabs.html"
    beneath: str = ""
    parts: tuple[PartKind, ...] = ()
    assumed: Mapping[str, str] = field(default_factory=dict)
    layers: frozenset[str] = frozenset()
    figures: tuple[Figure, ...] = ()
    follows: bool = False
    judges: bool = True

    def tab(self, key: str) -> Tab:
        """Give a tab by its key, or the first one."""
        return next((tab for tab in self.tabs if tab.key == key), self.tabs[0])


@dataclass(frozen=True, kw_only=True)
class House:
    """All stations in the grower's order, as the registry hands them to the frame."""

    stations: tuple[Station, ...]

    def part_kind(self, collection: str) -> PartKind | None:
        """Find the kind of part that lies in a list, whichever station brings it."""
        return next((kind for s in self.stations for kind in s.parts if kind.collection == collection), None)

    def assumed(self, space: Space) -> list[tuple[str, Station, str]]:
        """List what nobody has confirmed of a space: key, station, and in words."""
        return [(key, s, s.assumed[key]) for key in space.assumed for s in self.stations if key in s.assumed]


@dataclass(frozen=True, kw_only=True)
class Cell:
    """A figure of the title block, written."""

    station: Station
    name: str
    text: str
    verdict: Verdict | None = None


def _verdict(report: SpaceReport, judged: tuple[str, ...]) -> Verdict | None:
    found = [margin for margin in report.margins if margin.id.startswith(judged) and not margin.information]
    return worst(found) if judged and found else None


def title_block(house: House, report: SpaceReport, reader: Reader) -> list[Cell]:
    """Fill in the title block."""
    return [
        Cell(
            station=station,
            name=figure.name,
            text=figure.text(report, reader),
            verdict=_verdict(report, figure.judged),
        )
        for station in house.stations
        for figure in station.figures
    ]
