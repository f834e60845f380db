"""What was found of one thing: a factor on what is computed, how sure it is, and what limits it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from canopy.plan.correction import Basis, Subject

Grade = Literal["known", "rough", "unknown"]
# Standard errors, of the factor, up to which something counts as known: nine of ten then lie within a tenth for what
# fans move, within a fifth for the rest; and up to which it counts as known roughly.
_KNOWN: Mapping[Subject, float] = {"airflow": 0.07, "lamp-heat": 0.07, "lamp-light": 0.07}
_KNOWN_ELSE, _ROUGH = 0.12, 0.25


@dataclass(frozen=True, kw_only=True)
class Finding:
    """A factor on what is computed of ``subject``, with its standard error; both None where nothing can be said.

    ``computed`` and ``found`` are the quantity itself in ``unit``, without and with the factor. ``limits`` says what
    keeps it from being known better, or why it is not known at all.
    """

    subject: Subject
    target: str | None = None
    factor: float | None = None
    standard_error: float | None = None
    computed: float | None = None
    unit: str = ""
    basis: Basis = "log"
    limits: str = ""
    begins: dt.date | None = None
    ends: dt.date | None = None

    @property
    def found(self) -> float | None:
        """The quantity as it was found."""
        return None if self.factor is None or self.computed is None else self.factor * self.computed

    @property
    def off(self) -> float | None:
        """Its standard error in the quantity's unit."""
        return None if self.standard_error is None or self.computed is None else self.standard_error * self.computed

    @property
    def grade(self) -> Grade:
        """How well it is known."""
        return graded(self.subject, self.factor, self.standard_error)


def graded(subject: Subject, factor: float | None, standard_error: float | None) -> Grade:
    """Say how well a factor is known.

    Parameters
    ----------
    subject : what it is about
    factor : over 0, or None
    standard_error : of the factor, or None

    Returns
    -------
    str : by its standard error as a share of itself: known up to 7 % for what fans move and lamps give, 12 % for all
        else; rough up to 25 %
    """
    if factor is None or standard_error is None:
        return "unknown"
    share = standard_error / factor
    known = _KNOWN.get(subject, _KNOWN_ELSE)
    return "known" if share <= known else "rough" if share <= _ROUGH else "unknown"


def unknown(subject: Subject, why: str, target: str | None = None, basis: Basis = "log") -> Finding:
    """Say that nothing can be said of a thing, and why.

    Parameters
    ----------
    subject : of which
    why : what is missing
    target : the way of air or the device
    basis : what was looked at

    Returns
    -------
    Finding : without a factor
    """
    return Finding(subject=subject, target=target, limits=why, basis=basis)
