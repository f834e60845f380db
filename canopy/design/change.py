"""A change that mends a margin, in words and as changes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from canopy.margin import Sentence
from canopy.plan.changes import PREFIXES, Act, Add, Change, Collection, Place, Remove
from canopy.plan.document import Space


@dataclass(frozen=True, kw_only=True)
class Remedy:
    """A change that mends a margin, in words and as changes."""

    label: Sentence
    changes: tuple[Act, ...]


def changes_between(before: Space, after: Space, keys: tuple[Collection, ...]) -> tuple[Act, ...]:
    """Write what differs between two states of a space as small changes.

    Parameters
    ----------
    before : as it is
    after : as it should be
    keys : which lists of the space to compare, such as "airways"

    Returns
    -------
    tuple : openings first, since ways of air refer to them; none where nothing differs
    """
    found: list[Act] = []
    for key in sorted(keys, key=lambda name: name != "openings"):
        one, two = (_listed(getattr(space, key)) for space in (before, after))
        found += _differences(key, (), one, two)
    return tuple(found)


def listed_changes(
    collection: Collection, at: tuple[str, ...], before: list[dict[str, Any]], after: list[dict[str, Any]]
) -> tuple[Act, ...]:
    """Write what differs between two states of one list as small changes.

    Parameters
    ----------
    collection : the list, such as "parts"
    at : steps to what owns it, such as ("airways", "exhaust")
    before : its parts' data as they are
    after : as they should be; a part with an id that is not there is a new one

    Returns
    -------
    tuple : none where nothing differs
    """
    return tuple(_differences(collection, at, before, after))


def _listed(parts: Iterable[Any]) -> list[dict[str, Any]]:
    return [part.model_dump(mode="json") for part in parts]


def _differences(
    key: Collection, at: tuple[str, ...], one: list[dict[str, Any]], two: list[dict[str, Any]]
) -> Iterator[Act]:
    old, new = ({part["id"]: part for part in parts} for parts in (one, two))
    gone = tuple(name for name in old if name not in new)
    if gone:
        yield Remove(collection=key, part_ids=gone, at=at)
    last = ""
    for part in two:
        name = part["id"]
        if name not in old:
            yield Add(collection=key, parts=(part,), prefix=_prefix(key, part), at=at, after=last)
        elif part != old[name]:
            inner = "parts" if "parts" in part else ""
            values = {k: v for k, v in part.items() if v != old[name].get(k) and k != inner}
            if values:
                yield Change(collection=key, part_id=name, values=values, at=at)
            if inner and part[inner] != old[name][inner]:
                yield from _differences("parts", (*at, key, name), old[name][inner], part[inner])
        last = name
    kept = [part["id"] for part in one if part["id"] in new]
    wanted = [part["id"] for part in two if part["id"] in old]
    for place, name in enumerate(wanted):
        if kept[place] != name:
            yield Place(collection=key, part_id=name, at=at, onto=kept[place])
            kept.remove(name)
            kept.insert(place, name)


def _prefix(key: Collection, part: dict[str, Any]) -> str:
    """What an id begins with: its own letters, else the list's."""
    letters = str(part["id"]).rstrip("0123456789").rstrip("-")
    return letters or PREFIXES[key]
