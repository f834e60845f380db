"""Upkeep of devices, filters and lamps, and the weekly look at the plants."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from canopy.care.job import Job, job
from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.tanks import water_l_d
from canopy.evaluate.light.lamp_care import kind_of, lit_so_far_h
from canopy.margin import Amount, sentence
from canopy.plan.document import Device
from canopy.words import counted

# A tank is filled before a fifth of it is left.
_SHARE = 0.8
_LEAST_L_D = 0.005


def upkeep_jobs(report: SpaceReport, begins: dt.date, since: dt.date) -> Iterator[Job]:
    """Say what is looked after in a space.

    Parameters
    ----------
    report : of the space today
    begins : first day
    since : from when what lasts long counts, until somebody writes down when it was done

    Returns
    -------
    iterator of Job : devices by what they ran when the climate was simulated, filters and lamps by their use
    """
    space = report.space
    if report.here.plants:
        yield job(space, "scout", begins)
        yield job(space, "traps", begins)
    for device in space.devices:
        yield from _tank(report, device, begins)
        if device.spec.kind == "humidifier":
            yield job(space, "clean-humidifier", begins, of=device.id, parts=(device.id,))
    for way in space.airways:
        filters = tuple(part.id for part in way.parts if part.kind == "filter")
        fans = tuple(part.id for part in way.parts if part.kind == "fan")
        if fans or filters:
            yield job(space, "prefilter", since + dt.timedelta(days=30), of=way.id, parts=(*filters, *fans))
        for key in filters:
            yield job(space, "carbon", since + dt.timedelta(days=450), of=key, parts=(key,))
    yield from _worn(report, begins)


def _tank(report: SpaceReport, device: Device, begins: dt.date) -> Iterator[Job]:
    tank = device.spec.tank_l
    if tank is None or report.climate is None or report.climate.overheats_s is not None:
        return
    litres = water_l_d(device, report.climate)
    if litres is None or litres < _LEAST_L_D:
        return
    fills = device.spec.kind == "humidifier"
    days = _SHARE * tank / litres
    amounts = {"tank": Amount(value=tank, unit="volume"), "day": Amount(value=litres, unit="volume")}
    often = "" if days >= 1 else f" About {counted(round(1 / days + 0.49), 'time')} a day."
    yield job(
        report.space,
        "fill-humidifier" if fills else "empty-dehumidifier",
        begins,
        of=device.id,
        title=f"{'Fill' if fills else 'Empty'} {device.spec.name}",
        what=sentence(f"{{tank}} hold what it {'gives' if fills else 'takes'} in so many days.{often}", **amounts),
        why=sentence("Simulated on this day: {day} a day, emptied to a fifth.", **amounts)
        if fills
        else sentence("Simulated on this day: {day} a day.", **amounts),
        every_days=max(1, int(days)),
        parts=(device.id,),
    )


def _worn(report: SpaceReport, begins: dt.date) -> Iterator[Job]:
    """Lamps whose light fades, where somebody said since when they are in use: at what their kind loses."""
    for lamp in report.space.fixtures:
        kind = kind_of(lamp)
        if lamp.in_use_since is None or not lamp.enabled or lamp.hours <= 0 or lamp.spec.technology == "led":
            continue
        left = kind.loss_h - lit_so_far_h(lamp, begins)
        day = begins + dt.timedelta(days=max(0, round(left / lamp.hours)))
        share = Amount(value=100 * kind.loss_share, unit="%", decimals=0)
        yield job(
            report.space,
            "lamp-worn",
            day,
            of=lamp.id,
            title=f"Replace {lamp.spec.name}",
            what=sentence("It has lost about {share} of its light by then.", share=share),
            every_days=None,
            parts=(lamp.id,),
        )
