"""Acts on tests that are walked through and on checks of probes; facts all of them."""

from __future__ import annotations

import time
from typing import Any

from django.db import transaction

from canopy_web.logbook.models import GuidedTest, ProbeCheck, Sensor
from canopy_web.planning.models import GrowPlan


@transaction.atomic
def begin_test(plan: GrowPlan, space_id: str, kind: str, watts: float | None, emptied: bool, by: Any) -> GuidedTest:
    """Begin a test; the one that runs already where there is one."""
    running = GuidedTest.objects.filter(plan=plan, space_id=space_id, ended=None, struck=False).first()
    return running or GuidedTest.objects.create(
        plan=plan,
        space_id=space_id,
        kind=kind,
        begun=int(time.time()),
        watts=watts,
        emptied=emptied,
        by=by,
        state_id=plan.head_id,
    )


def fan_on_now(test: GuidedTest) -> None:
    """Note that the fan was switched on just now; the first word counts."""
    GuidedTest.objects.filter(pk=test.pk, fan_on=None).update(fan_on=int(time.time()))


def end_test(test: GuidedTest, *, strike: bool = False) -> None:
    """End a test, or strike it."""
    GuidedTest.objects.filter(pk=test.pk, ended=None).update(ended=int(time.time()))
    if strike:
        GuidedTest.objects.filter(pk=test.pk).update(struck=True)


def keep_check(sensor: Sensor, kind: str, showed: float, true: float, by: Any) -> ProbeCheck:
    """Keep what a probe showed where it is known what it should show."""
    return ProbeCheck.objects.create(plan=sensor.plan, sensor=sensor, kind=kind, showed=showed, true=true, by=by)


def strike_check(plan: GrowPlan, number: int) -> None:
    """Let a check count no longer."""
    ProbeCheck.objects.filter(plan=plan, pk=number).update(struck=True)
