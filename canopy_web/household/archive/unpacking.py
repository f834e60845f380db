"""An archive taken in: checked as it is read, whole or not at all, beside what the account has already."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import secrets
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.contrib.auth import get_user_model
from django.db import IntegrityError, transaction
from django.utils import timezone
from pydantic import ValidationError

from canopy.errors import CanopyError, PlanError, PlanProblem
from canopy.library import Crop
from canopy.logs.entries import read_data
from canopy.logs.measured import measured
from canopy.plan import Plan, from_data
from canopy_web.accounts.models import Preference
from canopy_web.household.archive.packing import FORMAT, PREFERENCES
from canopy_web.household.archive.tables import TABLES, read_rows
from canopy_web.library.models import OwnCrop
from canopy_web.logbook.models import Sensor, Source
from canopy_web.logbook.readings import keep_readings
from canopy_web.logbook.sources import SourceShape
from canopy_web.photos.actions import take_measure
from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import PictureError, kept_picture
from canopy_web.planning.models import GrowPlan, PlanState, PlanVariant
from canopy_web.planning.store import from_plan

# What an archive may hold in all, unpacked, and in one file that is read whole [bytes].
MOST_BYTES, _MOST_WHOLE, _MOST_FILES = 4_000_000_000, 200_000_000, 20_000
_BATCH = 20_000
# An account that only holds what is being taken in, until all of it is there.
INCOMING = "incoming-"
_LEFT = dt.timedelta(hours=12)


@dataclass(frozen=True, kw_only=True)
class TakenIn:
    """What came out of an archive."""

    households: int
    states: int
    readings: int
    photographs: int


def unpack(user: Any, file: Any) -> TakenIn:
    """Take an archive in. Raises PlanError where it is not whole, and then nothing of it is kept.

    It is put together under an account of its own, readings a batch at a time so that nobody waits, and handed over in
    one step.
    """
    sweep_incoming()
    try:
        with zipfile.ZipFile(file) as archive:
            _bounded(archive)
            holder = get_user_model().objects.create(username=f"{INCOMING}{secrets.token_hex(8)}", is_active=False)
            try:
                done = _Unpacked(archive, holder, user).all()
                _hand_over(archive, holder, user)
            finally:
                # What was handed over is no longer its own.
                get_user_model().objects.filter(pk=holder.pk).delete()
    except zipfile.BadZipFile:
        raise _wrong("", "this is no archive: a file ending in .zip is asked for") from None
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError, EOFError, zipfile.LargeZipFile) as error:
        raise _wrong("", f"the archive is damaged: {error}") from None
    except IntegrityError:
        raise _wrong("", "the archive says the same twice where it may be said once") from None
    return done


def sweep_incoming() -> None:
    """Remove what was being taken in when somebody pulled the plug."""
    old = get_user_model().objects.filter(username__startswith=INCOMING, date_joined__lt=timezone.now() - _LEFT)
    for left in old:
        left.delete()


def _wrong(path: str, words: str) -> PlanError:
    return PlanError([PlanProblem(path=path, message=words)])


def _bounded(archive: zipfile.ZipFile) -> None:
    infos = archive.infolist()
    if len(infos) > _MOST_FILES or sum(info.file_size for info in infos) > MOST_BYTES:
        raise _wrong("", f"an archive has at most {_MOST_FILES} files of {MOST_BYTES / 1e9:.0f} GB in all")
    if "account.json" not in archive.namelist():
        raise _wrong("", "this is no archive of Mild Canopy: it has no account.json")
    found = _json(archive, "account.json")
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise _wrong(
            "account.json", "this archive was written by another version; its plan files can be taken in singly"
        )


def _json(archive: zipfile.ZipFile, name: str) -> Any:
    return json.loads(_whole(archive, name).decode("utf-8"))


def _whole(archive: zipfile.ZipFile, name: str) -> bytes:
    try:
        info = archive.getinfo(name)
    except KeyError:
        raise _wrong(name, "this is missing") from None
    if info.file_size > _MOST_WHOLE:
        raise _wrong(name, "this is too large")
    with archive.open(info) as file:
        # What a header says may not be so.
        found = file.read(_MOST_WHOLE + 1)
    if len(found) > _MOST_WHOLE:
        raise _wrong(name, "this is too large")
    return found


class _Unpacked:
    """One archive on its way into an account of its own."""

    def __init__(self, archive: zipfile.ZipFile, holder: Any, user: Any) -> None:
        self.archive, self.holder, self.user = archive, holder, user
        self.states = self.readings = self.photographs = 0

    def all(self) -> TakenIn:
        names = sorted(name for name in self.archive.namelist() if name.startswith("history/"))
        for name in names:
            self._household(name.removeprefix("history/").removesuffix(".jsonl"))
        return TakenIn(households=len(names), states=self.states, readings=self.readings, photographs=self.photographs)

    def _household(self, folder: str) -> None:
        with transaction.atomic():
            row, keys = self._history(folder)
            facts = _json(self.archive, f"facts/{folder}.json")
            if not isinstance(facts, dict):
                raise _wrong(f"facts/{folder}.json", "this is no record")
            there: dict[str, list[int | None]] = {"states": keys, "people": [self.user.pk]}
            for table in TABLES:
                rows = facts.get(table.name, [])
                self._checked(table.name, rows)
                there[table.name] = read_rows(table, rows, row, there)
            self._photographs(folder, row)
        self._readings(folder, row)

    def _history(self, folder: str) -> tuple[GrowPlan, list[int | None]]:
        name = f"history/{folder}.jsonl"
        lines = self._lines(name)
        head = next(lines, None)
        if not isinstance(head, dict) or "head" not in head:
            raise _wrong(name, "its first line says nothing of the plan")
        row = GrowPlan.objects.create(owner=self.holder, name="…", serial=int(head.get("serial") or 1))
        keys: list[int | None] = []
        plans: list[str] = []
        for number, data in enumerate(lines):
            plan = self._plan(name, number, data)
            made = _moment(name, data.get("created"))
            if "variant" in data:
                kept = PlanVariant.objects.create(
                    plan=row,
                    name=str(data["variant"])[:120],
                    space_id=str(data.get("space", ""))[:64],
                    price=data.get("price"),
                    document=from_plan(plan),
                )
                PlanVariant.objects.filter(pk=kept.pk).update(created=made)
                continue
            parent = data.get("parent")
            if data.get("state") != len(keys) or (parent is not None and not _among(parent, keys)):
                raise _wrong(name, f"line {number + 2}: its state comes from none before it")
            state = PlanState.objects.create(
                plan=row,
                parent_id=None if parent is None else keys[parent],
                label=str(data.get("label", ""))[:200],
                document=from_plan(plan),
            )
            PlanState.objects.filter(pk=state.pk).update(created=made)
            keys.append(int(state.pk))
            plans.append(plan.name)
        if not _among(head["head"], keys):
            raise _wrong(name, "its present state is not there")
        GrowPlan.objects.filter(pk=row.pk).update(
            head_id=keys[head["head"]], name=plans[head["head"]][:120], created=_moment(name, head.get("created"))
        )
        row.refresh_from_db()
        self.states += len(keys)
        return row, keys

    def _lines(self, name: str) -> Iterator[Any]:
        try:
            info = self.archive.getinfo(name)
        except KeyError:
            raise _wrong(name, "this is missing") from None
        with self.archive.open(info) as file:
            for line in file:
                yield json.loads(line.decode("utf-8"))

    def _plan(self, name: str, number: int, data: Any) -> Plan:
        if not isinstance(data, dict):
            raise _wrong(name, f"line {number + 2} is no record")
        try:
            return from_data(data.get("plan"))
        except PlanError as error:
            raise _wrong(name, f"line {number + 2}: {error.problems[0]}") from None

    def _checked(self, table: str, rows: Any) -> None:
        """What the tables' own columns cannot know."""
        for number, data in enumerate(rows if isinstance(rows, list) else ()):
            if not isinstance(data, dict):
                continue
            try:
                if table == "sensors":
                    measured(str(data.get("quantity")))
                elif table == "entries":
                    read_data(str(data.get("kind")), data.get("data") or {})
                elif table == "sources" and data.get("kind") != "push":
                    SourceShape.model_validate(data.get("shape"))
                elif table == "sources" and Source.objects.filter(token_digest=data.get("token_digest")).exists():
                    # Its token opens the way it came from; here it needs a new one.
                    data["token_digest"] = None
            except (CanopyError, ValidationError, KeyError, TypeError) as error:
                raise _wrong(table, f"row {number}: {error}") from None

    def _photographs(self, folder: str, row: GrowPlan) -> None:
        listed = _json(self.archive, "photographs.json")
        for data in listed if isinstance(listed, list) else ():
            if not isinstance(data, dict) or data.get("household") != folder:
                continue
            name = str(data.get("file"))
            try:
                picture = kept_picture(_whole(self.archive, name))
                day = dt.date.fromisoformat(str(data.get("taken_on")))
            except (PictureError, ValueError) as error:
                raise _wrong(name, str(error)) from None
            photo = SpacePhoto.objects.create(
                plan=row,
                space_id=str(data.get("space", ""))[:64],
                caption=str(data.get("caption", ""))[:120],
                step=str(data.get("step", ""))[:160],
                image=picture.image,
                small=picture.small,
                width=picture.width,
                height=picture.height,
                day=day,
                plant_id=str(data.get("plant", ""))[:64],
                lens_mm=lens if isinstance(lens := data.get("lens_mm"), int | float) else None,
            )
            if data.get("marks"):
                try:
                    take_measure(photo, data["marks"], data.get("said"))
                except ValueError as error:
                    raise _wrong(name, str(error)) from None
            SpacePhoto.objects.filter(pk=photo.pk).update(taken=_moment(name, data.get("came")))
            self.photographs += 1

    def _readings(self, folder: str, row: GrowPlan) -> None:
        name = f"readings/{folder}.csv"
        if name not in self.archive.namelist():
            return
        sensors = {(s.space_id, s.quantity, s.name): s.pk for s in Sensor.objects.filter(plan=row)}
        batch: list[tuple[int, int, float]] = []
        with self.archive.open(name) as file:
            rows = csv.reader(io.TextIOWrapper(file, "utf-8", newline=""))
            next(rows, None)
            for number, cells in enumerate(rows, 2):
                try:
                    when, space, _, sensor, quantity, _, value = cells
                    key = sensors[space, quantity, sensor]
                    at = int(dt.datetime.fromisoformat(when).timestamp())
                    batch.append((key, at, float(value)))
                except (ValueError, KeyError):
                    raise _wrong(name, f"line {number} is no reading of a sensor that is there") from None
                if len(batch) >= _BATCH:
                    self.readings += keep_readings(batch)
                    batch = []
        self.readings += keep_readings(batch)


def _among(number: Any, keys: list[int | None]) -> bool:
    return isinstance(number, int) and not isinstance(number, bool) and 0 <= number < len(keys)


def _moment(name: str, text: Any) -> dt.datetime:
    try:
        moment = dt.datetime.fromisoformat(str(text))
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is None:
        raise _wrong(name, f"“{str(text)[:40]}” is no time with its zone")
    return moment


@transaction.atomic
def _hand_over(archive: zipfile.ZipFile, holder: Any, user: Any) -> None:
    """Give all that was put together to its person at once; settings only to an account that is empty yet."""
    fresh = not GrowPlan.objects.filter(owner=user).exists()
    GrowPlan.objects.filter(owner=holder).update(owner=user)
    for data in _json(archive, "crops.json"):
        try:
            crop = Crop.model_validate(data)
        except ValidationError as error:
            raise _wrong("crops.json", str(error.errors()[0]["msg"])) from None
        OwnCrop.objects.get_or_create(owner=user, key=crop.id, defaults={"name": crop.name, "document": data})
    account = _json(archive, "account.json")
    if fresh:
        chosen, _ = Preference.objects.get_or_create(user=user)
        for key in PREFERENCES:
            setattr(chosen, key, account.get(key, getattr(chosen, key)))
        chosen.clean_fields(exclude={"user"})
        chosen.save()
    for best in account.get("practised", []):
        user.trainer_results.get_or_create(
            scenario=str(best["scenario"])[:64],
            defaults={"score": float(best["score"]), "moves": best["moves"], "times": int(best["times"])},
        )
