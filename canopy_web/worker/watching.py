"""Look at the alerts of all households that have readings."""

from __future__ import annotations

import logging

from canopy_web.logbook.models import Sensor
from canopy_web.logbook.watch import watch_plan
from canopy_web.planning.models import GrowPlan

_log = logging.getLogger(__name__)


def watch_all(now: int | None = None) -> int:
    """Watch every household; gives how many alerts are new. One that cannot be read holds up no other."""
    new = 0
    for row in GrowPlan.objects.filter(pk__in=Sensor.objects.filter(struck=False).values("plan")):
        try:
            new += watch_plan(row, now=now)
        except Exception:
            _log.exception("watching %s", row.pk)
    return new
