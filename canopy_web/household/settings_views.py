"""What belongs to the whole household: name and tariff, where it lies, its rooms, circuits and what hangs on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from canopy.errors import PlanError, QuantityError
from canopy.evaluate.power.loads import circuit_load
from canopy.evaluate.power.margins import OVERLOADED, circuit_verdict
from canopy.library import rule_sets
from canopy.margin import Amount
from canopy.plan import Plan
from canopy.plan.changes import Act, Add, Change, Collection, Remove
from canopy.weather import DayAir, in_short
from canopy.weather.reading import MOST_BYTES, read_hours
from canopy.words import capital
from canopy_web.accounts.context import preference_of
from canopy_web.forms.part import PartForm
from canopy_web.forms.rows import take_row
from canopy_web.household import forms
from canopy_web.household.views import own_plan
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.workspace.where import drawn_from

SEASONS = ("coldest", "hottest")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def household(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Show the household's settings, or change one thing of them."""
    row = own_plan(request, plan_pk)
    if request.method != "POST":
        return _settings(request, row, {})
    act = _ACTS.get(request.POST.get("what", ""))
    if act is None:
        raise Http404
    return act(request, row, drawn_from(request, row, to_plan(row)))


@require_POST
def delete(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Remove a whole household for good, once its name was typed."""
    row = own_plan(request, plan_pk)
    if request.POST.get("name", "").strip() != row.name:
        return _settings(request, row, {}, words=f"To remove it, type its name: {row.name}")
    actions.delete_plan(row)
    return redirect("household:home")


def _do(request: HttpRequest, row: GrowPlan, *changes: Act) -> HttpResponse:
    try:
        return _settings(request, actions.change_household(row, changes, _label(request)), {})
    except PlanError as error:
        return _settings(request, row, {}, words=str(error))


def _label(request: HttpRequest) -> str:
    """What the history calls the act."""
    return _LABELS[request.POST["what"]]


def _edit(
    request: HttpRequest, row: GrowPlan, form: PartForm, key: str, make: Callable[[dict[str, Any], dict[str, Any]], Act]
) -> HttpResponse:
    """Write what was changed in a form; ``make`` puts values and what was seen before into a change."""

    def act() -> GrowPlan:
        return actions.change_household(row, [make(form.changes(), form.seen())], _label(request))

    after = take_row(form, act)
    if after is None:
        row.refresh_from_db()
        return _settings(request, row, {key: form})
    if not form.errors:
        return _settings(request, after, {})
    form.settle()
    return _settings(request, after, {key: form}, words="The rest of the row is kept; what is marked red is not.")


def _of_household(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    form = forms.HouseholdForm(drawn.model_dump(mode="json"), request.POST, prefix="household")
    return _edit(request, row, form, "household", lambda values, was: Change(values=values, was=was))


def _of_site(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    record = drawn.site.model_dump(mode="json")
    form = forms.SiteForm(record, request.POST, system=preference_of(request).units, prefix="site")
    return _edit(request, row, form, "site", lambda values, was: Change(at=("site",), values=values, was=was))


def _weather(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    """Take in a year of one's own, in short."""
    file = request.FILES.get("weather")
    if file is None:
        return _settings(request, row, {}, weather_words="Choose a file of hourly weather first.")
    try:
        if (file.size or 0) > MOST_BYTES:
            raise QuantityError("the file is larger than 10 MB: a year of hours takes less than half a megabyte")
        found = in_short(read_hours(file.read().decode("utf-8-sig")).year())
    except UnicodeDecodeError:
        return _settings(request, row, {}, weather_words="This is no text file: save the table as CSV.")
    except QuantityError as error:
        return _settings(request, row, {}, weather_words=f"{capital(str(error))}.")
    values = {
        "outdoors": [asdict(item) for item in found.months],
        "coldest": asdict(found.coldest),
        "hottest": asdict(found.hottest),
        "place_id": None,
    }
    return _do(request, row, Change(at=("site",), values={**values, "outdoors_from": str(file.name)[:120]}))


def _no_weather(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    values: dict[str, Any] = {"outdoors": [], "coldest": None, "hottest": None, "outdoors_from": ""}
    return _do(request, row, Change(at=("site",), values=values))


def _found(parts: Any, key: str) -> dict[str, Any]:
    part = next((part for part in parts if part.id == key), None)
    if part is None:
        raise Http404
    data: dict[str, Any] = part.model_dump(mode="json")
    return data


def _listed(collection: Collection, key: str, *at: str) -> Callable[[dict[str, Any], dict[str, Any]], Act]:
    return lambda values, was: Change(at=at, collection=collection, part_id=key, values=values, was=was)


def _of_room(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    key, system = request.POST.get("room", ""), preference_of(request).units
    form = forms.RoomForm(_found(drawn.rooms, key), request.POST, system=system, prefix=f"room-{key}")
    return _edit(request, row, form, f"room-{key}", _listed("rooms", key))


def _of_season(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    key, season = request.POST.get("room", ""), request.POST.get("season", "")
    if season not in SEASONS:
        raise Http404
    name = f"{season}-{key}"
    form = forms.RoomSeasonForm(
        _found(drawn.rooms, key), request.POST, season=season, system=preference_of(request).units, prefix=name
    )
    return _edit(request, row, form, name, _listed("rooms", key))


def _add_room(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    return _do(request, row, Add(collection="rooms", parts=({"name": "Another room"},), prefix="room"))


def _remove_room(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    key, plan = request.POST.get("room", ""), to_plan(row)
    if len(plan.rooms) == 1:
        return _settings(request, row, {}, words="A household has at least one room.")
    inside = [space.name for space in plan.spaces if space.room_id == key]
    if inside:
        stand, they = ("stands", "it stands") if len(inside) == 1 else ("stand", "they stand")
        words = f"{', '.join(inside)} {stand} there: say at Space which other room {they} in, then remove this one."
        return _settings(request, row, {}, words=words)
    return _do(request, row, Remove(collection="rooms", part_ids=(key,)))


def _of_circuit(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    key = request.POST.get("circuit", "")
    form = forms.CircuitForm(_found(drawn.circuits, key), request.POST, prefix=key)
    return _edit(request, row, form, key, _listed("circuits", key))


def _add_circuit(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    circuits = to_plan(row).circuits
    rules = rule_sets()[circuits[-1].rule_set_id if circuits else "eu-16"]
    fresh = {
        "name": "Another circuit",
        "rule_set_id": rules.id,
        "mains_v": rules.mains_v,
        "breaker_a": rules.breaker_a,
        "other_loads": [],
    }
    return _do(request, row, Add(collection="circuits", parts=(fresh,), prefix="circuit"))


def _circuit(request: HttpRequest, drawn: Plan) -> Any:
    found = drawn.circuit(request.POST.get("circuit"))
    if found is None:
        raise Http404
    return found


def _add_load(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    fresh = {"name": "Something else", "power_w": 100, "schedule": {"kind": "daily", "hours": 4}}
    at = ("circuits", _circuit(request, drawn).id)
    return _do(request, row, Add(at=at, collection="other_loads", parts=(fresh,), prefix="load"))


def _remove_load(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    at, load = ("circuits", _circuit(request, drawn).id), request.POST.get("load", "")
    return _do(request, row, Remove(at=at, collection="other_loads", part_ids=(load,)))


def _of_load(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    circuit, load = _circuit(request, drawn), request.POST.get("load", "")
    key = f"{circuit.id}-{load}"
    system = preference_of(request).units
    form = forms.LoadForm(_found(circuit.other_loads, load), request.POST, system=system, prefix=key)
    return _edit(request, row, form, key, _listed("other_loads", load, "circuits", circuit.id))


def _space(request: HttpRequest, row: GrowPlan) -> Any:
    found = to_plan(row).space(request.POST.get("space", ""))
    if found is None:
        raise Http404
    return found


def _copy_space(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    space = _space(request, row)
    try:
        after = actions.duplicate_space(row, space.id, space.name, plants=request.POST.get("plants") == "yes")
        return _settings(request, after, {})
    except PlanError as error:
        return _settings(request, row, {}, words=str(error))


def _remove_space(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    space = _space(request, row)
    return _settings(request, actions.delete_space(row, space.id, space.name), {})


def _remove_circuit(request: HttpRequest, row: GrowPlan, drawn: Plan) -> HttpResponse:
    circuit, plan = _circuit(request, drawn), to_plan(row)
    on = [space.name for space in plan.spaces if space.circuit_id == circuit.id]
    if on:
        hang, they = ("hangs", "it") if len(on) == 1 else ("hang", "they")
        words = f"{', '.join(on)} {hang} on it: say under Power which other circuit {they} use, then remove this one."
        return _settings(request, row, {}, words=words)
    return _do(request, row, Remove(collection="circuits", part_ids=(circuit.id,)))


_ACTS: dict[str, Callable[[HttpRequest, GrowPlan, Plan], HttpResponse]] = {
    "household": _of_household,
    "site": _of_site,
    "weather": _weather,
    "no-weather": _no_weather,
    "room": _of_room,
    "season": _of_season,
    "add-room": _add_room,
    "remove-room": _remove_room,
    "circuit": _of_circuit,
    "add-circuit": _add_circuit,
    "remove-circuit": _remove_circuit,
    "copy-space": _copy_space,
    "remove-space": _remove_space,
    "load": _of_load,
    "add-load": _add_load,
    "remove-load": _remove_load,
}


_LABELS = {
    "household": "Changed name or tariff",
    "site": "Changed where it lies",
    "weather": "Read the weather outdoors from a file",
    "no-weather": "Took the weather outdoors back",
    "room": "Changed a room",
    "season": "Changed a room's coldest or hottest day",
    "add-room": "Added a room",
    "remove-room": "Removed a room",
    "circuit": "Changed a circuit",
    "add-circuit": "Added a circuit",
    "remove-circuit": "Removed a circuit",
    "load": "Changed a load of the household",
    "add-load": "Added a load of the household",
    "remove-load": "Removed a load of the household",
}

# What can be done with a whole space, whether plants go along, and in words.
_SPACE_ACTS = (
    ("copy-space", "yes", "copy"),
    ("copy-space", "no", "copy without plants"),
    ("remove-space", "", "remove"),
)


def _settings(
    request: HttpRequest, row: GrowPlan, bad: dict[str, Any], words: str = "", weather_words: str = ""
) -> HttpResponse:
    plan, system = to_plan(row), preference_of(request).units
    data = plan.model_dump(mode="json")
    shown = {
        "row": row,
        "plan": plan,
        "state": row.head_id,
        "words": words,
        "weather_words": weather_words,
        "outdoors": _outdoors(plan, system),
        "space_acts": _SPACE_ACTS,
        "overloaded": OVERLOADED,
        "form": bad.get("household") or forms.HouseholdForm(data, prefix="household"),
        "site_form": bad.get("site") or forms.SiteForm(data["site"], system=system, prefix="site"),
        "rooms": [_room(plan, data["rooms"][n], system, bad) for n in range(len(plan.rooms))],
        "circuits": [_shown_circuit(plan, n, data["circuits"][n], system, bad) for n in range(len(plan.circuits))],
    }
    inside = bool(request.htmx)  # type: ignore[attr-defined]
    return render(request, "household/_household.html" if inside else "household/household.html", shown)


def _outdoors(plan: Plan, system: str) -> dict[str, Any] | None:
    """The air outdoors in short: its coldest and hottest days, and the months."""
    year = plan.site.year
    if year is None:
        return None

    def text(item: DayAir) -> str:
        low, high = sorted((item.day_c, item.night_c))
        return Amount(value=low, unit="temperature", high=high).text(system)

    return {
        "coldest": text(year.coldest),
        "hottest": text(year.hottest),
        "months": [(name, text(item)) for name, item in zip(_MONTHS, year.months, strict=True)],
        "from": plan.site.outdoors_from,
        "own": bool(plan.site.outdoors),
    }


def _room(plan: Plan, data: dict[str, Any], system: str, bad: dict[str, Any]) -> dict[str, Any]:
    key = data["id"]
    return {
        "id": key,
        "name": data["name"],
        "form": bad.get(f"room-{key}") or forms.RoomForm(data, system=system, prefix=f"room-{key}"),
        "seasons": [
            (
                season,
                bad.get(f"{season}-{key}")
                or forms.RoomSeasonForm(data, season=season, system=system, prefix=f"{season}-{key}"),
            )
            for season in SEASONS
        ],
        "follows": bool(data["coldest"] or data["hottest"]),
        "by_outdoors": data["follows"] != "typed",
        "spaces": [space.name for space in plan.spaces if space.room_id == key],
    }


def _shown_circuit(plan: Plan, number: int, data: dict[str, Any], system: str, bad: dict[str, Any]) -> dict[str, Any]:
    circuit = plan.circuits[number]
    load = circuit_load(plan, circuit)
    return {
        "circuit": circuit,
        "load": load,
        "verdict": circuit_verdict(load),
        "form": bad.get(circuit.id) or forms.CircuitForm(data, prefix=circuit.id),
        "loads": [
            (
                item,
                bad.get(f"{circuit.id}-{item.id}")
                or forms.LoadForm(item.model_dump(mode="json"), system=system, prefix=f"{circuit.id}-{item.id}"),
            )
            for item in circuit.other_loads
        ],
    }
