"""Play a scenario: simulate it with a person's moves, and say how well it was held."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.climate.engine import run
from canopy.climate.simulate import Days
from canopy.errors import QuantityError
from canopy.evaluate.climate.days import Traces, traces_of
from canopy.trainer.scenario import Goal, Scenario
from canopy.trainer.world import Move, values_of, world_of

Array = NDArray[np.float64]
MOST_MOVES = 400


@dataclass(frozen=True, kw_only=True, eq=False)
class Played:
    """A scenario as it went; ``moves`` are the turns of its knobs."""

    scenario: Scenario
    moves: tuple[Move, ...]
    days: Days

    @cached_property
    def traces(self) -> dict[str, Traces]:
        """What went on in each box."""
        return {box.id: traces_of(self.days, box.id) for box in self.scenario.boxes}

    @property
    def hours(self) -> Array:
        """The middle of each interval, since the beginning [h]."""
        return self.days.hours

    def values(self, box_id: str, figure: str) -> Array:
        """Give a figure through time.

        Parameters
        ----------
        box_id : of which box
        figure : as goals name it

        Returns
        -------
        ndarray : shape (intervals,)
        """
        if figure != "light_pct":
            return np.asarray(getattr(self.traces[box_id], figure))
        knob = next((item for item in self.scenario.knobs if item.acts == f"lamps-{box_id}"), None)
        steps = self.days.system.steps
        level = np.ones(steps) if knob is None else values_of(knob, self.moves, steps)
        every = self.days.system.every
        whole = steps // every * every
        return np.asarray(100 * level[:whole].reshape(-1, every).mean(axis=1)[: len(self.hours)])

    def credit(self, goal: Goal) -> Array:
        """Give how well a goal was met through time.

        Parameters
        ----------
        goal : one of the scenario's

        Returns
        -------
        ndarray : 1 inside, falling to 0 by its scale outside; nan where it does not count; shape (intervals,)
        """
        values = self.values(goal.box, goal.figure)
        off = np.maximum(np.maximum(goal.low - values, values - goal.high), 0.0)
        found = np.clip(1 - off / goal.scale, 0.0, 1.0)
        counts = (self.hours >= goal.from_h) & (self.hours < goal.to_h)
        if goal.lit_only:
            counts &= self.traces[goal.box].lit > 0.5
        return np.asarray(np.where(counts, found, np.nan))

    @cached_property
    def by_goal(self) -> tuple[float, ...]:
        """How well each goal was met over all that counts, 0..1."""
        found = []
        for goal in self.scenario.goals:
            credit = self.credit(goal)
            counted = np.isfinite(credit)
            # What was not lived through, since it overheated, was not held.
            whole = self.days.system.steps // self.days.system.every
            share = len(self.hours) / whole
            found.append(float(credit[counted].mean()) * share if counted.any() else 0.0)
        return tuple(found)

    @property
    def score(self) -> float:
        """How well it was held, all goals alike, 0..100."""
        return 100 * float(np.mean(self.by_goal))


def play(scenario: Scenario, moves: Iterable[Move]) -> Played:
    """Simulate a scenario with a person's moves.

    Parameters
    ----------
    scenario : the small world
    moves : turns of its knobs, in any order

    Returns
    -------
    Played : to its end

    Raises
    ------
    QuantityError : a move that the scenario does not know, or too many of them
    """
    made = tuple(moves)
    if len(made) > MOST_MOVES:
        raise QuantityError(f"{len(made)} moves are more than anybody makes: {MOST_MOVES} at most")
    for move in made:
        knob = scenario.knob(move.knob)
        if knob is None or move.value not in knob.values or not 0 <= move.at_h <= scenario.hours:
            raise QuantityError(f"there is no such move: “{move.knob}” to {move.value:g} after {move.at_h:g} h")
    return Played(scenario=scenario, moves=made, days=run(world_of(scenario, made)))


def par(scenario: Scenario) -> Played:
    """Play a scenario with an even hand.

    Parameters
    ----------
    scenario : the small world

    Returns
    -------
    Played : by the moves that it holds itself
    """
    return play(scenario, [Move(at_h=item.at_h, knob=item.knob, value=item.value) for item in scenario.par])
