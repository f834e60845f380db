"""Ask the sources that are due, a few at a time."""

from __future__ import annotations

import asyncio
import time

from asgiref.sync import sync_to_async

from canopy.errors import QuantityError
from canopy_web.logbook import sources
from canopy_web.logbook.fetch import fetch
from canopy_web.logbook.models import Source

# So many are asked at a time.
_AT_ONCE = 8


async def pull_due() -> int:
    """Ask all that are due; gives how many readings were new. One that fails says why and holds up no other."""
    now = time.time()
    due = await sync_to_async(sources.due)(now)
    if not due:
        return 0
    # Said first: a worker that is ended here asks each a round later, not all of them at once.
    await sync_to_async(sources.asked)(due, now)
    gate = asyncio.Semaphore(_AT_ONCE)
    return sum(await asyncio.gather(*(_pull(source, gate) for source in due)))


async def _pull(source: Source, gate: asyncio.Semaphore) -> int:
    async with gate:
        try:
            content = await fetch(source.address)
            return (await sync_to_async(sources.take_all)(source, [("", content)])).new
        except QuantityError as error:
            await sync_to_async(sources.failed)(source, str(error))
            return 0
