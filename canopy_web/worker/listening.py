"""Listen at brokers: one connection a source, made again where it breaks, closed where its source is."""

from __future__ import annotations

import asyncio
import logging
import time
from dataclasses import dataclass, field
from typing import Any

from asgiref.sync import sync_to_async

from canopy.errors import QuantityError
from canopy_web.logbook import sources
from canopy_web.logbook.fetch import MOST_BYTES, MQTT, client_of, topic_of
from canopy_web.logbook.models import Source
from canopy_web.logbook.outside import Outside, outside

_log = logging.getLogger(__name__)
# A broken connection is made again after so long, longer each time [s].
_FIRST_S, _LONGEST_S = 2.0, 300.0
_MOST_SOURCES = 100
# What was heard is kept in batches, so often [s], and of so many messages.
_KEEP_S, _MOST_WAITING = 0.5, 500


@dataclass
class Ears:
    """All connections that are held, by source; each with what it was made for."""

    held: dict[int, tuple[str, asyncio.Task[None]]] = field(default_factory=dict)

    async def settle(self) -> None:
        """Open what is new, close what is gone or was changed."""
        wanted = await sync_to_async(_wanted)()
        for pk, (stamp, task) in list(self.held.items()):
            if pk not in wanted or _stamp(wanted[pk]) != stamp or task.done():
                task.cancel()
                del self.held[pk]
        for pk, source in wanted.items():
            if pk not in self.held:
                self.held[pk] = (_stamp(source), asyncio.create_task(_listen(source)))

    async def close(self) -> None:
        """Close all."""
        for _, task in self.held.values():
            task.cancel()
        await asyncio.gather(*(task for _, task in self.held.values()), return_exceptions=True)
        self.held.clear()


def _wanted() -> dict[int, Source]:
    found = Source.objects.filter(kind="mqtt").select_related("plan")[:_MOST_SOURCES]
    return {source.pk: source for source in found}


def _stamp(source: Source) -> str:
    return f"{source.address} {source.shape}"


async def _listen(source: Source) -> None:
    """Hold a connection until it is cancelled."""
    import aiomqtt

    waits = _FIRST_S
    while True:
        began = time.monotonic()
        try:
            shape = sources.shape_of(source)
            there = await asyncio.to_thread(outside, source.address, MQTT)
            async with client_of(there, shape.username, shape.password, shape.version) as client:
                await _hear(source, shape, there, client)
        except (QuantityError, aiomqtt.MqttError, OSError, ValueError) as error:
            await sync_to_async(sources.failed)(source, f"{error or type(error).__name__}")
        except asyncio.CancelledError:
            raise
        except Exception:
            _log.exception("listening at %s", source.name)
        waits = _FIRST_S if time.monotonic() - began > _LONGEST_S else min(2 * waits, _LONGEST_S)
        await asyncio.sleep(waits)


async def _hear(source: Source, shape: sources.SourceShape, there: Outside, client: Any) -> None:
    topics = {item.topic for item in shape.values}
    for topic in sorted(topics) if all(topics) else [topic_of(there)]:
        await client.subscribe(topic, qos=1)
    heard = _Heard(timed=bool(shape.at))
    keeping = asyncio.create_task(_keep(source, heard))
    try:
        async for message in client.messages:
            # What the broker kept from before is of no known time, unless it says so itself.
            if heard.timed or not message.retain:
                heard.add(str(message.topic), bytes(message.payload or b""))
    finally:
        keeping.cancel()
        await sync_to_async(_take)(source, heard.taken())


@dataclass
class _Heard:
    """What was heard and is not kept yet. A second keeps one reading, and what is too much is let pass: a flood."""

    timed: bool
    _waiting: list[tuple[str, bytes]] = field(default_factory=list)
    _last: dict[str, int] = field(default_factory=dict)

    def add(self, topic: str, payload: bytes) -> None:
        """Take a message, unless it is too large or one too many."""
        second = int(time.time())
        fresh = self.timed or self._last.get(topic) != second
        if fresh and len(payload) <= MOST_BYTES and len(self._waiting) < _MOST_WAITING:
            self._last[topic] = second
            self._waiting.append((topic, payload))

    def taken(self) -> list[tuple[str, bytes]]:
        """Give all, and begin anew."""
        found, self._waiting = self._waiting, []
        return found


async def _keep(source: Source, heard: _Heard) -> None:
    """Keep what was heard, a batch at a time."""
    while True:
        await asyncio.sleep(_KEEP_S)
        await sync_to_async(_take)(source, heard.taken())


def _take(source: Source, messages: list[tuple[str, bytes]]) -> None:
    if messages:
        try:
            sources.take_all(source, messages)
        except Exception:
            _log.exception("keeping what %s said", source.name)
