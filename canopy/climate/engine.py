"""Who runs simulations: this process, or one beside it that somebody has set up."""

from __future__ import annotations

from collections.abc import Callable

from canopy.climate.simulate import Days, simulate
from canopy.climate.system import System

Runner = Callable[[System], Days]
_runner: list[Runner] = [simulate]


def use(runner: Runner) -> None:
    """Let another do it from now on.

    Parameters
    ----------
    runner : gives what `simulate` gives
    """
    _runner[0] = runner


def run(system: System) -> Days:
    """Simulate a system.

    Parameters
    ----------
    system : what is simulated

    Returns
    -------
    Days : as `simulate` gives them
    """
    return _runner[0](system)
