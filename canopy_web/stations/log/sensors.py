"""The tab of sensors: what each showed last and how old that is, and the ways in which readings come in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.logs.measured import measured
from canopy_web.logbook import push
from canopy_web.logbook.beat import at_work
from canopy_web.logbook.imports import strike_sensor as strike
from canopy_web.logbook.learnable import feeds_choices
from canopy_web.logbook.models import ImportJob, Sensor, Source
from canopy_web.logbook.readings import newest, sensors_of
from canopy_web.logbook.shown import last_shown
from canopy_web.stations.log.addresses import blank_address
from canopy_web.stations.log.forms import ReachedForm, SensorForm, SourceForm
from canopy_web.stations.log.plugs import plugs_of
from canopy_web.stations.log.tables import gaps_told
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space


def sensors_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    sensors = sensors_of(where.row, where.space.id)
    last, now = newest(sensors), timezone.now()
    ways = Source.objects.filter(plan=where.row, space_id=where.space.id)
    rows, jobs = [], ImportJob.objects.filter(plan=where.row, space_id=where.space.id)
    for sensor in sensors:
        form = bad.get(f"sensor-{sensor.pk}") or _sensor_form(where, sensor)
        rows.append(
            {
                "sensor": sensor,
                "kind": measured(sensor.quantity).name,
                "form": form,
                "last": last_shown(sensor, last.get(sensor.pk), now, where.system),
            }
        )
    return {
        "sensor_rows": rows,
        "sources": ways.filter(kind="push"),
        "reached": [
            {"source": way, "form": bad.get(f"way-{way.pk}") or _way_form(way)} for way in ways.exclude(kind="push")
        ],
        "form": bad.get("reach") or blank_address(),
        "at_work": at_work(),
        **plugs_of(where),
        "standins": bool(settings.STANDINS),
        "source_form": bad.get("source") or SourceForm({}, prefix="source"),
        "new_token": bad.get("token", ""),
        "push_url": bad.get("push_url", ""),
        "table_wrong": bad.get("table", ""),
        "job": jobs.filter(state__in=("looked", "going")).first(),
        "done_jobs": [{"job": job, "gaps": gaps_told(job)} for job in jobs.exclude(state__in=("looked", "going"))[:5]],
    }


def _sensor_form(where: Where, sensor: Sensor, data: Any = None) -> SensorForm:
    record = {"name": sensor.name, "place": sensor.place, "feeds": sensor.feeds}
    fed = feeds_choices(where.space) if sensor.quantity == "power_w" else ()
    return SensorForm(record, data, fed=fed, prefix=f"sensor-{sensor.pk}")


@require_POST
@at_space
def edit_sensor(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Name a sensor anew, or say where it hangs."""
    sensor = get_object_or_404(Sensor, plan=where.row, space_id=where.space.id, pk=pk)
    form = _sensor_form(where, sensor, request.POST)
    if not form.is_valid():
        return page(request, where, bad={f"sensor-{sensor.pk}": form})
    values = form.typed()
    twin = Sensor.objects.filter(
        plan=where.row, space_id=where.space.id, quantity=sensor.quantity, name=values.get("name", sensor.name)
    ).exclude(pk=sensor.pk)
    if twin.exists():
        form.add_error("name", "another sensor of this kind has this name")
        return page(request, where, bad={f"sensor-{sensor.pk}": form})
    Sensor.objects.filter(pk=sensor.pk).update(**values)
    return page(request, where)


def _way_form(source: Source, data: Any = None) -> ReachedForm:
    record = {"name": source.name, "every_s": source.shape.get("every_s", 60)}
    return ReachedForm(record, data, prefix=f"way-{source.pk}")


@require_POST
@at_space
def edit_source(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Name a source anew, or ask it more or less often."""
    source = get_object_or_404(Source, plan=where.row, space_id=where.space.id, pk=pk)
    form = _way_form(source, request.POST)
    if not form.is_valid():
        return page(request, where, bad={f"way-{pk}": form})
    values = form.typed()
    if every_s := values.pop("every_s", None):
        values["shape"] = {**source.shape, "every_s": every_s}
    Source.objects.filter(pk=source.pk).update(**values)
    return page(request, where)


@require_POST
@at_space
def strike_sensor(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show a sensor nowhere any more; its readings are kept."""
    strike(get_object_or_404(Sensor, plan=where.row, space_id=where.space.id, pk=pk))
    return page(request, where)


@require_POST
@at_space
def add_source(request: HttpRequest, where: Where) -> HttpResponse:
    """Open a way for something that sends readings; its token is shown once."""
    form = SourceForm({}, request.POST, prefix="source")
    if not form.is_valid():
        return page(request, where, bad={"source": form})
    _, token = push.open_source(where.row, where.space.id, form.cleaned_data["name"])
    return page(request, where, bad={"token": token, "push_url": request.build_absolute_uri(push.ADDRESS)})


@require_POST
@at_space
def drop_source(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Close a way: its token leads nowhere from now on; what it brought stays."""
    get_object_or_404(Source, plan=where.row, space_id=where.space.id, pk=pk).delete()
    return page(request, where)
