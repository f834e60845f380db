"""Small changes to a plan, as records: set figures of one thing, add parts, take parts out, move a part in its row.

Each names what it touches by ids, so that it fits whatever else has changed meanwhile; none holds a list that somebody
read earlier. ``at`` are the steps from the space (or the household) to what owns the list: ("airways", "exhaust") owns
the parts of that way, ("feed",) the parts of the feed, ("circuits", "hall") what else hangs on that circuit.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

Collection = Literal[
    "fixtures",
    "plants",
    "openings",
    "devices",
    "shelves",
    "columns",
    "trellises",
    "hung",
    "daylight",
    "light_goals",
    "alerts",
    "learnt",
    "courses",
    "care",
    "lids",
    "wet",
    "airways",
    "stirrers",
    "plantings",
    "rooms",
    "circuits",
    "parts",
    "other_loads",
    "trainings",
    "outlets",
    "carriers",
    "stock",
]
# What the ids of each kind of part begin with.
PREFIXES: dict[Collection, str] = {
    "fixtures": "lamp",
    "plants": "plant",
    "openings": "port",
    "devices": "device",
    "shelves": "shelf",
    "columns": "column",
    "trellises": "trellis",
    "hung": "hung",
    "daylight": "window",
    "light_goals": "goal",
    "alerts": "alert",
    "learnt": "learnt",
    "courses": "course",
    "care": "care",
    "lids": "lid",
    "wet": "wet",
    "airways": "way",
    "stirrers": "stirrer",
    "plantings": "planting",
    "rooms": "room",
    "circuits": "circuit",
    "parts": "part",
    "other_loads": "load",
    "trainings": "training",
    "outlets": "outlet",
    "carriers": "carrier",
    "stock": "stock",
}
# What belongs to the household, not to a space.
HOUSEHOLD = (
    "plantings",
    "rooms",
    "circuits",
    "outlets",
    "carriers",
    "stock",
    "bought_in",
    "site",
    "tariff",
    "quiet",
    "spaces",
)


@dataclass(frozen=True, kw_only=True)
class Change:
    """New values for one part of a list; without ``collection`` for what ``at`` names: the space itself when empty.

    ``was`` holds the values that a person saw when they typed new ones: where one of them is another by now, and not
    what they want anyway, the change is refused (``PlanConflictError``) instead of writing over it.
    """

    values: Mapping[str, Any] = field(default_factory=dict)
    collection: Collection | None = None
    part_id: str = ""
    at: tuple[str, ...] = ()
    was: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Add:
    """New parts for a list. Each takes a new number into its id: ``prefix`` and that number, never used before.

    Ids that the parts bring stand only for the references among what is added together. ``after`` is the part behind
    which they go: the last one when None, the beginning when "".
    """

    collection: Collection
    parts: tuple[Mapping[str, Any], ...]
    prefix: str
    at: tuple[str, ...] = ()
    after: str | None = None


@dataclass(frozen=True, kw_only=True)
class Remove:
    """Parts to take out of a list; one that is not there any more is passed over."""

    collection: Collection
    part_ids: tuple[str, ...]
    at: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Place:
    """A part to move within its row: ``by`` places, or to where the part ``onto`` stands now."""

    collection: Collection
    part_id: str
    at: tuple[str, ...] = ()
    by: int = 0
    onto: str = ""


Act = Change | Add | Remove | Place
