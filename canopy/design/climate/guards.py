"""What would protect when something goes wrong: each tried in the same rehearsal."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.design.climate.sizes import sizes_of
from canopy.evaluate.climate.rehearsal.limits import Limit
from canopy.evaluate.climate.rehearsal.rehearsed import Rehearsed, rehearse
from canopy.evaluate.climate.upsets import ALL
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Act, Add, Change
from canopy.plan.controls import Thermostat
from canopy.plan.document import Device
from canopy.plan.edit import apply
from canopy.plan.rooms import Season
from canopy.power import appliance_loads
from canopy.season import cast_of, standing_of

# A second switch opens so far beyond the first one [K, %].
_SECOND_K, _SECOND_PCT = 2.0, 6.0
# A protection helps, too, where what is passed is passed by so much less.
_MILDER = 0.4
# A cut-off that nobody needs to set lower.
_LEAST_CUT_C, _MOST_CUT_C = 20.0, 60.0


@dataclass(frozen=True, kw_only=True, eq=False)
class Guard:
    """A protection: what it is, what one does for it in the plan (nothing where it is a thing to buy or a habit), and
    the same trouble with it.
    """

    label: Sentence
    changes: tuple[Act, ...]
    done: Rehearsed

    def __str__(self) -> str:
        return self.label.say()


def guards_for(report: SpaceReport, done: Rehearsed, season: Season) -> tuple[Guard, ...]:
    """Find what would protect.

    Parameters
    ----------
    report : the space's report
    done : the trouble without it
    season : the room it was rehearsed in

    Returns
    -------
    tuple of Guard : those that put off, avert or lessen what is passed first, the best first; empty where nothing is
    """
    if done.first is None and done.found.overheats_s is None:
        return ()
    found = [*_cut_offs(report, done, season), *_others(report, done, season)]
    kept = [guard for guard in found if gain_h(done, guard) > 0 or _milder(done, guard)]
    return tuple(sorted(kept, key=lambda guard: -gain_h(done, guard)))


def gain_h(done: Rehearsed, guard: Guard) -> float:
    """Say how much longer it takes with a guard until the limit is passed that was first without it.

    Parameters
    ----------
    done : without it
    guard : a protection

    Returns
    -------
    float : what the whole rehearsal lasts where it is averted; 0 where it gains nothing to speak of [h]
    """
    lasts = done.upset.ends_h - done.upset.begins_h
    if done.first is None:
        return lasts if guard.done.found.overheats_s is None else 0.0
    before = done.first.after_h or 0.0
    after = _after_h(guard.done, done.first.limit)
    gained = (lasts if after is None else after) - before
    return gained if gained > max(0.1, 0.2 * before) else 0.0


def _milder(done: Rehearsed, guard: Guard) -> bool:
    """Whether what is passed first is passed by much less with it."""
    if done.first is None:
        return False
    limit = done.first.limit
    later = next((item.furthest for item in guard.done.passes if item.limit == limit), done.first.furthest)
    return abs(later - limit.value) < (1 - _MILDER) * abs(done.first.furthest - limit.value)


def _after_h(done: Rehearsed, limit: Limit) -> float | None:
    return next((item.after_h for item in done.passes if item.limit == limit), None)


def _with(
    report: SpaceReport, done: Rehearsed, season: Season, changes: tuple[Act, ...], **better: object
) -> Rehearsed:
    plan = apply(report.plan, report.space.id, changes) if changes else report.plan
    space = plan.space(report.space.id) or report.space
    here = standing_of(space, report.here.day, cast_of(plan))
    return rehearse(plan, here, report.lighting, done.fault, done.amount, season, **better)


def _cut_offs(report: SpaceReport, done: Rehearsed, season: Season) -> list[Guard]:
    """A cut-out that puts out lamps and heaters."""
    highs = [item.limit.value for item in done.passes if item.limit.figure == "air_c" and item.limit.most]
    normal = float(done.found.traces.air_c[done.normal].max())
    hot = done.found.overheats_s is not None or (done.first is not None and done.first.limit.most)
    if not hot or not highs:
        return []
    # Between a normal day and the limit, but never so near to the first that it trips for nothing.
    cut = max(round(min(highs) + normal) / 2, round(2 * normal + 2) / 2, _LEAST_CUT_C)
    if cut > _MOST_CUT_C:
        return []
    changes = (Change(values={"air.cut_off_c": cut}),)
    label = sentence("A cut-off at {cut} that puts out lamps and heaters", cut=Amount(value=cut, unit="temperature"))
    return [Guard(label=label, changes=changes, done=_with(report, done, season, changes))]


def _others(report: SpaceReport, done: Rehearsed, season: Season) -> list[Guard]:
    fault, found = done.fault, []
    if fault.key.startswith("stuck-"):
        found += _second(report, done, season)
    if fault.key == "exhaust" and report.space.door_side and not report.space.door_open:
        found.append(
            Guard(
                label=sentence("The door opened as long as the fans stand"),
                changes=(),
                done=_with(report, done, season, (), door=True),
            )
        )
    if fault.key == "power" and any(way.fans for way in report.space.airways):
        watts = sum(
            load.power_w
            for load in appliance_loads(report.space)
            if any(load.part_id == fan.id for way in report.space.airways for fan in way.fans)
        )
        lasts = done.upset.ends_h - done.upset.begins_h
        found.append(
            Guard(
                label=sentence(
                    "The fans on a battery of {wh} or more", wh=Amount(value=1.3 * watts * lasts, unit="Wh", decimals=0)
                ),
                changes=(),
                done=_with(report, done, season, (), battery=ALL),
            )
        )
    if fault.key == "heatwave":
        if report.space.fixtures:
            found.append(
                Guard(
                    label=sentence("Lamps at half while it lasts"),
                    changes=(),
                    done=_with(report, done, season, (), dimmed=0.5),
                )
            )
        found += _coolers(report, done, season)
    return found


def _second(report: SpaceReport, done: Rehearsed, season: Season) -> list[Guard]:
    device = next((item for item in report.space.devices if item.id in done.upset.stuck), None)
    if device is None or device.spec.kind == "co2":
        return []
    damp = device.spec.kind in ("humidifier", "dehumidifier")
    off = _SECOND_PCT if damp else _SECOND_K
    amount = Amount(value=off, unit="%", decimals=0) if damp else Amount(value=off, unit="temperature rise")
    return [
        Guard(
            label=sentence(
                "A second switch in its cord, with a sensor of its own, that opens {off} beyond the first", off=amount
            ),
            changes=(),
            done=_with(report, done, season, (), second=off),
        )
    ]


def _coolers(report: SpaceReport, done: Rehearsed, season: Season) -> list[Guard]:
    """The smallest cooling that averts it."""
    if done.first is None or done.first.limit.figure != "air_c" or not report.here.plants:
        return []
    wants = [plant.want for plant in report.here.plants]
    day, night = min(w.air_day_c.high for w in wants) - 1, min(w.air_night_c.high for w in wants) - 1
    best: Guard | None = None
    for spec in sizes_of("cooler"):
        part = Device(id="new", spec=spec, control=Thermostat(day_c=day, night_c=night)).model_dump(mode="json")
        changes = (Add(collection="devices", parts=(part,), prefix="device"),)
        best = Guard(
            label=sentence("A small air conditioner ({w})", w=Amount(value=spec.power_w, unit="power")),
            changes=changes,
            done=_with(report, done, season, changes),
        )
        if best.done.first is None or best.done.first.limit.figure != "air_c":
            break
    return [best] if best else []
