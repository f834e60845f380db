"""A factor on something computed of a space, as readings found it."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Id, Record

# What a factor multiplies: what a way of air moves; area of seams and what draughts bring; what walls and top pass per
# kelvin; how far leaves open their stomata; leaf area over the ground of a crown; heat that lamps bring in; their
# light; what a device gives off or takes.
Subject = Literal["airflow", "leak", "walls", "leaves", "leaf-area", "lamp-heat", "lamp-light", "device"]
Basis = Literal["log", "heater", "co2", "minutes", "pots", "meter", "picture"]
LEAST, MOST = 0.1, 10.0


class Correction(Record):
    """A factor on what is computed, with its standard error, found on a day by readings of one kind.

    It counts from that day on. ``target`` is the way of air, the device or the planting
    (the crop, for plants without one) that it is about. ``of`` is a stamp of what
    was measured: once that is another fan, another path or another crop, the factor says nothing more and no longer
    counts. ``applied`` is False while a person has set it aside.
    """

    id: Id
    subject: Subject
    target: Id | None = None
    factor: Annotated[float, Field(ge=LEAST, le=MOST)]
    standard_error: Annotated[float, Field(ge=0, le=5)]
    found_on: dt.date
    basis: Basis
    limits: Annotated[str, Field(max_length=300)] = ""
    of: Annotated[str, Field(max_length=12)] = ""
    applied: bool = True

    @property
    def about(self) -> tuple[str, str]:
        """What it corrects: at most one of a space is about the same."""
        return self.subject, self.target or ""
