"""Where a request is: the person's own plan and space, the station and what is looked at there."""

from __future__ import annotations

import datetime as dt
from collections import ChainMap
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, wraps
from typing import Any, cast
from zoneinfo import ZoneInfo

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.utils import timezone

from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.evaluate.light.reading import light_unit
from canopy.library import Crop
from canopy.plan import USUAL_ROOM, Plan, Room, Space
from canopy.plan.changes import Act
from canopy.quantities import Reader
from canopy.quantities.reader import LightKey
from canopy.season import Cast, Growing, cast_of, day_to_show, standing_of
from canopy.words import is_number
from canopy_web.accounts.context import preference_of, today
from canopy_web.library.querysets import own_crops
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import state_to_plan, to_plan
from canopy_web.workspace.look import Look, look_of
from canopy_web.workspace.station import House, Station


@dataclass(kw_only=True)
class Where:
    """The plan and space a request is about, the station, what is looked at, and how the person reads numbers.

    ``drawn`` is the plan as the page was drawn from which a form comes: what the person saw when they typed.
    """

    row: GrowPlan
    plan: Plan
    space: Space
    house: House
    station: Station
    look: Look
    system: str
    light: LightKey
    day: dt.date
    drawn: Plan

    def again(self, row: GrowPlan) -> Where:
        """The same place in a changed plan."""
        plan = to_plan(row)
        space = plan.space(self.space.id)
        if space is None:
            raise Http404
        return self.beside(plan, space, row)

    def beside(self, plan: Plan, space: Space, row: GrowPlan | None = None) -> Where:
        """The same place in another plan, such as one that is only tried."""
        return replace(self, row=row or self.row, plan=plan, space=space, drawn=plan)

    def do(self, label: str, *changes: Act) -> Where:
        """Change the space, and stand in the changed plan; raises PlanError."""
        return self.again(actions.change_space(self.row, self.space.id, changes, label))

    @property
    def tab(self) -> str:
        """The tab that is shown."""
        return self.station.tab(self.look.tab).key

    @property
    def drawn_space(self) -> Space:
        """The space as the page showed it; as it is where it was not there."""
        return self.drawn.space(self.space.id) or self.space

    @property
    def zone(self) -> dt.tzinfo:
        """The time zone in which the household's clocks run."""
        return ZoneInfo(self.plan.site.time_zone) if self.plan.site.time_zone else timezone.get_current_timezone()

    @property
    def room(self) -> Room:
        """The room that the space stands in."""
        return self.plan.room(self.space.room_id) or USUAL_ROOM

    def url(self, name: str, *args: Any) -> str:
        """Write the address of an act or fragment of the station that is shown."""
        return reverse(f"{self.station.key}:{name}", args=[self.row.pk, self.space.id, *args])

    @cached_property
    def report(self) -> SpaceReport:
        """The space's report on the day; raises EvaluationError."""
        return report_of(self.plan, self.space, day=self.day)

    @cached_property
    def followed(self) -> SpaceReport:
        """The space's report on the day with its climate; raises EvaluationError where it could not be computed."""
        return report_of(self.plan, self.space, day=self.day, follow=True)

    def reader(self, report: SpaceReport | None = None) -> Reader:
        """How the person reads figures: light in their unit, as it holds in this space (by the lamps alone without a
        report).
        """
        return Reader(system=self.system, light=light_unit(self.space, report.lighting if report else None, self.light))

    @cached_property
    def cast(self) -> Cast:
        """Crops, plantings, rooms and site of the plan."""
        return cast_of(self.plan)

    @cached_property
    def own(self) -> Mapping[str, Crop]:
        """The crops that the person keeps in a library of their own."""
        return own_crops(self.row.owner_id)

    @cached_property
    def crops(self) -> Mapping[str, Crop]:
        """All crops to choose from: the plan's, the person's own, the library's."""
        return ChainMap({crop.id: crop for crop in self.plan.crops}, dict(self.own), dict(self.cast.crops))

    @cached_property
    def grown(self) -> Mapping[str, Growing]:
        """The plants of the space on the day, by id."""
        return standing_of(self.space, self.day, self.cast).by_id


def day_of(request: HttpRequest, plan: Plan, look: Look) -> dt.date:
    """Give the day a person looks at: the one in the address, else today where they live, or the plan's own."""
    return look.day or day_to_show(plan, today(request, plan))


def locate(request: HttpRequest, plan_pk: int, space_id: str, station: Station, house: House) -> Where:
    """Find a person's own plan and space, or answer 404."""
    row = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=plan_pk)
    plan = to_plan(row)
    space = plan.space(space_id)
    if space is None:
        raise Http404
    look = look_of(request)
    return Where(
        row=row,
        plan=plan,
        space=space,
        house=house,
        station=station,
        look=look,
        system=preference_of(request).units,
        light=cast(LightKey, preference_of(request).light),
        day=day_of(request, plan, look),
        drawn=drawn_from(request, row, plan),
    )


def drawn_from(request: HttpRequest, row: GrowPlan, plan: Plan) -> Plan:
    """Give the plan in the state a page was drawn from, which its forms send along; as it is where none is sent."""
    sent = request.POST.get("state", "")
    if not is_number(sent) or int(sent) == row.head_id:
        return plan
    state = PlanState.objects.filter(plan=row, pk=int(sent)).first()
    return state_to_plan(state) if state else plan


def at_space(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Hand a view its place instead of the parts of its address."""

    @wraps(view)
    def placed(
        request: HttpRequest, *, plan_pk: int, space_id: str, station: Station, house: House, **rest: Any
    ) -> HttpResponse:
        return view(request, locate(request, plan_pk, space_id, station, house), **rest)

    return placed
