"""Every error the core raises, in one tree.

::

    CanopyError
    ├── QuantityError (ValueError)     what was typed is not a quantity we can read
    ├── PlanError (ValueError)         a plan file or plan that breaks the rules
    │   ├── PlanVersionError           a plan file written by a newer version
    │   └── PlanConflictError               a figure that was changed meanwhile
    ├── LibraryError (LookupError)     an id that the library does not hold
    ├── PhotometricError (ValueError)  a photometric file, spectrum or light survey that cannot be read
    ├── PictureError (ValueError)      a photograph that cannot be measured
    ├── GeometryError (ValueError)     a scene that cannot be computed
    ├── ConvergenceError (ArithmeticError)  an iteration that did not settle
    └── EvaluationError (ArithmeticError)  a sound plan that could not be computed
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


class CanopyError(Exception):
    """Anything the core refuses, said in words for the grower."""


class QuantityError(CanopyError, ValueError):
    """What was typed is not a quantity of the asked kind, or is out of range."""


@dataclass(frozen=True, kw_only=True)
class PlanProblem:
    """One thing wrong with a plan: where, and what would be accepted."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}" if self.path else self.message


class PlanError(CanopyError, ValueError):
    """A plan that breaks the rules; ``problems`` lists every breach found."""

    def __init__(self, problems: list[PlanProblem]) -> None:
        self.problems = problems
        super().__init__("\n".join(str(problem) for problem in problems))


class PlanVersionError(PlanError):
    """A plan file of a version this program does not know yet."""


class PlanConflictError(PlanError):
    """A figure is not what the person saw when they typed another.

    ``problems`` name the fields, ``now`` gives what each of them is by now.
    """

    def __init__(self, problems: list[PlanProblem], now: Mapping[str, Any]) -> None:
        self.now = now
        super().__init__(problems)


class LibraryError(CanopyError, LookupError):
    """An id that the library does not hold."""


class PhotometricError(CanopyError, ValueError):
    """A photometric file, a spectrum or a light survey that cannot be read; the message names the line."""


class PictureError(CanopyError, ValueError):
    """A photograph that cannot be measured: taken askew, of something else, in a light that tells nothing apart."""


class GeometryError(CanopyError, ValueError):
    """A scene that cannot be computed."""


class ConvergenceError(CanopyError, ArithmeticError):
    """An iteration that did not settle within its limit."""


class EvaluationError(CanopyError, ArithmeticError):
    """A plan that keeps all rules and yet could not be computed: said on the page, never a page that breaks."""
