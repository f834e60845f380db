"""What is told afterwards: what each step did, found by leaving it out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from canopy.trainer.play import Played, play
from canopy.trainer.scenario import Goal
from canopy.trainer.world import Move

# So many moves are told, those that did most.
_TOLD = 6
# What a step does is looked for within so many hours.
_WITHIN_H = 2.0


@dataclass(frozen=True, kw_only=True)
class Lesson:
    """What a move did: by how much the score is higher for it; the goal it moved most, and that figure some hours later
    without it and with it.
    """

    move: Move
    knob: str
    worth: float
    goal: Goal
    later_h: float
    without: float
    there: float


def lessons(played: Played) -> tuple[Lesson, ...]:
    """Say what each of a person's moves did.

    Parameters
    ----------
    played : a scenario as it went

    Returns
    -------
    tuple of Lesson : those that did most for good or ill, in the order in which they were made
    """
    found = [_lesson(played, number) for number in range(len(played.moves))]
    told = sorted(found, key=lambda item: -abs(item.worth))[:_TOLD]
    return tuple(item for item in sorted(found, key=lambda item: item.move.at_h) if item in told)


def _lesson(played: Played, number: int) -> Lesson:
    move, scenario = played.moves[number], played.scenario
    other = play(scenario, [item for k, item in enumerate(played.moves) if k != number])
    count = min(len(other.hours), len(played.hours))
    hours = played.hours[:count]
    within = (hours > move.at_h) & (hours <= move.at_h + _WITHIN_H)
    rows = np.flatnonzero(within) if within.any() else np.array([count - 1])
    best, at, size = scenario.goals[0], int(rows[-1]), -1.0
    for goal in scenario.goals:
        if goal.figure == "light_pct":
            continue
        here, there = (item.values(goal.box, goal.figure)[:count] for item in (other, played))
        off = np.abs(there - here)[rows] / goal.scale
        if off.max() > size:
            best, at, size = goal, int(rows[int(off.argmax())]), float(off.max())
    knob = scenario.knob(move.knob)
    return Lesson(
        move=move,
        knob=knob.name if knob else move.knob,
        worth=played.score - other.score,
        goal=best,
        later_h=float(hours[at] - move.at_h),
        without=float(other.values(best.box, best.figure)[at]),
        there=float(played.values(best.box, best.figure)[at]),
    )
