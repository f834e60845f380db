"""Pests that were counted again and again: whether there are more of them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from canopy.logs.entries import Entry, Pests


def rises(entries: Iterable[Entry], on: str = "trap") -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Give by how many more a trap held than at the count before.

    Parameters
    ----------
    entries : of one space, in any order; those that were struck count for nothing
    on : where was counted

    Returns
    -------
    (ndarray, ndarray) : seconds of UTC of all counts but each pest's first, rising, and how many more each trap (or
        leaf) held; the most of several pests counted at once. Both shape (n,)
    """
    last: dict[str, float] = {}
    found: dict[int, float] = {}
    for entry in sorted(entries, key=lambda item: item.at):
        if entry.kind != "pests" or entry.struck:
            continue
        counted = Pests.model_validate(entry.data)
        if counted.on != on:
            continue
        what, each = counted.what.casefold().strip(), counted.count / counted.looked_at
        if what in last:
            at = int(entry.at.timestamp())
            found[at] = max(found.get(at, -np.inf), each - last[what])
        last[what] = each
    seconds = sorted(found)
    return np.array(seconds, dtype=np.int64), np.array([found[second] for second in seconds], dtype=np.float64)
