"""What the stand-ins answer over HTTP: JSON as a hub, plugs and a weather station do, CSV as a meter does."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable
from typing import Any

import numpy as np
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, Response
from starlette.routing import Route

from canopy.evaluate.light.lighting import lighting
from canopy.season import cast_of, standing_of
from canopy_web.standins.world import World, stamp

# A hub calls its probes as a person would find them.
KEYS = {
    "air": "air_temperature",
    "damp": "humidity",
    "co2": "co2",
    "root": "root_temperature",
    "light": "ppfd",
    "room air": "room_temperature",
    "room damp": "room_humidity",
    "outdoor air": "temperature",
    "outdoor damp": "humidity",
}
ABOUT = """These are stand-ins, not devices. They speak as a sensor hub, metering plugs, a light meter and a weather
station would, and show the demo household as it really is: not quite as it was planned.

/hub/SPACE            what the probes of a space show, JSON
/plug/SPACE/SOCKET    a metering plug: JSON; POST {"on": false, "minutes": 30} switches it
/meter/log.csv        a light meter's log of yesterday and today among the berries, CSV
/meter/survey.csv     readings over the plants of the tent, CSV
/weather              the weather station, JSON
/clock                its clock; POST {"days": 7, "within_s": 60} goes back and catches up

and a broker on the port after this one: larkspur/SPACE/climate, larkspur/weather
"""


def climate(world: World, space_id: str) -> dict[str, Any]:
    """Give what the probes of a space show, or the weather station's for an empty name."""
    at, found = world.now(world.space(space_id) if space_id else None)
    values = {KEYS[item.name]: round(item.value, 2) for item in found if item.name in KEYS}
    return {"time": stamp(at), **values, **({"battery": world.battery(at)} if space_id else {})}


def _log(world: World) -> str:
    """A logger's file as such meters write it: semicolons, decimal commas, day and hour apart."""
    lines = ["Light logger;PPFD sensor 1;;", "Date;Time;PPFD [µmol/m²/s];Battery [%]"]
    space, now = world.space("berry-tent"), world.clock.now()
    for back in (1, 0):
        day = world.house.day_of(now) - dt.timedelta(days=back)
        begin = world.house.midnight(day)
        values = next(v for item, v in world.house.through(space, day) if item.quantity == "ppfd")
        for minute in range(0, 1440, 2):
            at = begin + 60 * minute
            if at > now or not np.isfinite(values[minute]):
                continue
            here = dt.datetime.fromtimestamp(at, world.zone)
            figure = f"{values[minute]:.1f}".replace(".", ",")
            lines.append(f"{here:%d.%m.%Y};{here:%H:%M:%S};{figure};{world.battery(at):.0f}")
    return "\r\n".join(lines) + "\r\n"


def _survey(world: World) -> str:
    """Readings held over each plant, with the meter's scatter: the lamps give less than planned."""
    space = world.space("berry-tent")
    here = standing_of(space, world.house.day_of(world.clock.now()), cast_of(world.plan))
    chance = np.random.default_rng(world.house.seed)
    shines = world.house.truths["berry-tent"].shines
    lines = ["x m,y m,z m,PPFD"]
    for light in lighting(here, with_map=False).plants:
        plant = light.plant
        value = shines * light.ppfd_umol_m2_s * (1 + 0.02 * chance.standard_normal())
        lines.append(f"{plant.x_m:.2f},{plant.y_m:.2f},{plant.top_m:.2f},{value:.0f}")
    return "\r\n".join(lines) + "\r\n"


def app_of(world: World) -> Starlette:
    """Make the application that answers for all of them."""

    def answer(work: Callable[[Request], Any]) -> Callable[[Request], Any]:
        async def view(request: Request) -> Response:
            try:
                return JSONResponse(await run_in_threadpool(work, request))
            except KeyError:
                return JSONResponse({"error": "there is no such thing here"}, status_code=404)

        return view

    def hub(request: Request) -> Any:
        return climate(world, request.path_params["space"])

    def weather(request: Request) -> Any:
        return climate(world, "")

    def plug(request: Request) -> Any:
        return world.plug(world.space(request.path_params["space"]), request.path_params["socket"])

    async def switch(request: Request) -> Response:
        asked = await _body(request)
        if not isinstance(asked.get("on"), bool):
            return JSONResponse({"error": "say on: true or false"}, status_code=400)
        minutes = asked.get("minutes")
        try:
            space = world.space(request.path_params["space"])
            said = await run_in_threadpool(
                world.switch,
                space,
                request.path_params["socket"],
                asked["on"],
                float(minutes) if isinstance(minutes, int | float) else None,
                str(asked.get("who", "somebody at the plug")),
            )
        except KeyError:
            return JSONResponse({"error": "there is no such plug"}, status_code=404)
        return JSONResponse(said)

    def clock(request: Request) -> Any:
        shows = world.clock.now()
        return {"time": stamp(shows), "catching_up": world.clock.catching_up, "switched": world.told}

    async def wind(request: Request) -> Response:
        asked = await _body(request)
        try:
            days, within = float(asked.get("days", 7)), float(asked.get("within_s", 60))
        except (TypeError, ValueError):
            return JSONResponse({"error": "days and within_s are numbers"}, status_code=400)
        if not 0 < days <= 30 or not 1 <= within <= 3600:
            return JSONResponse({"error": "up to 30 days within up to an hour"}, status_code=400)
        world.clock.run(days, within)
        return JSONResponse({"time": stamp(world.clock.now()), "catching_up": True})

    async def about(request: Request) -> Response:
        return PlainTextResponse(ABOUT)

    def csv(work: Callable[[World], str]) -> Callable[[Request], Any]:
        async def view(request: Request) -> Response:
            text = await run_in_threadpool(work, world)
            return Response(text.encode(), media_type="text/csv")

        return view

    return Starlette(
        routes=[
            Route("/", about),
            Route("/hub/{space}", answer(hub)),
            Route("/weather", answer(weather)),
            Route("/plug/{space}/{socket}", answer(plug)),
            Route("/plug/{space}/{socket}", switch, methods=["POST"]),
            Route("/meter/log.csv", csv(_log)),
            Route("/meter/survey.csv", csv(_survey)),
            Route("/clock", answer(clock)),
            Route("/clock", wind, methods=["POST"]),
        ]
    )


async def _body(request: Request) -> dict[str, Any]:
    try:
        found = json.loads(await request.body())
    except ValueError:
        return {}
    return found if isinstance(found, dict) else {}
