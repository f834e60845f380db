"""Readings that are sent to us: a token a source, bounded in size and number, taken in once."""

from __future__ import annotations

import hashlib
import json
import secrets
import time
from collections import deque
from threading import Lock
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.db import transaction
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from canopy.errors import QuantityError
from canopy.logs.measured import kept
from canopy.logs.pointed import moment_of
from canopy_web.logbook.models import Sensor, Source
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.logbook.watch import watch_plan
from canopy_web.planning.models import GrowPlan

ADDRESS = "/readings/"
MOST_BYTES, MOST_READINGS, MOST_SENSORS = 1_000_000, 5000, 60
# So many messages a source may send in so long [s].
_MOST, _WITHIN_S = 50, 5.0
# Alerts of a space are looked at once in so long while readings stream in [s].
_WATCH_S = 20.0
_recent: dict[int, deque[float]] = {}
_watched: dict[tuple[int, str], float] = {}
_lock = Lock()


def open_source(plan: GrowPlan, space_id: str, name: str) -> tuple[Source, str]:
    """Open a way for a source; gives its token, of which only a digest is kept."""
    token = secrets.token_urlsafe(24)
    source = Source.objects.create(
        plan=plan, space_id=space_id, kind="push", name=name, token_digest=_digest(token), token_begins=token[:6]
    )
    return source, token


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _too_many(source_id: int) -> bool:
    now = time.monotonic()
    with _lock:
        times = _recent.setdefault(source_id, deque())
        while times and now - times[0] > _WITHIN_S:
            times.popleft()
        if len(times) >= _MOST:
            return True
        times.append(now)
        return False


def _watch_due(source: Source) -> bool:
    """Whether a space's alerts are looked at with this message: not with each of a stream."""
    key, now = (source.plan_id, source.space_id), time.monotonic()
    with _lock:
        if now - _watched.get(key, -_WATCH_S) < _WATCH_S:
            return False
        _watched[key] = now
        return True


@csrf_exempt
@login_not_required
@require_POST
def receive(request: HttpRequest) -> JsonResponse:
    """Take readings in: JSON with "readings", each with "sensor", "quantity", "value" and, if need be, "unit" and "at".

    The token stands in the header ``Authorization: Bearer …``. All of a message is kept or none of it.
    """
    scheme, _, token = request.headers.get("Authorization", "").partition(" ")
    source = None
    if scheme.casefold() == "bearer" and token.strip():
        source = Source.objects.select_related("plan").filter(kind="push", token_digest=_digest(token.strip())).first()
    if source is None:
        return _no(401, "this token is not known: make one under Log, Sensors")
    if _too_many(source.pk):
        answer = _no(429, f"at most {_MOST} messages in {_WITHIN_S:g} seconds: send several readings in one")
        answer["Retry-After"] = str(int(_WITHIN_S))
        return answer
    try:
        rows = _rows(source, _body(request))
    except QuantityError as error:
        Source.objects.filter(pk=source.pk).update(last_seen=timezone.now(), trouble=str(error)[:300])
        return _no(400, str(error))
    with transaction.atomic():
        sensors = _sensors(source, rows)
        new = keep_readings([(sensors[label, quantity], at, value) for label, quantity, at, value in rows])
        Source.objects.filter(pk=source.pk).update(last_seen=timezone.now(), trouble="")
    if new and _watch_due(source):
        watch_plan(source.plan, {source.space_id})
    return JsonResponse({"taken": new, "doubled": len(rows) - new})


def _no(status: int, words: str) -> JsonResponse:
    return JsonResponse({"error": words}, status=status)


def _body(request: HttpRequest) -> Any:
    if int(request.headers.get("Content-Length") or 0) > MOST_BYTES:
        raise QuantityError(f"a message has at most {MOST_BYTES / 1e6:.0f} MB")
    try:
        return json.loads(request.body.decode("utf-8"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise QuantityError("this is no JSON") from None


Row = tuple[str, str, int, float]


def _rows(source: Source, body: Any) -> list[Row]:
    readings = body.get("readings") if isinstance(body, dict) else None
    if not isinstance(readings, list) or not readings:
        raise QuantityError("give “readings”: a list of records with sensor, quantity and value")
    if len(readings) > MOST_READINGS:
        raise QuantityError(f"a message has at most {MOST_READINGS} readings; this one has {len(readings)}")
    return [_row(number, item) for number, item in enumerate(readings)]


def _row(number: int, item: Any) -> Row:
    if not isinstance(item, dict):
        raise QuantityError(f"readings[{number}] is no record")
    value, label = item.get("value"), item.get("sensor")
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise QuantityError(f"readings[{number}].value is no number")
    if not isinstance(label, str) or not 0 < len(label) <= 80:
        raise QuantityError(f"readings[{number}].sensor is a name of at most 80 letters")
    quantity = str(item.get("quantity", ""))
    try:
        value = kept(quantity, float(value), str(item.get("unit") or ""))
    except (QuantityError, OverflowError) as error:
        raise QuantityError(f"readings[{number}]: {error}") from None
    return label, quantity, _when(number, item.get("at")), value


def _when(number: int, given: Any) -> int:
    now = time.time()
    if given is None:
        return int(now)
    try:
        return moment_of(given, now)
    except QuantityError as error:
        raise QuantityError(f"readings[{number}].at: {error}") from None


def _sensors(source: Source, rows: list[Row]) -> dict[tuple[str, str], int]:
    """The sensors that are named, made where they are new; one that was named anew here is known by its label."""
    known = {
        (sensor.label, sensor.quantity): sensor.pk for sensor in Sensor.objects.filter(source=source, struck=False)
    }
    for label, quantity, _, _ in rows:
        if (label, quantity) not in known:
            if len(known) >= MOST_SENSORS:
                raise QuantityError(f"a source has at most {MOST_SENSORS} sensors")
            made = sensor_for(source.plan, source.space_id, quantity, label, source, label)
            known[label, quantity] = made.pk
    return known
