"""How full circuits are, before and after a change, and what a small integer programme is told of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.power.loads import CircuitLoad, circuit_load, household_tree
from canopy.plan.document import Circuit, Plan

if TYPE_CHECKING:
    from scipy.optimize import OptimizeResult
    from scipy.sparse import csr_array

# A proposal fills a circuit no further: a tenth stays for what nobody wrote down.
AIM = 0.9
# Each of the two searches of a proposal may take so long [s].
SEARCH_S = 0.8
Floats = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Fullness:
    """A circuit before and after, in volt-amperes against what it should carry for hours and what its breaker holds."""

    circuit: Circuit
    before: CircuitLoad
    after: CircuitLoad

    @staticmethod
    def share_of(load: CircuitLoad) -> float:
        """How full it is: for hours against its share, or all at once against the breaker, whichever is fuller."""
        return max(load.continuous_va / load.limit_w, load.peak_va / load.breaker_w)

    @property
    def was(self) -> float:
        """Before."""
        return self.share_of(self.before)

    @property
    def comes_to(self) -> float:
        """After."""
        return self.share_of(self.after)

    @property
    def over_va(self) -> float:
        """By how much it is still over, at worst [VA]; 0 where it is not."""
        load = self.after
        return max(0.0, load.continuous_va - load.limit_w, load.peak_va - load.breaker_w)


def compared(before: Plan, after: Plan) -> tuple[Fullness, ...]:
    """Compare all circuits of two states of a household.

    Parameters
    ----------
    before : as it is
    after : as it would be

    Returns
    -------
    tuple of Fullness : in the order of the circuits
    """
    one, two = household_tree(before), household_tree(after)
    return tuple(
        Fullness(circuit=circuit, before=circuit_load(before, circuit, one), after=circuit_load(after, circuit, two))
        for circuit in before.circuits
    )


@dataclass(frozen=True, kw_only=True, eq=False)
class Rows:
    """Of one programme: loads of the choices in each row, what is there anyhow, and the limit of each row [VA].

    ``loads`` has shape (rows, choices), ``base`` and ``limit`` shape (rows,).
    """

    loads: csr_array
    base: Floats
    limit: Floats


def evenest(rows: Rows, groups: Sequence[Sequence[int]], limit_s: float = SEARCH_S) -> tuple[float, Floats] | None:
    """Choose one of each group so that the fullest row is as little full as can be.

    Parameters
    ----------
    rows : what each choice draws
    groups : which choices exclude each other: exactly one of each is taken
    limit_s : the search ends after so long with the best found [s]

    Returns
    -------
    float : how full the fullest row is, as a share of its limit
    ndarray : shape (choices,), 1 for what is taken
    None where nothing was found in time
    """
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    count = rows.loads.shape[1]
    with_t = csr_array(np.hstack([rows.loads.toarray(), -rows.limit[:, None]]))
    cost = np.zeros(count + 1)
    cost[-1] = 1.0
    found = milp(
        cost,
        integrality=np.append(np.ones(count), 0),
        bounds=Bounds(np.zeros(count + 1), np.append(np.ones(count), np.inf)),
        constraints=[
            LinearConstraint(with_t, -np.inf, -rows.base),
            LinearConstraint(_one_each(groups, count + 1), 1, 1),
        ],
        options={"time_limit": limit_s, "mip_rel_gap": 0.01},
    )
    return None if found.x is None else (float(found.x[-1]), np.round(found.x[:-1]))


def fewest(
    rows: Rows, groups: Sequence[Sequence[int]], cost: Floats, most: float, limit_s: float = SEARCH_S
) -> Floats | None:
    """Choose one of each group at the least cost so that no row is fuller than a share of its limit.

    Parameters
    ----------
    rows : what each choice draws
    groups : exactly one of each is taken
    cost : of each choice, shape (choices,)
    most : how full a row may be, as a share of its limit
    limit_s : the search ends after so long with the best found [s]

    Returns
    -------
    ndarray : shape (choices,), 1 for what is taken; None where nothing is, or was found in time
    """
    from scipy.optimize import Bounds, LinearConstraint, milp

    count = rows.loads.shape[1]
    found: OptimizeResult = milp(
        cost,
        integrality=np.ones(count),
        bounds=Bounds(0, 1),
        constraints=[
            LinearConstraint(rows.loads, -np.inf, most * rows.limit - rows.base),
            LinearConstraint(_one_each(groups, count), 1, 1),
        ],
        options={"time_limit": limit_s, "mip_rel_gap": 0.02},
    )
    return None if found.x is None else np.asarray(np.round(found.x), dtype=np.float64)


def best(rows: Rows, groups: Sequence[Sequence[int]], cost: Floats) -> Floats | None:
    """Choose at the least cost so that every row is well under its limit; where that cannot be, as even as can be.

    Parameters
    ----------
    rows : what each choice draws
    groups : exactly one of each is taken
    cost : of each choice, shape (choices,)

    Returns
    -------
    ndarray : shape (choices,), 1 for what is taken; None where nothing was found in time
    """
    found = None if np.any(rows.base > rows.limit * AIM) else fewest(rows, groups, cost, AIM)
    if found is not None:
        return found
    even = evenest(rows, groups)
    if even is None:
        return None
    # As even as can be with no more changes than that takes.
    thrifty = fewest(rows, groups, cost, even[0] + 0.005)
    return even[1] if thrifty is None else thrifty


def _one_each(groups: Sequence[Sequence[int]], count: int) -> csr_array:
    from scipy.sparse import csr_array

    at = [(row, choice) for row, group in enumerate(groups) for choice in group]
    row, column = np.array(at).T if at else (np.zeros(0, int), np.zeros(0, int))
    return csr_array((np.ones(len(at)), (row, column)), shape=(len(groups), count))
