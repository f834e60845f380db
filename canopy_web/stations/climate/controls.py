"""The tab of devices that make the climate: what switches them, how much they ran, and more of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.devices import setting_of
from canopy.plan.changes import Add, Change
from canopy.words import percent
from canopy_web.stations.climate.forms import control_form
from canopy_web.stations.climate.offers import OFFERS
from canopy_web.workspace.reply import attempt_row, change
from canopy_web.workspace.where import Where, at_space


def controls_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: a row for each device that acts on the air by itself, and what can be added."""
    found, rows = report.climate, []
    for number, device in enumerate(report.space.devices, 1):
        setting = setting_of(device, report.here.plants)
        if not device.spec.on_demand or setting.control is None:
            continue
        share = found.share_of(device.id) if found else None
        key = f"control/{device.id}"
        rows.append(
            {
                "number": number,
                "device": device,
                "form": bad.get(key) or control_form(setting.control, device.id, where.system),
                "assumed": setting.assumed,
                "share": percent(share) if share is not None else "",
                "energy": f"{share * device.spec.power_w * 24 / 1000:.2f} kWh" if share is not None else "",
            }
        )
    return {"rows": rows, "offers": OFFERS, "climate": found}


@require_POST
@at_space
def edit_control(request: HttpRequest, where: Where, device_id: str) -> HttpResponse:
    """Set what switches a device; what was taken for granted until then becomes the person's own."""
    device = next((item for item in where.space.devices if item.id == device_id), None)
    if device is None:
        raise Http404
    setting = setting_of(device, where.report.here.plants)
    if setting.control is None:
        raise Http404
    shown = setting.control
    form = control_form(shown, device_id, where.system, request.POST)

    def act() -> Where:
        values = {**shown.model_dump(mode="json"), **form.changes()}
        return where.do(
            f"Set {device.spec.name}", Change(collection="devices", part_id=device_id, values={"control": values})
        )

    return attempt_row(request, where, form, f"control/{device_id}", act)


@require_POST
@at_space
def add_offer(request: HttpRequest, where: Where, offer: str) -> HttpResponse:
    """Add a device of the usual sort."""
    found = next((item for item in OFFERS if item.key == offer), None)
    if found is None:
        raise Http404
    return change(
        request,
        where,
        f"Added {found.name.lower()}",
        Add(collection="devices", parts=(found.part(),), prefix="device"),
    )
