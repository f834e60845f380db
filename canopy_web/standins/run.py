"""The stand-ins' process: HTTP on one port, a small broker on the next, and what is said there."""

from __future__ import annotations

import argparse
import asyncio
import json
import logging
import os
import signal
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from canopy_web.children import stay_with_parent

# So often something is said at the broker, and looked at; by a clock that catches up, so often by its own time [s].
_EVERY_S, _LOOK_S, _FAST_STEP_S = 30.0, 0.1, 900
_WRITES_S = 900


def main() -> None:
    """Run until stopped."""
    given = argparse.ArgumentParser(prog="mild-canopy stand-ins")
    given.add_argument("--host", default="127.0.0.1")
    given.add_argument("--http", type=int, default=8001)
    given.add_argument("--mqtt", type=int, default=8002)
    given.add_argument("--data", default=os.environ.get("MILD_CANOPY_DATA", "."))
    stay_with_parent()
    logging.basicConfig(level=logging.WARNING)
    asyncio.run(_run(given.parse_args()))


def zone_here() -> ZoneInfo:
    """This machine's time zone, by which the demo household lives."""
    from tzlocal import get_localzone

    try:
        return ZoneInfo(str(get_localzone()))
    except (KeyError, ValueError, OSError):
        return ZoneInfo("UTC")


async def _run(given: argparse.Namespace) -> None:
    import uvicorn
    from amqtt.broker import Broker

    from canopy_web.standins.interfaces import app_of
    from canopy_web.standins.world import World

    world = World(folder=Path(given.data), zone=zone_here())
    broker = Broker(
        {
            "listeners": {"default": {"type": "tcp", "bind": f"{given.host}:{given.mqtt}"}},
            "plugins": {"amqtt.plugins.authentication.AnonymousAuthPlugin": {"allow_anonymous": True}},
        }
    )
    server = uvicorn.Server(
        uvicorn.Config(app_of(world), host=given.host, port=given.http, log_level="warning", lifespan="off")
    )
    for number in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(number, lambda: None)
    await broker.start()
    writing = asyncio.create_task(_write(world))
    speaking = asyncio.create_task(_speak(world, given.host, given.mqtt))
    # It takes the signals while it serves, and hands them on when it has ended.
    await server.serve()
    for task in (speaking, writing):
        task.cancel()
    await asyncio.gather(speaking, writing, return_exceptions=True)
    await broker.shutdown()


async def _write(world: Any) -> None:
    """Write what was shown so far and the pictures of it, and again every quarter of an hour."""
    from canopy_web.standins.pictures import write_pictures
    from canopy_web.standins.week import write_week

    while True:
        await asyncio.to_thread(write_pictures, world)
        await asyncio.to_thread(write_week, world)
        await asyncio.sleep(_WRITES_S)


async def _speak(world: Any, host: str, port: int) -> None:
    """Say at the broker what is shown, again and again; by a clock that catches up, step by step."""
    import aiomqtt

    from canopy_web.standins.interfaces import climate

    names = {space.id: f"larkspur/{space.id}/climate" for space in world.plan.spaces} | {"": "larkspur/weather"}
    while True:
        try:
            async with aiomqtt.Client(host, port) as client:
                last = 0
                while True:
                    now, fast = world.clock.now(), world.clock.catching_up
                    # By a clock that was set back it begins again.
                    if now < last or now - last >= (_FAST_STEP_S if fast else _EVERY_S):
                        last = now
                        for space_id, topic in names.items():
                            said = await asyncio.to_thread(climate, world, space_id)
                            await client.publish(topic, json.dumps(said), retain=not fast)
                    await asyncio.sleep(_LOOK_S)
        except aiomqtt.MqttError:
            await asyncio.sleep(1)


if __name__ == "__main__":
    main()
