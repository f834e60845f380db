"""Scenarios: the list, one to be played, its course by a person's moves, and what is told at the end."""

from __future__ import annotations

import json
from typing import Any, cast

import numpy as np
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST
from numpy.typing import NDArray

from canopy.errors import QuantityError
from canopy.margin import Amount
from canopy.quantities import Reader, reader_of
from canopy.trainer import Lesson, Move, Played, Scenario, lessons, par, play, scenarios
from canopy.trainer.scenario import UNITS, Knob
from canopy_web.accounts.context import preference_of
from canopy_web.trainer.models import BestResult

LEVELS = {1: "To begin with", 2: "With care", 3: "With a plan", 4: "With an even hand"}
_DECIMALS = {"air_c": 1, "root_c": 1, "vpd_kpa": 2, "leaf_vpd_kpa": 2}
_SHOWN = {"air_c": "°C", "root_c": "°C", "rh_pct": "%", "co2_ppm": "ppm", "film_g": "g", "light_pct": "%"}
_SHOWN |= {"vpd_kpa": "kPa", "leaf_vpd_kpa": "kPa"}


def _who(request: HttpRequest) -> int:
    return cast(int, request.user.pk)


@require_GET
def scenario_list(request: HttpRequest) -> HttpResponse:
    """List the scenarios, simple ones first, with what one has reached."""
    best = {row.scenario: row for row in BestResult.objects.filter(user_id=_who(request))}
    groups = [
        (name, [{"scenario": item, "best": best.get(item.id)} for item in scenarios().values() if item.level == level])
        for level, name in LEVELS.items()
    ]
    return render(request, "trainer/list.html", {"groups": [item for item in groups if item[1]]})


def _scenario(scenario_id: str) -> Scenario:
    found = scenarios().get(scenario_id)
    if found is None:
        raise Http404
    return found


def _reader(request: HttpRequest) -> Reader:
    return reader_of(preference_of(request).units)


@require_GET
def scenario(request: HttpRequest, scenario_id: str) -> HttpResponse:
    """Show a scenario, to be begun."""
    found, reader = _scenario(scenario_id), _reader(request)
    best = BestResult.objects.filter(user_id=_who(request), scenario=found.id).first()
    shown = {
        "scenario": found,
        "level": LEVELS[found.level],
        "best": best,
        "knobs": [{"knob": knob, "values": _choices(knob, reader)} for knob in found.knobs],
        "goals": [_goal(found, number, reader) for number in range(len(found.goals))],
        "settings": json.dumps(_settings(found)),
    }
    return render(request, "trainer/play.html", shown)


def _settings(found: Scenario) -> dict[str, Any]:
    return {
        "hours": found.hours,
        "starts": found.starts_h,
        "minutes": found.minutes,
        "events": [{"at": event.at_h, "said": event.said} for event in found.events],
    }


def _choices(knob: Knob, reader: Reader) -> list[tuple[str, str, bool]]:
    """Each value as (value, words, whether it stands there at the beginning)."""
    found = []
    for value in knob.values:
        if knob.off == value or (knob.way == "level" and value == 0):
            words = "off"
        elif knob.way == "level":
            words = f"{100 * value:g} %"
        elif knob.way in ("air", "root"):
            words = Amount(value=value, unit="temperature").text(reader)
        else:
            words = f"{value:g} {'ppm' if knob.way == 'co2' else '%'}"
        found.append((f"{value:g}", words, value == knob.start))
    return found


def _shown(values: NDArray[np.float64], figure: str, reader: Reader) -> NDArray[np.float64]:
    warm = UNITS[figure] == "temperature" and reader.system == "us"  # type: ignore[index]
    return np.asarray(values * 1.8 + 32 if warm else values)


def _unit(figure: str, reader: Reader) -> str:
    return "°F" if _SHOWN[figure] == "°C" and reader.system == "us" else _SHOWN[figure]


def _goal(found: Scenario, number: int, reader: Reader) -> dict[str, Any]:
    goal = found.goals[number]
    low, high = _shown(np.array([goal.low, goal.high]), goal.figure, reader)
    several = len(found.boxes) > 1
    box = next(box.name for box in found.boxes if box.id == goal.box)
    return {
        "number": number,
        "name": f"{goal.name}, {box.lower()}" if several else goal.name,
        "unit": _unit(goal.figure, reader),
        "low": round(float(low), 2),
        "high": round(float(high), 2),
        "from": goal.from_h,
        "to": min(goal.to_h, found.hours),
        "lit_only": goal.lit_only,
    }


def _moves(request: HttpRequest) -> list[Move]:
    """Read the moves that were sent; raises QuantityError."""
    try:
        sent = json.loads(request.body)
        return [
            Move(at_h=float(item["at_h"]), knob=str(item["knob"]), value=float(item["value"])) for item in sent["moves"]
        ]
    except (ValueError, TypeError, KeyError) as error:
        raise QuantityError("these moves cannot be read") from error


@require_POST
def run(request: HttpRequest, scenario_id: str) -> JsonResponse:
    """Simulate a scenario to its end by the moves that were made, as if none followed."""
    found, reader = _scenario(scenario_id), _reader(request)
    try:
        played = play(found, _moves(request))
    except QuantityError as error:
        return JsonResponse({"error": str(error)}, status=400)
    return JsonResponse(
        {
            "hours": [round(float(h), 4) for h in played.hours],
            "lit": [round(float(v), 2) for v in played.traces[found.boxes[0].id].lit],
            "goals": [_course(played, number, reader) for number in range(len(found.goals))],
        }
    )


def _course(played: Played, number: int, reader: Reader) -> dict[str, Any]:
    goal = played.scenario.goals[number]
    credit = played.credit(goal)
    values = _shown(played.values(goal.box, goal.figure), goal.figure, reader)
    return {
        "values": [round(float(v), _DECIMALS.get(goal.figure, 1)) for v in values],
        "credit": [None if np.isnan(v) else round(float(v), 3) for v in credit],
    }


@require_POST
def finish(request: HttpRequest, scenario_id: str) -> HttpResponse:
    """Tell what the moves came to, and keep the best result."""
    found, reader = _scenario(scenario_id), _reader(request)
    try:
        played = play(found, _moves(request))
    except QuantityError as error:
        return HttpResponse(str(error), status=400)
    before = BestResult.objects.filter(user_id=_who(request), scenario=found.id).first()
    best = _keep(request, played)
    even, nothing = par(found), play(found, [])
    return render(
        request,
        "trainer/_told.html",
        {
            "scenario": found,
            "score": round(played.score),
            "even": round(even.score),
            "nothing": round(nothing.score),
            "best": best,
            "is_best": before is None or played.score > before.score + 0.5,
            "goals": [
                {"name": goal.name, "share": round(100 * share), "even": round(100 * par_share)}
                for goal, share, par_share in zip(found.goals, played.by_goal, even.by_goal, strict=True)
            ],
            "lessons": [_told(item, found, reader) for item in lessons(played)],
            "even_moves": [_said(found, move.at_h, move.knob, move.value, reader) for move in found.par],
        },
    )


def _keep(request: HttpRequest, played: Played) -> BestResult:
    moves = [{"at_h": move.at_h, "knob": move.knob, "value": move.value} for move in played.moves]
    row, fresh = BestResult.objects.get_or_create(
        user_id=_who(request), scenario=played.scenario.id, defaults={"score": played.score, "moves": moves}
    )
    if not fresh:
        row.times += 1
        if played.score > row.score:
            row.score, row.moves = played.score, moves
        row.save()
    return row


def _clock(found: Scenario, at_h: float) -> str:
    minutes = round((found.starts_h + at_h) * 60)
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}"


def _said(found: Scenario, at_h: float, knob_id: str, value: float, reader: Reader) -> str:
    knob = found.knob(knob_id)
    words = knob_id
    if knob is not None:
        words = f"{knob.name}: {next(text for key, text, _ in _choices(knob, reader) if float(key) == value)}"
    return f"{_clock(found, at_h)} {words}"


def _told(item: Lesson, found: Scenario, reader: Reader) -> dict[str, str]:
    goal = item.goal
    unit, decimals = _unit(goal.figure, reader), _DECIMALS.get(goal.figure, 0)
    there, without = _shown(np.array([item.there, item.without]), goal.figure, reader)
    after = f"{60 * item.later_h:.0f} min" if item.later_h < 1.5 else f"{item.later_h:.1f} h"
    if abs(there - without) < 0.02 * goal.scale:
        effect = "changed nothing that counts"
    else:
        effect = (
            f"{goal.name.lower()} {there:.{decimals}f} {unit} {after} later, {without:.{decimals}f} {unit} without it"
        )
    worth = f"{item.worth:+.0f}".replace("-", "−")
    return {
        "what": _said(found, item.move.at_h, item.move.knob, item.move.value, reader),
        "effect": effect,
        "worth": "no points" if worth in ("+0", "−0") else f"{worth} points",
    }
