"""The tab of devices that make the climate: what switches them, how much they ran, and more of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.devices import setting_of
from canopy.plan import Space
from canopy.plan.airways import Airway
from canopy.plan.changes import Add, Change
from canopy.plan.document import Device
from canopy.words import percent
from canopy_web.stations.climate.forms import CutOffForm, DevicePlaceForm, FanControlForm, SwitchForm, control_form
from canopy_web.stations.climate.offers import offered, offers
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.reply import attempt_row, change
from canopy_web.workspace.where import Where, at_space

# A second stage comes in so much later than the first [K, %].
_STAGE_K, _STAGE_PCT = 2.0, 5.0


def _form(where: Where, report: SpaceReport, device: Device, data: Any = None) -> SwitchForm:
    control = setting_of(device, report.here.plants).control
    return control_form(device, control, where.system, planted=bool(report.here.plants), data=data)


def _fan_form(where: Where, way: Airway, data: Any = None) -> FanControlForm:
    record = way.control.model_dump(mode="json") if way.control else None
    return FanControlForm(record, data, system=where.system, prefix=f"fan-{way.id}")


def _cut_form(where: Where, data: Any = None) -> CutOffForm:
    return CutOffForm(where.drawn_space.air.model_dump(mode="json"), data, system=where.system, prefix="cut")


def controls_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: a row for each device that acts on the air, the fans' controllers, and what can be added."""
    found, rows = report.climate, []
    for number, device in enumerate(report.space.devices, 1):
        if not device.spec.on_demand:
            continue
        share = found.share_of(device.id) if found else None
        setting = setting_of(device, report.here.plants)
        rows.append(
            {
                "number": number,
                "device": device,
                "form": bad.get(f"control/{device.id}") or _form(where, report, device),
                "assumed": setting.assumed,
                "place": bad.get(f"place/{device.id}") or _place_form(where, device),
                "staged": setting.control is not None and device.spec.kind != "co2",
                "share": percent(share) if share is not None else "",
                "energy": f"{share * device.spec.power_w * 24 / 1000:.2f} kWh" if share is not None else "",
            }
        )
    fans = [
        {"way": way, "form": bad.get(f"fan/{way.id}") or _fan_form(where, way), "name": _way_name(way, number)}
        for number, way in enumerate(report.space.airways, 1)
        if way.fans
    ]
    return {
        "rows": rows,
        "fans": fans[:1],
        "more_fans": len(fans) > 1,
        "cut_form": bad.get("cut-off") or _cut_form(where),
        "lists": [
            ("lids", "Lids, cloches and jars: an air of their own", "Add a lid", rows_of(where, "lids", bad)),
            ("wet", "Open water and wet moss", "Add water or moss", rows_of(where, "wet", bad)),
        ],
        "offered": offered(),
        "climate": found,
    }


def _way_name(way: Airway, number: int) -> str:
    return f"{way.fans[0].spec.name}, way {number} {'out' if way.way == 'out' else 'in'}"


def _device(space: Space, device_id: str) -> Device:
    device = next((item for item in space.devices if item.id == device_id), None)
    if device is None or not device.spec.on_demand:
        raise Http404
    return device


@require_POST
@at_space
def edit_control(request: HttpRequest, where: Where, device_id: str) -> HttpResponse:
    """Set what switches a device; what was taken for granted until then becomes the person's own."""
    device = _device(where.space, device_id)
    shown = setting_of(device, where.report.here.plants).control
    form = _form(where, where.report, device, request.POST)

    def act() -> Where:
        got, values = form.changes(), {}
        if "schedule" in got:
            values["schedule"] = got.pop("schedule")
        switched = got.pop("switched", None)
        if switched == "clock":
            values |= {"control": None, "by_clock": True}
        elif switched == "control":
            values |= {"control": None, "by_clock": False}
        elif got and shown is not None:
            values["control"] = {**shown.model_dump(mode="json"), **got}
        return where.do(f"Set {device.spec.name}", Change(collection="devices", part_id=device_id, values=values))

    return attempt_row(request, where, form, f"control/{device_id}", act)


@require_POST
@at_space
def edit_fan(request: HttpRequest, where: Where, way_id: str) -> HttpResponse:
    """Set what turns a fan up and down."""
    way = next((item for item in where.space.airways if item.id == way_id and item.fans), None)
    if way is None:
        raise Http404
    form = _fan_form(where, way, request.POST)

    def act() -> Where:
        return where.do("Set the fan's controller", Change(collection="airways", part_id=way_id, values=form.changes()))

    return attempt_row(request, where, form, f"fan/{way_id}", act)


@require_POST
@at_space
def edit_place(request: HttpRequest, where: Where, device_id: str) -> HttpResponse:
    """Say where a device stands; what is not said of a place stands in the middle, on the floor."""
    device = _device(where.space, device_id)
    form = _place_form(where, device, request.POST)

    def act() -> Where:
        values = form.changes()
        size = where.space.size
        usual = {"x_m": round(size.width_m / 2, 3), "y_m": round(size.depth_m / 2, 3), "z_m": 0.0}
        if any(value is None for value in values.values()):
            values = dict.fromkeys(usual)
        else:
            values |= {k: v for k, v in usual.items() if getattr(device, k) is None and k not in values}
        label = f"Placed {device.spec.name}"
        return where.do(label, Change(collection="devices", part_id=device_id, values=values))

    return attempt_row(request, where, form, f"place/{device_id}", act)


def _place_form(where: Where, device: Device, data: Any = None) -> DevicePlaceForm:
    return DevicePlaceForm(device.model_dump(mode="json"), data, system=where.system, prefix=f"place-{device.id}")


@require_POST
@at_space
def edit_cut_off(request: HttpRequest, where: Where) -> HttpResponse:
    """Set the safety cut-off."""
    form = _cut_form(where, request.POST)

    def act() -> Where:
        values = {f"air.{key}": value for key, value in form.changes().items()}
        return where.do("Set the cut-off", Change(values=values))

    return attempt_row(request, where, form, "cut-off", act)


@require_POST
@at_space
def add_stage(request: HttpRequest, where: Where, device_id: str) -> HttpResponse:
    """Add a second one of the same, which comes in later."""
    device = _device(where.space, device_id)
    control = setting_of(device, where.report.here.plants).control
    if control is None or control.kind == "co2":
        raise Http404
    later = -1 if device.spec.kind not in ("cooler", "dehumidifier") else 1
    values = control.model_dump(mode="json")
    for key in ("day_c", "night_c", "day_rh_pct", "night_rh_pct"):
        if key in values:
            values[key] += later * (_STAGE_K if key.endswith("_c") else _STAGE_PCT)
    part = {**device.model_dump(mode="json"), "id": "new", "control": values}
    return change(
        request,
        where,
        f"Added a second stage to {device.spec.name}",
        Add(collection="devices", parts=(part,), prefix="device", after=device_id),
    )


@require_POST
@at_space
def add_offer(request: HttpRequest, where: Where) -> HttpResponse:
    """Add a device of a class of the library."""
    found = offers().get(request.POST.get("class", ""))
    if found is None:
        raise Http404
    return change(
        request,
        where,
        f"Added {found.name.lower()}",
        Add(collection="devices", parts=(found.part(),), prefix="device"),
    )
