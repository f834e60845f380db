"""Sources that are asked or listened to: what is settled for one, and what it gave taken into the log."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from django.db import transaction
from django.utils import timezone
from pydantic import Field

from canopy.errors import QuantityError
from canopy.logs.pointed import MOST_VALUES, Pointer, Taken, document_of, read
from canopy.logs.switching import Feeds
from canopy.model import Record
from canopy_web.logbook.models import Sensor, Source
from canopy_web.logbook.readings import keep_readings, sensor_for

# How often a source may be asked [s].
OFTEN_S, SELDOM_S = 10, 86_400
# One that fails waits longer each time, at most so long [s].
_PATIENCE_S = 3600


class Switched(Record):
    """A plug that can be switched: the address that is told, where it says whether it is on, and what it feeds."""

    address: Annotated[str, Field(max_length=500)]
    state: Annotated[str, Field(max_length=200)] = "$.on"
    feeds: Feeds = "other"


class SourceShape(Record):
    """What is settled for a source: how often it is asked, where its time and its values stand, and how it is switched
    where it can be; for a broker also who asks, and which version of the protocol it speaks.
    """

    every_s: Annotated[int, Field(ge=OFTEN_S, le=SELDOM_S)] = 60
    at: Annotated[str, Field(max_length=200)] = ""
    values: tuple[Pointer, ...] = Field(min_length=1, max_length=MOST_VALUES)
    username: Annotated[str, Field(max_length=120)] = ""
    password: Annotated[str, Field(max_length=200)] = ""
    version: Literal["3.1.1", "5"] = "3.1.1"
    switch: Switched | None = None


@dataclass(frozen=True, kw_only=True)
class Took:
    """What became of messages: readings that were new, those kept before, what was wrong with some of their values, and
    with a whole one, in words.
    """

    new: int
    doubled: int
    wrong: tuple[str, ...]
    unread: str = ""


def shape_of(source: Source) -> SourceShape:
    """Give what is settled for a source."""
    return SourceShape.model_validate(source.shape)


@transaction.atomic
def open_at(plan: Any, space_id: str, kind: str, name: str, address: str, shape: SourceShape) -> Source:
    """Ask or listen at an address from now on; its sensors are made at once, so that they can be seen waiting."""
    source = Source.objects.create(
        plan=plan, space_id=space_id, kind=kind, name=name, address=address, shape=shape.model_dump(mode="json")
    )
    for pointer in shape.values:
        _sensor(source, pointer)
    return source


def _label(pointer: Pointer) -> str:
    return f"{pointer.topic} {pointer.path}".strip()[:120]


def _sensor(source: Source, pointer: Pointer) -> int:
    """The sensor of a value; one that was named anew here is known by where its value stands."""
    label = _label(pointer)
    known = Sensor.objects.filter(source=source, label=label, quantity=pointer.quantity).first()
    if known is not None:
        return int(known.pk)
    made = sensor_for(source.plan, source.space_id, pointer.quantity, pointer.name, source, label)
    if made.source_id is None or made.place != pointer.place:
        Sensor.objects.filter(pk=made.pk).update(source=source, label=label, place=pointer.place)
    return int(made.pk)


def due(now: float) -> list[Source]:
    """The sources that are to be asked by now, the longest waiting first."""
    found = []
    for source in Source.objects.filter(kind="pull").select_related("plan").order_by("asked"):
        every = int(source.shape.get("every_s", 60))
        waits = min(every * 2 ** min(source.fails, 10), max(every, _PATIENCE_S))
        if now - source.asked >= waits:
            found.append(source)
    return found


def take_in(source: Source, content: bytes, topic: str = "", now: float | None = None) -> Took:
    """Keep what a source gave; raises QuantityError, with nothing kept, where it is no JSON or its time is none."""
    took = take_all(source, [(topic, content)], now)
    if took.unread:
        raise QuantityError(took.unread)
    return took


@transaction.atomic
def take_all(source: Source, messages: Sequence[tuple[str, bytes]], now: float | None = None) -> Took:
    """Keep what a source gave in some messages, each under its topic; one that cannot be read holds up no other."""
    moment = time.time() if now is None else now
    shape = shape_of(source)
    found: list[Taken] = []
    wrong: list[str] = []
    unread = ""
    for topic, content in messages:
        asked_for = [item for item in shape.values if not item.topic or item.topic == topic]
        try:
            some, amiss = read(document_of(content), asked_for, moment, shape.at)
        except QuantityError as error:
            unread = f"{topic}: {error}" if topic else str(error)
            continue
        found += some
        wrong += amiss
    new = keep_readings([(_sensor(source, item.pointer), item.at, item.value) for item in found])
    trouble = "; ".join(filter(None, [unread, *dict.fromkeys(wrong)]))[:300]
    fails = 0 if found else source.fails + 1
    Source.objects.filter(pk=source.pk).update(
        trouble=trouble, fails=fails, **({"last_seen": timezone.now()} if found or not unread else {})
    )
    return Took(new=new, doubled=len(found) - new, wrong=tuple(wrong), unread=unread)


def failed(source: Source, words: str) -> None:
    """Say why a source gave nothing; one that fails is asked less and less often."""
    Source.objects.filter(pk=source.pk).update(trouble=words[:300], fails=source.fails + 1)


def asked(sources: Sequence[Source], now: float) -> None:
    """Say that sources are being asked now."""
    Source.objects.filter(pk__in=[source.pk for source in sources]).update(asked=int(now))
