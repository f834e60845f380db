"""What the workings of the simulated climate share: where they come from, and how sure they are."""

from __future__ import annotations

from canopy.margin import Step, Working

SOURCE = (
    "Simulation of heat, water and CO2 over three days alike (linearly implicit Euler, 20 s); transpiration after "
    "Stanghellini (1987), walls after ISO 6946"
)
CERTAINTY = (
    "Plausible, not measured: air ±1.5 K and ±8 points of humidity, water given off ±35 %, walls ±25 %. A thermometer "
    "and a hygrometer know better."
)


def plain_working(formula: str, *steps: Step) -> Working:
    """Write the working of what is read off the simulation.

    Parameters
    ----------
    formula : how it is read
    steps : with what numbers

    Returns
    -------
    Working : with the simulation's source and certainty
    """
    return Working(formula=formula, steps=steps, source=SOURCE, certainty=CERTAINTY)
