"""What a household owns, wherever it stands or lies, and the sizes in which it buys what is cut."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from canopy.equipment import FixtureSpec
from canopy.model import Id, Name, Record


class StockItem(Record):
    """So many of one thing that the household owns, in its spaces and in store together.

    ``kind`` says what it is, as a line of the kit has it: "lamp", "fan", "pot" and so on; ``size`` tells those of one
    name apart. A lamp brings its data, so that it can be tried where another is planned.
    """

    id: Id
    kind: Annotated[str, Field(min_length=1, max_length=40)]
    name: Name
    size: Annotated[str, Field(max_length=40)] = ""
    number: Annotated[float, Field(gt=0, le=10_000)] = 1
    lamp: FixtureSpec | None = None

    @property
    def like(self) -> str:
        """What tells it from other things, whatever space it is for."""
        return alike(self.kind, self.name, self.size)


def alike(kind: str, name: str, size: str = "") -> str:
    """Name a kind of thing, the same wherever it is used.

    Parameters
    ----------
    kind : "lamp", "fan", "pot" and so on
    name : as it is called, in whatever case
    size : as it is written, "" where there is only one

    Returns
    -------
    str : equal for things that can stand for each other
    """
    return "|".join((kind, " ".join(name.casefold().split()), size.casefold()))


class StockSizes(Record):
    """The sizes in which bars, boards, film and insulation are bought, and what a saw takes of each cut [m]."""

    bar_m: Annotated[float, Field(ge=0.2, le=12)] = 2.0
    board_long_m: Annotated[float, Field(ge=0.2, le=6)] = 2.0
    board_wide_m: Annotated[float, Field(ge=0.05, le=3)] = 0.6
    roll_wide_m: Annotated[float, Field(ge=0.1, le=6)] = 1.22
    foam_long_m: Annotated[float, Field(ge=0.2, le=6)] = 1.25
    foam_wide_m: Annotated[float, Field(ge=0.1, le=3)] = 0.6
    kerf_m: Annotated[float, Field(ge=0, le=0.01)] = 0.003
