"""A change that mends a margin, in words and as changes."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.margin import Sentence
from canopy.plan.document import Space
from canopy.plan.edit import Change


@dataclass(frozen=True, kw_only=True)
class Remedy:
    """A change that mends a margin, in words and as changes."""

    label: Sentence
    changes: tuple[Change, ...]


def changes_between(before: Space, after: Space, keys: tuple[str, ...]) -> tuple[Change, ...]:
    """Write what differs between two states of a space as changes.

    Parameters
    ----------
    before : as it is
    after : as it should be
    keys : which parts of the space to compare, such as "airways"

    Returns
    -------
    tuple of Change : one with all lists that differ, or none
    """
    values = {
        key: [part.model_dump(mode="json") for part in getattr(after, key)]
        for key in keys
        if getattr(after, key) != getattr(before, key)
    }
    return (Change(values=values),) if values else ()
