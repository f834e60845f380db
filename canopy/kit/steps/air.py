"""Steps of the air: filter first, then fan, ducts and circulation."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.kit.steps.step import BuildStep, length, overhead, step_of, weight
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.airways import AirPart, Airway
from canopy.plan.document import Plan, Space


def aired(report: SpaceReport) -> Iterator[BuildStep]:
    """Build each way of air, then clip circulation fans on.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space = report.space
    for way in space.airways:
        step = partial(step_of, f"Air: {way.name}")
        for part in way.parts:
            if part.kind == "filter":
                yield step(
                    f"{way.id}.{part.id}",
                    f"Hang {part.spec.name}",
                    _slung(part.spec.weight_kg),
                    "It does not swing against a lamp or a wall, and a hand under it feels no give.",
                    "Filter first: the fan pulls clean air and stays clean.",
                    of=(part, space.air.hung),
                    care=overhead(space),
                    parts=(part.id,),
                )
            elif part.kind == "fan":
                yield _fan(space, way, part)
        if any(part.kind == "duct" for part in way.parts):
            yield _ducts(report.plan, space, way)
        elif way.ends == "space":
            yield _joined(report.plan, way)
    for item in space.stirrers:
        if item.enabled:
            yield step_of(
                "Air: circulation",
                f"stirrer.{item.id}",
                f"Clip on: {item.spec.name}",
                sentence(
                    "{x} from the left, {y} from the front, {z} above the floor, turned as the drawing has it; its "
                    "cord tied so that it cannot fall into a pot.",
                    x=length(item.x_m),
                    y=length(item.y_m),
                    z=length(item.z_m),
                ),
                "A thread held at each place of a plant stirs, and does not stand straight out.",
                "Still air keeps leaves wet.",
                of=(item,),
                care=("mains",),
                parts=(item.id,),
            )


def _slung(weight_kg: float | None) -> Sentence:
    words = "In two straps over bars, each of which bears it alone, its cloth on"
    if not weight_kg:
        return sentence(f"{words}.")
    return sentence(f"{words}; each pulled with {{kg}} by hand first.", kg=weight(2 * weight_kg))


def _fan(space: Space, way: Airway, part: AirPart) -> BuildStep:
    assert part.kind == "fan"
    case, at = part.spec.kind == "case", way.parts.index(part)
    flanged = at > 0 and way.parts[at - 1].kind == "filter"
    points = f"The arrow on its body points {'out of' if way.way == 'out' else 'into'} the space; "
    if case:
        does = (
            points + "four screws with rubber under them, its guard on, its cord to a supply outside and above water."
        )
    elif space.air.hung and way.is_inside(part.id):
        does = points + "two straps, each over a bar of its own."
    else:
        does = points + "on a bracket or in two straps, not on the duct alone."
    if flanged:
        does += " The filter's flange goes right into it, clamped and taped."
    return step_of(
        f"Air: {way.name}",
        f"{way.id}.{part.id}",
        f"Mount {part.spec.name}",
        does,
        "Running it does not hum through the frame; a sheet of paper is drawn to the side where air goes in.",
        "A fan the wrong way round moves a third of its air, the wrong way.",
        of=(part.spec, way.way),
        care=("mains",) if case else (*overhead(space), "mains"),
        parts=(part.id,),
    )


def _ducts(plan: Plan, space: Space, way: Airway) -> BuildStep:
    words, amounts = list[str](), dict[str, Amount]()
    for number, part in enumerate(way.parts):
        if part.kind == "duct":
            words.append(f"{{l{number}}} of {{d{number}}} {_between(plan, way, number)}")
            amounts[f"l{number}"] = length(part.length_m)
            amounts[f"d{number}"] = Amount(value=part.diameter_m, unit="diameter")
    ducts = [part for part in way.parts if part.kind == "duct"]
    return step_of(
        f"Air: {way.name}",
        f"{way.id}.ducts",
        "Ducts",
        sentence(
            f"As they lie, pulled tight: {'; '.join(words)}. Bends as wide as the place allows; clamp, then foil tape.",
            **amounts,
        ),
        "No joint blows on a wet hand while the fan runs at full.",
        "A slack duct costs a fifth of the air.",
        of=ducts,
        parts=[part.id for part in ducts],
    )


def _between(plan: Plan, way: Airway, number: int) -> str:
    """From what to what a duct leads; bends and reducers are passed over."""
    before = next((part for part in reversed(way.parts[:number]) if part.kind not in ("bend", "adapter", "duct")), None)
    after = next((part for part in way.parts[number + 1 :] if part.kind not in ("bend", "adapter", "duct")), None)
    here, there = ("the space", _end(plan, way)) if way.way == "out" else (_end(plan, way), "the space")
    return f"from {_called(before) if before else here} to {_called(after) if after else there}"


def _called(part: AirPart) -> str:
    names = {"fan": "the fan", "filter": "the filter", "port": "the port", "hood": "the hood", "fitting": "the fitting"}
    return names.get(part.kind, part.kind)


def _end(plan: Plan, way: Airway) -> str:
    other = plan.space(way.space_id) if way.space_id else None
    ends = {"room": "the room", "other-room": "the other room", "outdoors": "outdoors", "space": "the other space"}
    return f"a port of {other.name}" if other is not None else ends[way.ends]


def _joined(plan: Plan, way: Airway) -> BuildStep:
    return step_of(
        f"Air: {way.name}",
        f"{way.id}.joined",
        "Join the spaces",
        f"Its open end into {_end(plan, way)}, clamped and taped.",
        "No joint blows on a wet hand while the fan runs at full.",
        "What is lost between two spaces is lost for both.",
        of=(way.space_id, way.far_opening_id),
    )
