"""Variants of a space side by side: only what differs, and when the dearer is paid back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from canopy.designer.outcome import Outcome
from canopy.evaluate.power.options import side_by_side
from canopy.library import Window
from canopy.margin import ORDER, Margin

MOST = 4


@dataclass(frozen=True, kw_only=True)
class ThingRow:
    """A thing to be had, and how many of it each variant takes."""

    name: str
    unit: str
    numbers: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class MarginRow:
    """A margin whose verdict or figure differs: as it is in each variant, None where it is not judged there."""

    title: str
    cells: tuple[Margin | None, ...]


@dataclass(frozen=True, kw_only=True, eq=False)
class Beside:
    """Variants side by side, the first one being that which others are held against.

    ``paybacks`` are months until what one costs more to buy than the first is saved in running, or the other way round
    where it is cheaper to buy and dearer to run; None where there is nothing to pay back, or never.
    """

    names: tuple[str, ...]
    outcomes: tuple[Outcome, ...]
    things: tuple[ThingRow, ...]
    margins: tuple[MarginRow, ...]
    paybacks: tuple[Window | None, ...]


def beside(rows: Sequence[tuple[str, Outcome]]) -> Beside:
    """Hold variants of a space against each other.

    Parameters
    ----------
    rows : names and outcomes, the first being what the others are held against

    Returns
    -------
    Beside : what is the same in all is left out; margins worst first
    """
    names, outcomes = tuple(name for name, _ in rows), tuple(outcome for _, outcome in rows)
    first = outcomes[0].report
    return Beside(
        names=names,
        outcomes=outcomes,
        things=tuple(_things(outcomes)),
        margins=tuple(_margins(outcomes)),
        paybacks=(
            None,
            *(side_by_side(first, item.report, (names[0], name)).payback_months for name, item in rows[1:]),
        ),
    )


def _things(outcomes: Sequence[Outcome]) -> list[ThingRow]:
    counts: list[Counter[tuple[str, str]]] = []
    for outcome in outcomes:
        found: Counter[tuple[str, str]] = Counter()
        for line in outcome.kit.lines:
            found[(line.name, line.unit)] += line.number  # type: ignore[assignment]
        counts.append(found)
    keys = dict.fromkeys(key for found in counts for key in found)
    rows = [
        ThingRow(name=name, unit=unit, numbers=tuple(found[(name, unit)] for found in counts)) for name, unit in keys
    ]
    return [row for row in rows if max(row.numbers) - min(row.numbers) > 1e-6]


def _margins(outcomes: Sequence[Outcome]) -> list[MarginRow]:
    known = [{margin.id: margin for margin in outcome.report.margins} for outcome in outcomes]
    ids = dict.fromkeys(key for row in known for key in row)
    found = []
    for key in ids:
        cells = tuple(row.get(key) for row in known)
        said = {(cell.verdict, cell.there.say()) if cell else None for cell in cells}
        title = next(cell.title for cell in cells if cell)
        if len(said) > 1 and not all(cell is None or cell.information for cell in cells):
            found.append(MarginRow(title=title, cells=cells))
    return sorted(found, key=_worst)


def _worst(row: MarginRow) -> tuple[int, str]:
    return min(ORDER.index(cell.verdict) for cell in row.cells if cell), row.title
