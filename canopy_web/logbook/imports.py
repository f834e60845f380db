"""Tables of readings taken in piece by piece: what is in, and how far it has come, is stored together."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
from django.db import transaction
from pydantic import ValidationError

from canopy.errors import PlanError, QuantityError
from canopy.logs.tables import SAMPLE, Looked, Row, Shape, TableReader, look_at
from canopy.plan.files import problem_of
from canopy_web.logbook import pieces
from canopy_web.logbook.models import CsvShape, ImportJob, Reading, Sensor
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.logbook.watch import watch_plan
from canopy_web.planning.models import GrowPlan

MOST_BYTES = 210_000_000
_PIECE, _MOST_ROWS = 250_000, 5000
_LINES_TOLD, _GAPS_TOLD = 12, 12
# A pause of more than so many usual steps is a gap.
_GAP_STEPS = 4


def begin(plan: GrowPlan, space_id: str, file: Any, by: Any, zone: str) -> tuple[ImportJob, Looked]:
    """Lay a table down and look at its beginning; raises QuantityError where it cannot be one."""
    if file.size > MOST_BYTES:
        raise QuantityError(f"this file has {file.size / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are taken")
    path = pieces.folder() / f"{uuid4().hex}.csv"
    try:
        with path.open("wb") as out:
            for chunk in file.chunks():
                out.write(chunk)
    except OSError:
        path.unlink(missing_ok=True)
        raise
    return _laid(plan, space_id, path, str(file.name), by, zone)


def add_piece(plan: GrowPlan, key: str, at: int, piece: Any, by: Any) -> int:
    """Lay down a piece of a table that is sent in pieces; gives how much of it is there now."""
    return pieces.add_piece(f"{plan.pk}-{by.pk}", key, at, piece, MOST_BYTES)


def begin_pieces(plan: GrowPlan, space_id: str, key: str, name: str, by: Any, zone: str) -> tuple[ImportJob, Looked]:
    """Look at a table whose pieces are all there; raises QuantityError where it cannot be one."""
    part = pieces.part_of(f"{plan.pk}-{by.pk}", key)
    path = pieces.folder() / f"{uuid4().hex}.csv"
    part.rename(path)
    return _laid(plan, space_id, path, name, by, zone)


def _laid(plan: GrowPlan, space_id: str, path: Path, name: str, by: Any, zone: str) -> tuple[ImportJob, Looked]:
    try:
        with path.open("rb") as there:
            if there.read(2) in (b"\xff\xfe", b"\xfe\xff"):
                _as_utf8(path)
        with path.open("rb") as there:
            looked = look_at(there.read(SAMPLE), zone)
    except (QuantityError, OSError):
        path.unlink(missing_ok=True)
        raise
    known = CsvShape.objects.filter(plan=plan, digest=looked.digest).first()
    job = ImportJob.objects.create(
        plan=plan,
        space_id=space_id,
        by=by,
        name=name[:200],
        path=path.name,
        size=path.stat().st_size,
        digest=looked.digest,
        shape=known.shape if known is not None else looked.shape.model_dump(mode="json"),
    )
    return job, looked


def _as_utf8(path: Path) -> None:
    """Write a table of two-byte letters anew, so that a piece of it can be read from any line on."""
    fresh = path.with_suffix(".tmp")
    with path.open(encoding="utf-16", errors="replace", newline="") as text, fresh.open("w", newline="") as out:
        while piece := text.read(1_000_000):
            out.write(piece)
    fresh.replace(path)


def looked_at(job: ImportJob) -> Looked:
    """Look at a table again."""
    with (pieces.folder() / job.path).open("rb") as there:
        return look_at(there.read(SAMPLE))


def start(job: ImportJob, shape: dict[str, Any]) -> None:
    """Settle how a table is read, remember it for its header, and let it begin; raises PlanError."""
    try:
        settled = Shape.model_validate(shape)
    except ValidationError as error:
        raise PlanError([problem_of(detail) for detail in error.errors()]) from error
    with transaction.atomic():
        job.shape, job.state = settled.model_dump(mode="json"), "going"
        job.save(update_fields=["shape", "state"])
        CsvShape.objects.update_or_create(plan=job.plan, digest=job.digest, defaults={"shape": job.shape})


def preview(job: ImportJob, shape: dict[str, Any], most: int = 12) -> list[Row]:
    """Read the first rows as they would be taken; raises PlanError."""
    try:
        settled = Shape.model_validate(shape)
    except ValidationError as error:
        raise PlanError([problem_of(detail) for detail in error.errors()]) from error
    with (pieces.folder() / job.path).open("rb") as file:
        text = file.read(60_000).decode(settled.encoding, errors="replace")
    rows = []
    for row in TableReader(settled).rows(text.splitlines()[:-1] if len(text) > 59_000 else text.splitlines()):
        rows.append(row)
        if len(rows) >= most:
            break
    return rows


def go_on(job: ImportJob, seconds: float) -> ImportJob:
    """Take in as many pieces as fit into some time; each is one transaction on the job's newest state."""
    ends = time.monotonic() + seconds
    while True:
        with transaction.atomic():
            job = ImportJob.objects.select_for_update().get(pk=job.pk)
            if job.state != "going":
                return job
            _piece(job)
            job.save()
        if job.state == "done":
            watch_plan(job.plan, {job.space_id})
        if job.state != "going" or time.monotonic() > ends:
            return job


def _piece(job: ImportJob) -> None:
    shape, path = Shape.model_validate(job.shape), pieces.folder() / job.path
    try:
        with path.open("rb") as file:
            file.seek(job.offset)
            raw = file.read(_PIECE)
            if raw and not raw.endswith(b"\n"):
                raw += file.readline(_PIECE)
    except OSError:
        job.state, job.words = "failed", "The file is no longer there: send it again."
        return
    if not raw:
        _end(job)
        return
    reader = TableReader(shape, job.line, job.last, job.fold)
    sensors = _sensors(job, shape)
    rows: list[tuple[int, int, float]] = []
    for row in reader.rows(raw.decode(shape.encoding, errors="replace").splitlines()):
        job.rows += 1
        if row.wrong:
            job.wrong += 1
            if len(job.wrong_lines) < _LINES_TOLD:
                job.wrong_lines = [*job.wrong_lines, [row.line, row.wrong[:160]]]
        rows += [(sensors[column], row.at, value) for column, value in row.values]
    for piece in _pieces(rows):
        new = keep_readings(piece)
        job.taken, job.doubled = job.taken + new, job.doubled + len(piece) - new
    job.offset += len(raw)
    job.line, job.last, job.fold = reader.state


def _pieces(rows: list[tuple[int, int, float]]) -> Iterator[list[tuple[int, int, float]]]:
    for at in range(0, len(rows), _MOST_ROWS):
        yield rows[at : at + _MOST_ROWS]


def _sensors(job: ImportJob, shape: Shape) -> list[int]:
    return [sensor_for(job.plan, job.space_id, column.quantity, column.name).pk for column in shape.columns]


def _end(job: ImportJob) -> None:
    job.state = "done"
    shape = Shape.model_validate(job.shape)
    for column, sensor_id in zip(shape.columns, _sensors(job, shape), strict=True):
        gaps = _gaps(sensor_id)
        if gaps:
            job.gaps = [*job.gaps, [column.name, *gaps]]
    (pieces.folder() / job.path).unlink(missing_ok=True)


def _gaps(sensor_id: int) -> tuple[int, int] | None:
    """How many pauses a sensor's readings have, and how long the longest is [s]; None without any."""
    at = np.fromiter(
        Reading.objects.filter(sensor_id=sensor_id).order_by("at").values_list("at", flat=True).iterator(50_000),
        dtype=np.int64,
    )
    if at.size < 3:
        return None
    steps = np.diff(at)
    pauses = steps[steps > _GAP_STEPS * np.median(steps)]
    return (int(pauses.size), int(pauses.max())) if pauses.size else None


def stop(job: ImportJob) -> None:
    """Take no more in; what is in stays, and the file goes."""
    with transaction.atomic():
        fresh = ImportJob.objects.select_for_update().get(pk=job.pk)
        if fresh.state in ("going", "looked"):
            fresh.state = "stopped"
            fresh.save(update_fields=["state"])
    (pieces.folder() / job.path).unlink(missing_ok=True)


def strike_sensor(sensor: Sensor) -> None:
    """Show a sensor and its readings nowhere any more; they are kept."""
    Sensor.objects.filter(pk=sensor.pk).update(struck=True)
