"""A request answered whole: checked, searched, picked from; where it cannot be met, the smallest change that would."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from canopy.design.light.choose import OWNED
from canopy.design.light.hanging import hang
from canopy.design.start.answers import Answers
from canopy.designer.answers import Alternative, alone, answers
from canopy.designer.changes import Change, Changes
from canopy.designer.making import Maker
from canopy.designer.outcome import outcome_of
from canopy.designer.request import KIND_NAMES, CropWish, Request, SpaceWish, household_for
from canopy.designer.search import TRIES, Limits, Search, Tried
from canopy.designer.sharing import sharing_of
from canopy.designer.stepwise import Stepwise
from canopy.designer.tents import TENTS_M, tents_for
from canopy.errors import PlanError, PlanProblem
from canopy.evaluate.power.loads import CircuitLoad, circuit_load, household_tree
from canopy.library import Crop
from canopy.light.scene import DEFAULT
from canopy.margin import Amount, Margin, Sentence, sentence
from canopy.plan.document import Plan
from canopy.plan.edit import fresh_id
from canopy.season import cast_of
from canopy.words import counted

# Whether a change would do is asked of so many whole kits, in so many steps of work.
_QUICK, _LONGEST = 6, 60
# Smaller than this nothing is grown in [m].
_LEAST_SIDE_M = 0.15


@dataclass(eq=False)
class Designer(Stepwise):
    """Answers a request for one space of a household, one try at a time. ``number`` is which space of the request.

    ``notes`` are what was found on the way: the size that was taken, what one has that does not fit. ``would`` is what
    could be changed where no plan works, or none within the budget.
    """

    request: Request
    household: Plan
    number: int = 0
    most: int = TRIES
    notes: list[Sentence] = field(default_factory=list)
    would: list[Change] = field(default_factory=list)
    search: Search | None = None
    helps: bool = True
    classes: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        self.wish = self.request.spaces[self.number]
        self.cast = cast_of(self.household)
        self.crops = _known(self.cast.crops, self.wish.crops)
        _checked(self.wish, self.crops)
        places = [space.id for space in self.household.spaces]
        by = self.wish.fed_by
        self.feeder_id = places[by] if by is not None and by < len(places) else ""

    def run(self) -> tuple[Alternative, ...]:
        """Try everything.

        Returns
        -------
        tuple of Alternative : the answers
        """
        self.to_the_end()
        return self.answers()

    def answers(self) -> tuple[Alternative, ...]:
        """Give the answers as far as it has come.

        Returns
        -------
        tuple of Alternative : what is liked best first, then the cheapest
        """
        return answers(self.search, self.request.likes) if self.search else ()

    def one(self, number: int) -> Alternative | None:
        """Give one plan that was tried.

        Parameters
        ----------
        number : as its point in the picture of the trade has it

        Returns
        -------
        Alternative : computed at the full setting; None where no such plan was tried
        """
        if self.search is None or not 0 <= number < len(self.search.tried):
            return None
        known = next((item for item in self.answers() if item.tried.number == number), None)
        return known or alone(self.search, self.search.tried[number])

    @property
    def works(self) -> bool:
        """Whether a plan was found that meets it all, within the budget."""
        return self.search is not None and any(self.search.within(item) for item in self.search.working)

    @property
    def unmet(self) -> tuple[Margin, ...]:
        """What stays outside in the plan that comes nearest; nothing where one works."""
        if self.search is None or self.search.working:
            return ()
        best = self.search.settled_best("cheapest")
        return self.search.settle(best).bad if best else ()

    @property
    def stage(self) -> str:
        """What it is doing, in words."""
        if self.search is None:
            return "looking for the size"
        return self.search.stage if not self.search.finished else "looking for what would do"

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1."""
        if self.finished:
            return 1.0
        return 0.05 + 0.85 * self.search.share if self.search else 0.02

    # ---- the work

    def _tries(self) -> Iterator[bool]:
        if self.wish.width_m is None:
            yield from self._sized()
        if self.search is None:
            self.search = self._searching(self.wish, self.most)
        while self.search.go_on():
            yield True
        if self.feeder_id and not self._link_holds():
            # Led into each other one of them suffers: they stand side by side.
            self.feeder_id = ""
            self.search = self._searching(self.wish, self.most)
            while self.search.go_on():
                yield True
        self._note_owned()
        if self.helps and not self.works:
            yield from self._what_would()
        elif self.helps and self._all_cool():
            # Cooling costs more than all else: whether a cooler room would do is worth asking.
            yield from self._tried([self._changes.another_room()])

    def _searching(self, wish: SpaceWish, most: int) -> Search:
        answers = answers_of(self.household, wish, self.crops)
        maker = Maker(self.household, answers, self.household.date, self._refuses, self.feeder_id)
        limits = Limits(now=self.request.budget, month=self.request.budget_month)
        return Search(maker, limits, seed=self.request.seed, most=most, classes=self.classes)

    @property
    def _refuses(self) -> tuple[str, ...]:
        return self.request.refuses

    def _sized(self) -> Iterator[bool]:
        """The smallest tent in which a plan works."""
        sizes = tents_for([(crop, wish.count) for crop, wish in zip(self.crops, self.wish.crops, strict=True)])
        if not sizes:
            width, depth, _ = TENTS_M[-1]
            words = f"no tent has room for so many: the largest here is {width:g} × {depth:g} m. Take fewer plants"
            raise PlanError([PlanProblem(path="crops", message=words)])
        for width, depth, height in sizes:
            size = {"width_m": width, "depth_m": depth, "height_m": height}
            wish = self.wish.model_copy(update=size)
            try:
                quick = self._searching(wish, _QUICK)
            except PlanError:
                continue
            while not quick.working and quick.go_on():
                yield True
            if quick.working or (width, depth, height) == sizes[-1]:
                self.wish = wish
                amounts = {key: Amount(value=value, unit="length") for key, value in size.items()}
                label = "A tent of {width_m} × {depth_m} × {height_m} is the smallest in which it works."
                if not quick.working:
                    label = "Not even in a tent of {width_m} × {depth_m} × {height_m} all of it works."
                self.notes.append(sentence(label, **amounts))
                return
        self.wish = self.wish.model_copy(update=dict(zip(("width_m", "depth_m", "height_m"), sizes[-1], strict=True)))

    def _link_holds(self) -> bool:
        """Whether the space whose air is led here is none the worse for it, in the answer that is shown first."""
        assert self.search is not None
        feeder = self.household.space(self.feeder_id)
        best = self.search.settled_best("thriftiest")
        if feeder is None or best is None:
            return False
        plan, day = self.search.maker.plan_of(best.space), self.household.date
        apart = outcome_of(self.household, feeder.id, day, quality=DEFAULT)
        linked = outcome_of(plan, feeder.id, day, quality=DEFAULT)
        name = feeder.name
        if best.works and linked.weight <= apart.weight + 1e-9:
            self.notes.append(sentence(f"The exhaust of {name} is led into it."))
            return True
        outside = linked.bad or self.search.settle(best).bad
        what = f": {outside[0].title} would be outside" if outside else ""
        self.notes.append(sentence(f"The exhaust of {name} is not led into it{what}. They stand side by side."))
        return False

    def _note_owned(self) -> None:
        """What one has that finds no room there."""
        assert self.search is not None
        level = self.search.maker.level
        top = max((plant.top_m for plant in level.plants), default=0.2)
        for item in self.household.stock:
            if item.lamp is None or hang(level.space.size, item.lamp, 1, top, 12.0):
                continue
            size = level.space.size
            amounts = {
                "l": Amount(value=item.lamp.length_m, unit="length"),
                "w": Amount(value=size.width_m, unit="length"),
                "d": Amount(value=size.depth_m, unit="length"),
            }
            self.notes.append(
                sentence(f"{item.name} is {{l}} long and does not fit in {{w}} × {{d}}: it was left out.", **amounts)
            )

    @property
    def dearer(self) -> tuple[Sentence, ...]:
        """What it costs beyond what may be spent, in the plan that comes nearest; nothing where one stays within."""
        if self.search is None or self.works or not self.search.tried:
            return ()
        money, limits = self.household.site.currency, self.search.limits
        best = self.search.settled_best("cheapest")
        what = "The cheapest plan that works" if self.search.working else "What comes nearest"
        found = []
        if best and limits.now is not None and best.figures.price > limits.now:
            amounts = _money(money, 0, p=best.figures.price, b=limits.now)
            found.append(sentence(f"{what} costs about {{p}}; {{b}} may be spent.", **amounts))
        if best and limits.month is not None and best.figures.cost_month > limits.month:
            amounts = _money(money, 2, p=best.figures.cost_month, b=limits.month)
            found.append(sentence(f"{what} draws {{p}} a month; {{b}} may be drawn.", **amounts))
        return tuple(found)

    @property
    def _changes(self) -> Changes:
        assert self.search is not None
        return Changes(
            request=self.request,
            number=self.number,
            wish=self.wish,
            crops=self.crops,
            household=self.household,
            search=self.search,
            outside=frozenset(margin.station for margin in self.unmet) | ({"climate"} if self._all_cool() else set()),
        )

    def _what_would(self) -> Iterator[bool]:
        """The smallest changes of the request that would meet it, each tried."""
        assert self.search is not None
        if self.search.working:
            best = self.search.settle(min(self.search.working, key=self._dearness))
            spent = self._spending(best.price, best.cost_month)
            amounts = _money(self.household.site.currency, 0, b=best.price)
            amounts |= _money(self.household.site.currency, 2, m=best.cost_month)
            words = [text for key, text in _SPENT.items() if key in spent]
            label = f"{' and '.join(words)}: the cheapest plan that works costs about so much"
            said = sentence(label[:1].upper() + label[1:], **amounts)
            self.would.append(Change(label=said, request=self.request.model_copy(update=spent)))
        yield from self._tried(self._changes.families())

    def _dearness(self, item: Tried) -> float:
        """How a plan does as the cheapest, money over the budget included."""
        assert self.search is not None
        return self.search.score("cheapest", item.figures)

    def _spending(self, price: float, month: float) -> dict[str, float]:
        """What has to be spent beyond what may be, in round money."""
        asked, found = self.request, dict[str, float]()
        if asked.budget is not None and price > asked.budget:
            found["budget"] = _up(price, 5)
        if asked.budget_month is not None and month > asked.budget_month:
            found["budget_month"] = _up(month, 0.5)
        return found

    def _tried(self, families: Iterable[Iterable[Change]]) -> Iterator[bool]:
        """Keep of each family the first change by which a plan works, with what the first one found costs."""
        assert self.search is not None
        for family in families:
            for change in family:
                other: list[Designer] = []
                yield from self._asking(change, other)
                if other and self._would_do(other[0], change):
                    break
            if len(self.would) >= _ENOUGH:
                return

    def _asking(self, change: Change, into: list[Designer]) -> Iterator[bool]:
        """Search for an answer of the request so changed, as long as is worth it."""
        lamps = self.search.choices.lamps if self.search and self.search.choices else ()
        classes = tuple(dict.fromkeys(item.class_id for item in lamps if not item.class_id.startswith(OWNED)))
        yield True
        try:
            household = _first_room(_household(self.household, change.request), change.room_id)
            other = Designer(change.request, household, self.number, _QUICK, helps=False, classes=classes)
            for _ in range(_LONGEST):
                if self._enough(other) or not other.go_on():
                    break
                yield True
        except PlanError:
            return
        into.append(other)

    def _enough(self, other: Designer) -> bool:
        """Whether it works: for the money there is, where that alone is lacking; for whatever it costs otherwise."""
        if self.search is not None and self.search.working:
            return other.works
        return other.search is not None and bool(other.search.working)

    def _would_do(self, other: Designer, change: Change) -> bool:
        search = other.search
        if search is None or not self._enough(other):
            return False
        best = min(search.working, key=lambda item: (not search.within(item), item.figures.price))
        spent = self._spending(best.figures.price, best.figures.cost_month)
        amounts = dict(change.label.amounts) | _money(self.household.site.currency, 0, costs=best.figures.price)
        label = Sentence(text=f"{change.label.text}: works from about {{costs}} on", amounts=tuple(amounts.items()))
        asked = change.request.model_copy(update=spent)
        self.would.append(Change(label=label, request=asked, room_id=change.room_id))
        return True

    def _all_cool(self) -> bool:
        """Whether every plan that works has an air conditioner."""
        working = self.search.working if self.search else ()
        return bool(working) and all(item.figures.cooled for item in working)


# So many changes that would do are enough; what is spent beyond what may be, in words.
_ENOUGH = 4
_SPENT = {"budget": "spend {b}", "budget_month": "let it draw {m} a month"}


def _money(unit: str, decimals: int, **values: float) -> dict[str, Amount]:
    return {key: Amount(value=value, unit=unit, decimals=decimals) for key, value in values.items()}


def _up(price: float, step: float) -> float:
    """A budget that is enough, in round money."""
    return float(step * -(-price // step))


def _household(household: Plan, request: Request) -> Plan:
    """The household with the room that a request says."""
    if request.room is None:
        return household
    rooms = tuple(request.room if room.id == request.room.id else room for room in household.rooms)
    return household.model_copy(update={"rooms": rooms})


def _first_room(household: Plan, room_id: str) -> Plan:
    """The household with a room first among its rooms."""
    rooms = sorted(household.rooms, key=lambda room: room.id != room_id)
    return household.model_copy(update={"rooms": tuple(rooms)})


def _known(known: Any, wishes: tuple[CropWish, ...]) -> tuple[Crop, ...]:
    found, missing = [], []
    for number, wish in enumerate(wishes):
        crop = known.get(wish.crop_id)
        if crop is None:
            missing.append(PlanProblem(path=f"crops.{number}", message=f"no crop is called “{wish.crop_id}”"))
        else:
            found.append(crop)
    if missing:
        raise PlanError(missing)
    return tuple(found)


def _checked(wish: SpaceWish, crops: tuple[Crop, ...]) -> None:
    """Refuse what no plan could answer, with the nearest that could be."""
    problems = []
    for name, words in (("width_m", "wide"), ("depth_m", "deep"), ("height_m", "high")):
        value = getattr(wish, name)
        if value is not None and value < _LEAST_SIDE_M:
            message = f"{100 * value:g} cm {words} holds no lamp over a plant: {100 * _LEAST_SIDE_M:g} cm is the least"
            problems.append(PlanProblem(path=name, message=message))
    said = [getattr(wish, name) is not None for name in ("width_m", "depth_m", "height_m")]
    if any(said) and not all(said):
        problems.append(PlanProblem(path="width_m", message="give width, depth and height, or none of them"))
    if not any(said) and wish.kind != "tent":
        problems.append(PlanProblem(path="width_m", message=f"how large is the {KIND_NAMES[wish.kind]}?"))
    shared = sharing_of(crops)
    if shared.apart:
        names = ", ".join(crop.name for crop in shared.apart)
        message = (
            f"these do not share one space: {' and '.join(shared.parted_by)} part them. "
            f"{counted(len(shared.together), 'crop')} of them can stand together; grow {names} elsewhere"
        )
        problems.append(PlanProblem(path="crops", message=message))
    if problems:
        raise PlanError(problems)


def answers_of(household: Plan, wish: SpaceWish, crops: tuple[Crop, ...]) -> Answers:
    """Write what is asked for as the answers that a space is begun with.

    Parameters
    ----------
    household : where it will stand
    wish : with its size
    crops : those of its crops, in the same order

    Returns
    -------
    Answers : with an id that is free in the household

    Raises
    ------
    PlanError : it has no size yet
    """
    if wish.width_m is None or wish.depth_m is None or wish.height_m is None:
        raise PlanError([PlanProblem(path="width_m", message="give width, depth and height")])
    first, *more = wish.crops
    kind = KIND_NAMES[wish.kind]
    name = wish.name or f"{crops[0].name.split(',')[0].split(' or ')[0]} {kind}"
    return Answers(
        space_id=fresh_id("space", (space.id for space in household.spaces)),
        name=name[:120],
        kind=wish.kind,
        width_m=wish.width_m,
        depth_m=wish.depth_m,
        height_m=wish.height_m,
        crop_id=first.crop_id,
        stage=first.stage,
        count=first.count,
        more=tuple((item.crop_id, item.count) for item in more),
        levels=wish.levels,
        circuit_id=_roomiest(household),
        room_id=household.rooms[0].id,
    )


def _roomiest(household: Plan) -> str | None:
    """The circuit that may carry most beside what hangs on it; the first of those that may carry alike."""
    tree = household_tree(household)
    spare = {item.id: _spare_w(circuit_load(household, item, tree)) for item in household.circuits}
    return max(spare, key=lambda key: spare[key], default=None)


def _spare_w(load: CircuitLoad) -> float:
    return load.limit_w - load.continuous_w


def designer_for(request: Request, today: dt.date, number: int = 0, most: int = TRIES) -> Designer:
    """Begin to answer a request in a household of its own.

    Parameters
    ----------
    request : what is asked for
    today : in place of a first day that was not said
    number : which of its spaces
    most : how many whole kits are tried with the true models

    Returns
    -------
    Designer : nothing tried yet

    Raises
    ------
    PlanError : no plan could answer it; says the nearest that could be
    """
    return Designer(request, household_for(request, today), number, most)
