"""What somebody asks for: a space, crops, money, and what is wished or not wanted."""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from canopy.errors import PlanError, PlanProblem
from canopy.library import Crop, rule_sets
from canopy.model import Id, Name, Record
from canopy.plan.document import Circuit, Plan
from canopy.plan.rooms import USUAL_ROOM, Room
from canopy.plan.shell import SpaceKind
from canopy.plan.site import Site
from canopy.plan.stock import StockItem
from canopy.plan.tariff import Tariff

# What is liked best, and what is not wanted.
Liking = Literal["", "cheap", "quiet", "hands-off"]
Refusal = Literal["drilling", "smell", "co2", "sockets"]
Side = Annotated[float, Field(ge=0.02, le=10)]
MOST_CROPS = 40
KIND_NAMES: dict[SpaceKind, str] = {
    "tent": "tent",
    "closet": "closet",
    "cabinet": "cabinet",
    "shelf": "shelf",
    "glass-case": "glass case",
}


class CropWish(Record):
    """A crop and how many of it; 0 for as many as have room beside the others."""

    crop_id: Id
    count: Annotated[int, Field(ge=0, le=400)] = 0
    stage: Annotated[str, Field(max_length=40)] = ""


class SpaceWish(Record):
    """A space to be equipped. Without width, depth and height it is asked how large a tent it takes. ``levels`` are
    those of a rack. ``fed_by`` is the number in the request of a space whose air it takes, for two linked tents.
    """

    name: Annotated[str, Field(max_length=120)] = ""
    kind: SpaceKind = "tent"
    width_m: Side | None = None
    depth_m: Side | None = None
    height_m: Annotated[float, Field(ge=0.02, le=6)] | None = None
    levels: Annotated[int, Field(ge=1, le=8)] = 1
    crops: tuple[CropWish, ...] = Field(min_length=1, max_length=MOST_CROPS)
    fed_by: Annotated[int, Field(ge=0, le=3)] | None = None


class Request(Record):
    """What is asked for, in under ten answers; all that is left open is assumed and said to be.

    ``budget`` is what may be spent now, ``budget_month`` what may be drawn in a month [currency]. ``stock`` is what one
    has already. The same request with the same ``seed`` is always answered the same.
    """

    format: Literal["mild-canopy-request"] = "mild-canopy-request"
    version: Literal[1] = 1
    name: Name = "Home"
    spaces: tuple[SpaceWish, ...] = Field(min_length=1, max_length=4)
    begins: dt.date | None = None
    budget: Annotated[float, Field(ge=0, le=1e7)] | None = None
    budget_month: Annotated[float, Field(ge=0, le=1e7)] | None = None
    likes: Liking = ""
    refuses: tuple[Refusal, ...] = Field(default=(), max_length=4)
    room: Room | None = None
    site: Site | None = None
    price_per_kwh: Annotated[float, Field(ge=0, le=100)] | None = None
    rule_set_id: Id = "eu-16"
    stock: tuple[StockItem, ...] = Field(default=(), max_length=300)
    crops: tuple[Crop, ...] = Field(default=(), max_length=200)
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1

    @property
    def assumed(self) -> tuple[str, ...]:
        """What was left open and is assumed, in words, where there is no household yet."""
        found = []
        if self.room is None:
            found.append(
                f"a room of {USUAL_ROOM.day_c:.0f} °C by day and {USUAL_ROOM.night_c:.0f} °C by night, all year"
            )
        if self.price_per_kwh is None:
            found.append("the usual price of electricity")
        return (*found, *self.left_open)

    @property
    def left_open(self) -> tuple[str, ...]:
        """What of it is assumed in a household, too, whose rooms and tariff are known."""
        found = []
        if self.begins is None:
            found.append("plants that grow from today on")
        if self.budget is None:
            found.append("no limit to what may be spent")
        if any(wish.kind in ("shelf", "glass-case") for wish in self.spaces):
            found.append("no daylight: what a window adds is measured and entered in the plan that is made")
        return tuple(found)


def read_request(path: Path) -> Request:
    """Read a request from a file.

    Parameters
    ----------
    path : JSON

    Returns
    -------
    Request : checked

    Raises
    ------
    PlanError : it cannot be read, or breaks a rule; every breach is named
    """
    try:
        return Request.model_validate(json.loads(path.read_text(encoding="utf-8")))
    except (OSError, ValueError, RecursionError) as error:
        raise PlanError(problems_of(error)) from error


def problems_of(error: Exception) -> list[PlanProblem]:
    """Say what is wrong with a request.

    Parameters
    ----------
    error : as it was raised while reading

    Returns
    -------
    list of PlanProblem : one a breach
    """
    if isinstance(error, ValidationError):
        return [
            PlanProblem(path=".".join(str(step) for step in item["loc"]), message=str(item["msg"]))
            for item in error.errors()
        ]
    return [PlanProblem(path="", message=f"the request cannot be read: {error}")]


def household_for(request: Request, today: dt.date) -> Plan:
    """Make the household that a request is answered in.

    Parameters
    ----------
    request : what is asked for
    today : in place of a first day that was not said

    Returns
    -------
    Plan : with one circuit and the room, no spaces yet

    Raises
    ------
    PlanError : no such rules for sockets
    """
    rules = rule_sets().get(request.rule_set_id)
    if rules is None:
        known = ", ".join(rule_sets())
        words = f"no rules for sockets are called “{request.rule_set_id}”: use one of {known}"
        raise PlanError([PlanProblem(path="rule_set_id", message=words)])
    circuit = Circuit(
        id="circuit-1",
        name="First circuit",
        rule_set_id=rules.id,
        mains_v=rules.mains_v,
        breaker_a=rules.breaker_a,
    )
    price = rules.usual_price_per_kwh if request.price_per_kwh is None else request.price_per_kwh
    return Plan(
        name=request.name,
        date=request.begins or today,
        tariff=Tariff(price_per_kwh=price),
        site=request.site or Site(currency=rules.currency),
        rooms=(request.room or USUAL_ROOM,),
        circuits=(circuit,),
        crops=request.crops,
        stock=request.stock,
        serial=2,
    )
