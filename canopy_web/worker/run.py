"""The worker: a process of its own that asks sources, listens, watches and writes mail, each by its own clock.

All that it knows lies in the database: whenever it is ended, the next one goes on where things stand.
"""

from __future__ import annotations

import asyncio
import logging
import os
import signal
import sys
from collections.abc import Awaitable, Callable
from typing import Any

_log = logging.getLogger("canopy_web.worker")
# How often each thing is done [s].
_EVERY = {"pull": 2.0, "listen": 3.0, "watch": 30.0, "tell": 20.0, "beat": 5.0, "fill": 4.0}


def main() -> None:
    """Work until stopped; ends at once where another worker is at work on the same data."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "canopy_web.settings")
    import django

    from canopy_web.beside import keep_out
    from canopy_web.children import stay_with_parent

    stay_with_parent()
    keep_out()
    django.setup()
    from canopy_web.logbook.beat import alone

    lock = alone()
    if lock is None:
        print("another worker is at work on these data", file=sys.stderr)
        raise SystemExit(0)
    with lock:
        asyncio.run(work())


async def work() -> None:
    """Do all that goes on by itself until a signal says stop."""
    from apscheduler.schedulers.asyncio import AsyncIOScheduler
    from asgiref.sync import sync_to_async

    from canopy_web.logbook.beat import beat
    from canopy_web.logbook.living import fill_late
    from canopy_web.worker.listening import Ears
    from canopy_web.worker.pulling import pull_due
    from canopy_web.worker.telling import tell
    from canopy_web.worker.watching import watch_all

    # That a slow source held a round up is no news.
    logging.getLogger("apscheduler").setLevel(logging.ERROR)
    stop = asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(number, stop.set)
    ears = Ears()
    jobs: dict[str, Callable[[], Awaitable[Any]]] = {
        "pull": pull_due,
        "listen": ears.settle,
        "watch": sync_to_async(watch_all),
        "tell": sync_to_async(tell),
        "beat": sync_to_async(beat),
        "fill": sync_to_async(fill_late),
    }
    # One of a kind at a time; what was missed meanwhile is done once.
    scheduler = AsyncIOScheduler(job_defaults={"max_instances": 1, "coalesce": True, "misfire_grace_time": None})
    for name, job in jobs.items():
        scheduler.add_job(_living_on, "interval", (name, job), seconds=_EVERY[name], id=name, next_run_time=_now())
    scheduler.start()
    try:
        await stop.wait()
    finally:
        scheduler.shutdown(wait=False)
        await ears.close()


def _now() -> Any:
    import datetime as dt

    return dt.datetime.now(dt.UTC)


async def _living_on(name: str, job: Callable[[], Awaitable[Any]]) -> None:
    """Do something; whatever goes wrong with it is written down, and the worker lives on."""
    try:
        await job()
    except Exception:
        _log.exception("the worker's %s failed", name)


if __name__ == "__main__":
    main()
