"""From a plan to its report: each subject is called once, and the margins are gathered."""

from canopy.evaluate.household import Report, evaluate
from canopy.evaluate.space import SpaceReport, evaluate_space, evaluate_standing

__all__ = ["Report", "SpaceReport", "evaluate", "evaluate_space", "evaluate_standing"]
