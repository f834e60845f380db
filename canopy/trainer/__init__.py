"""The trainer: small worlds that drift or break, a person's moves, and what they came to."""

from canopy.trainer.play import Played, par, play
from canopy.trainer.scenario import Scenario, scenarios
from canopy.trainer.told import Lesson, lessons
from canopy.trainer.world import Move

__all__ = ["Lesson", "Move", "Played", "Scenario", "lessons", "par", "play", "scenarios"]
