"""The search for a whole kit: a coarse screen, then the true models, anytime and the same for the same seed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

from canopy.design.light.hanging import hours_wanted
from canopy.designer.choice import Choice, Choices
from canopy.designer.lamps import LIFTS, LampSet, Screen, lamp_kinds, worth_trying
from canopy.designer.making import Maker, vents_for
from canopy.designer.mending import Mender
from canopy.designer.outcome import Figures, Outcome, figures_of, outcome_of
from canopy.designer.stepwise import Stepwise
from canopy.evaluate.air.breathing import breathing
from canopy.evaluate.air.excess import usual_flow_m3_h
from canopy.evaluate.light.lighting import lighting
from canopy.light.scene import DEFAULT, PREVIEW, Quality
from canopy.plan.document import Space
from canopy.power.load import MONTH_DAYS
from canopy.season import usual_container

if TYPE_CHECKING:
    import optuna

Kind = Literal["cheapest", "thriftiest", "quietest", "even", "least-work"]
KINDS: tuple[Kind, ...] = ("cheapest", "thriftiest", "quietest", "even", "least-work")
# Over how many months what is drawn counts beside what is bought.
MONTHS = 24
# What a margin outside counts against any figure that is wished for; outside on the year's coldest or hottest day
# alone, which passes; and each unit of money over the budget [currency].
_OUTSIDE, _EXTREME, _OVER = 1e4, 120.0, 10.0
# So much quieter, evener or less work is worth a unit of money in the kinds that ask for it: 1 dB, a hundredth of
# evenness, an hour a month.
_PER_DB, _PER_EVEN, _PER_HOUR = 40.0, 30.0, 120.0
_TIE = 0.003
# How many times the usual exchange a fan moves.
_FLOWS = (1.0, 1.3, 1.7)
# Silence, for what is not heard at all [dB(A)].
_SILENT_DBA = 15.0
# How many choices are tried with the true models, where nobody says otherwise; and how many at random first.
TRIES, _BEGIN = 45, 6
# So many of a kind are looked at at the full setting, until one holds.
_LOOKED_AT = 4
# So many reports are kept of plans at the full setting.
_SETTLED = 12
# What is tried first once so many sets of lamps have been found that serve; with so many ways of airing.
_ENOUGH, _FIRST_VENTS = 1, 4


@dataclass(frozen=True, kw_only=True, eq=False)
class Tried:
    """A plan that was tried: the choice it came of, its space, and what it comes to; ``mended`` where changes were
    made to it. Its report is not kept: some hundred of them are a hundred megabytes.
    """

    number: int
    choice: Choice
    space: Space
    figures: Figures
    mended: bool = False

    @property
    def works(self) -> bool:
        """Whether all its margins are inside on the day looked at."""
        return self.figures.weight < 1e-9


@dataclass(frozen=True, kw_only=True)
class Limits:
    """What may be spent now and in a month; None for no limit [currency]."""

    now: float | None = None
    month: float | None = None


@dataclass(eq=False)
class Search(Stepwise):
    """Looks for whole kits of one space. Each call of ``go_on`` tries one thing, so that it tells how far it has come,
    can be stopped at any time, and gives what it has.

    First lamps are screened coarsely; the cheapest that serve are made a whole plan at once and mended, so that there
    is an answer early. Then one sampler for each kind of answer proposes choices (tree-structured Parzen estimators,
    seeded), and every plan that is computed teaches all of them; a proposal whose price alone is above what its kind
    has found is not computed.
    """

    maker: Maker
    limits: Limits = field(default_factory=Limits)
    seed: int = 1
    most: int = TRIES
    classes: tuple[str, ...] = ()
    lifts: tuple[float, ...] = LIFTS
    choices: Choices | None = None
    tried: list[Tried] = field(default_factory=list)
    looked: int = 0
    bounded: int = 0
    stage: str = "looking for lamps"

    def __post_init__(self) -> None:
        self._known: dict[str, Tried | None] = {}
        self._settled: dict[int, Outcome] = {}

    def run(self) -> list[Tried]:
        """Try everything.

        Returns
        -------
        list of Tried : in the order in which they were tried
        """
        self.to_the_end()
        return self.tried

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1: a third of it is the screen."""
        if self.finished:
            return 1.0
        if self.choices is None:
            return min(0.33, self.looked / 150 * 0.33)
        most = min(self.most, len(self.choices))
        return 0.33 + 0.66 * min(1.0, (len(self._known) + self.bounded) / max(most, 1))

    def score(self, kind: Kind, found: Outcome | Figures) -> float:
        """Say how well a plan does as one of the kinds of answers.

        Parameters
        ----------
        kind : which
        found : what the plan comes to

        Returns
        -------
        float : the lower the better [currency]; margins outside and money over the budget count far more
        """
        over = max(0.0, found.price - self.limits.now) if self.limits.now is not None else 0.0
        if self.limits.month is not None:
            over += MONTHS * max(0.0, found.cost_month - self.limits.month)
        years = found.price + MONTHS * found.cost_month
        wished: Mapping[Kind, float] = {
            # Of what costs the same, what is better otherwise.
            "cheapest": found.price + _TIE * (years + _PER_DB * (found.noise_dba or 0.0)),
            "thriftiest": years,
            "quietest": _PER_DB * (found.noise_dba or _SILENT_DBA) + 0.3 * years,
            "even": _PER_EVEN * 100 * (1 - found.evenness) + 0.3 * years,
            "least-work": _PER_HOUR * found.tending_h_month + 0.3 * years,
        }
        return _OUTSIDE * found.weight + _EXTREME * found.extreme_weight + _OVER * over + wished[kind]

    def best(self, kind: Kind) -> Tried | None:
        """Give the best of a kind so far.

        Parameters
        ----------
        kind : which

        Returns
        -------
        Tried : None before anything was tried
        """
        return min(self.tried, key=lambda item: (self.score(kind, item.figures), item.number), default=None)

    def within(self, item: Tried) -> bool:
        """Say whether a plan stays within what may be spent.

        Parameters
        ----------
        item : one that was tried

        Returns
        -------
        bool : by the middle of the prices
        """
        found, limits = item.figures, self.limits
        return (limits.now is None or found.price <= limits.now) and (
            limits.month is None or found.cost_month <= limits.month
        )

    def settle(self, item: Tried) -> Outcome:
        """Compute a plan that was tried as its page will show it.

        Parameters
        ----------
        item : one that was tried

        Returns
        -------
        Outcome : at the full setting; kept for the next time it is asked for
        """
        if item.number not in self._settled:
            while len(self._settled) >= _SETTLED:
                del self._settled[next(iter(self._settled))]
            self._settled[item.number] = self._outcome(item, DEFAULT)
        return self._settled[item.number]

    def _outcome(self, item: Tried, quality: Quality) -> Outcome:
        plan = self.maker.plan_of(item.space)
        return outcome_of(plan, item.space.id, self.maker.day, quality=quality, seasons=True)

    def settled_best(self, kind: Kind) -> Tried | None:
        """Give the best of a kind that holds at the full setting, too.

        Parameters
        ----------
        kind : which

        Returns
        -------
        Tried : of those that come next, where the best rests on the rougher look; None before anything was tried
        """
        rows = sorted(self.tried, key=lambda item: (self.score(kind, item.figures), item.number))[:_LOOKED_AT]
        return min(rows, key=lambda item: self._settled_score(kind, item, rows), default=None)

    def _settled_score(self, kind: Kind, item: Tried, rows: list[Tried]) -> tuple[float, int]:
        first = rows[0]
        if item is not first and self.settle(first).weight < 1e-9:
            # The best holds: nobody asks for the next.
            return float("inf"), item.number
        return self.score(kind, self.settle(item)), item.number

    @property
    def working(self) -> tuple[Tried, ...]:
        """All that work."""
        return tuple(item for item in self.tried if item.works)

    # ---- the work, one thing at a time

    def _tries(self) -> Iterator[bool]:
        if self.choices is None:
            yield from self._screened()
        if self.choices is None or not len(self.choices):
            return
        self.stage = "trying whole kits"
        yield from self._sampled(self.choices)
        self.stage = "mending what is nearly there"
        for kind in KINDS:
            best = self.best(kind)
            if best is not None and not best.works and not best.mended:
                yield from self._mended(best)

    def _screened(self) -> Iterator[bool]:
        """Screen the lamps; as soon as some serve, make the first whole answer of them."""
        level, rate = self.maker.level, self.maker.household.site.price_rate or 1.0
        levels = max(1, self.maker.answers.levels)
        kinds = lamp_kinds(level, rate, self.maker.household.stock, self.classes, levels)
        watt = MONTHS * MONTH_DAYS * _hours(self.maker) / 1000 * self.maker.household.tariff.mean_price
        screen = Screen(level, kinds, watt * levels, self.lifts)
        first = False
        for _ in screen.steps():
            self.looked = screen.looked
            yield True
            serving = [item for item in screen.found if item.serves]
            if not first and len(serving) >= _ENOUGH:
                first = True
                yield from self._first(serving)
        lamps = worth_trying(screen.found)
        if not lamps:
            self.choices = Choices(lamps=(), vents=())
            return
        self.choices = self._choices(lamps)
        if not first:
            yield from self._first(list(lamps))

    def _choices(self, lamps: tuple[LampSet, ...]) -> Choices:
        vents = vents_for(self.maker.bare, self._usual_m3_h(lamps[0]), self.maker.refuses)
        potted = not any(plant.cells for plant in self.maker.bare.plants) and not self._in_trays
        fans = any(vent.fan for vent in vents)
        year = seasons_of_room(self.maker)
        return Choices(
            lamps=lamps,
            vents=vents,
            flows=_FLOWS if fans else _FLOWS[:1],
            controls=(False, True) if fans else (False,),
            equips=("today", "year", "larger") if year else ("today", "larger"),
            waters=("hand", "drip") if potted else ("hand",),
        )

    @property
    def _in_trays(self) -> bool:
        """Whether something stands in trays, where drippers reach nothing."""
        held = (usual_container(plant.crop) for plant in self.maker.level.plants)
        return any(item is not None and item.kind == "tray" for item in held)

    def _usual_m3_h(self, lamps: LampSet) -> float:
        lit = self.maker.level.moved(self.maker.level.space.model_copy(update={"fixtures": lamps.lamps}))
        plan = self.maker.plan_of(lit.space)
        levels = max(1, self.maker.answers.levels)
        return levels * usual_flow_m3_h(breathing(plan, lit, lighting(lit, PREVIEW, with_map=False)))

    def _first(self, serving: list[LampSet]) -> Iterator[bool]:
        """The cheapest lamps with the smallest fan that does it, mended where that is not enough."""
        best = min(serving, key=lambda item: (item.miss + item.later, item.price, item.power_w))
        choices = self._choices((best,))
        tried: list[Tried] = []
        too_much = False
        for vent, aired in enumerate(choices.vents):
            if too_much and aired.fan is not None:
                # The fans that follow move more still.
                continue
            picked = {"lamps": 0, "vent": vent, "flow": 0, "control": 0, "equip": 0, "water": 0}
            made = self._try(choices.at(picked))
            yield True
            tried += [made] if made is not None else []
            too_much = too_much or (made is not None and made.figures.flow_over)
            if made is not None and (made.works or len(tried) >= _FIRST_VENTS):
                break
        if tried and not any(item.works for item in tried):
            yield from self._mended(min(tried, key=lambda item: (item.figures.weight, item.number)))

    def _try(self, choice: Choice) -> Tried | None:
        if choice.key not in self._known:
            outcome = self.maker.made(choice)
            found = None
            if outcome is not None:
                found = self._keep(choice, outcome)
            self._known[choice.key] = found
        return self._known[choice.key]

    def _keep(self, choice: Choice, outcome: Outcome, *, mended: bool = False) -> Tried:
        found = Tried(
            number=len(self.tried),
            choice=choice,
            space=outcome.report.space,
            figures=figures_of(outcome),
            mended=mended,
        )
        self.tried.append(found)
        return found

    def _mended(self, item: Tried) -> Iterator[bool]:
        """Bring what is outside inside with the changes that a plan that stands would be mended by."""
        mender = Mender(self._outcome(item, PREVIEW).report, seasons=True)
        while mender.go_on():
            yield True
        if mender.steps:
            self._keep(item.choice, mender.now, mended=True)
        yield True

    def _sampled(self, choices: Choices) -> Iterator[bool]:
        if len(choices) <= self.most:
            # So few that all of them are tried.
            for picked in choices.all():
                self._try(choices.at(picked))
                yield True
            return
        studies = {kind: _study(self.seed + number) for number, kind in enumerate(KINDS)}
        begin = list(_one_by_one(choices))
        for tries in range(self.most):
            kind = KINDS[tries % len(KINDS)]
            trial = None
            if tries < len(begin):
                picked = begin[tries]
            else:
                trial = studies[kind].ask(_distributions(choices))
                picked = dict(trial.params)
            choice = choices.at(picked)
            if trial is not None and self._hopeless(kind, choice):
                self.bounded += 1
                studies[kind].tell(trial, self._bound(kind, choice))
                yield True
                continue
            found = self._try(choice)
            yield True
            for other, study in studies.items():
                value = self.score(other, found.figures) if found else 10 * _OUTSIDE
                if other == kind and trial is not None:
                    study.tell(trial, value)
                else:
                    study.add_trial(_told(picked, choices, value))
            if found is not None and not found.works and found is self.best(kind) and not self._mended_like(found):
                yield from self._mended(found)
        self.stage = "trying what lies next to the best"
        yield from self._polished(choices)

    def _polished(self, choices: Choices) -> Iterator[bool]:
        """From the best of each kind, change one part at a time as long as that helps."""
        left = self.most
        for kind in KINDS:
            better = True
            while better and left > 0:
                better = False
                best = self.best(kind)
                if best is None or best.mended or not best.works:
                    break
                for picked in choices.around(self._picked(choices, best.choice)):
                    choice = choices.at(picked)
                    if choice.key in self._known or self._hopeless(kind, choice):
                        continue
                    left -= 1
                    self._try(choice)
                    yield True
                    if self.best(kind) is not best:
                        better = True
                        break
                    if left <= 0:
                        break

    @staticmethod
    def _picked(choices: Choices, choice: Choice) -> dict[str, int]:
        return {
            "lamps": choices.lamps.index(choice.lamps) if choice.lamps in choices.lamps else 0,
            "vent": choices.vents.index(choice.vent),
            "flow": choices.flows.index(choice.flow),
            "control": choices.controls.index(choice.control),
            "equip": choices.equips.index(choice.equip),
            "water": choices.waters.index(choice.water),
        }

    def _hopeless(self, kind: Kind, choice: Choice) -> bool:
        """Whether what it costs at the least is more than what the best of its kind scores."""
        best = self.best(kind)
        if choice.key in self._known or best is None:
            return False
        return self._bound(kind, choice) > self.score(kind, best.figures)

    def _mended_like(self, item: Tried) -> bool:
        """Whether one with the same lamps and vent was mended already: mending it would find the same."""
        return any(
            other.mended and other.choice.lamps is item.choice.lamps and other.choice.vent == item.choice.vent
            for other in self.tried
        )

    def _bound(self, kind: Kind, choice: Choice) -> float:
        """What it costs at the least as one of a kind: its lamps and what they draw."""
        price = choice.lamps.price
        if kind == "cheapest":
            return price
        levels = max(1, self.maker.answers.levels)
        watts = choice.lamps.power_w * levels * 0.97
        month = watts * _hours(self.maker) / 1000 * MONTH_DAYS * self.maker.household.tariff.mean_price
        return price + MONTHS * month if kind == "thriftiest" else 0.3 * (price + MONTHS * month)


def seasons_of_room(maker: Maker) -> bool:
    """Say whether anything is known of the coldest or hottest day of a space's room.

    Parameters
    ----------
    maker : of the space

    Returns
    -------
    bool : by the room, or by the climate outdoors that it follows
    """
    around = maker.level.around
    return around.hourly is not None or around.room.coldest is not None or around.room.hottest is not None


def _one_by_one(choices: Choices) -> Iterator[dict[str, int]]:
    """What teaches most at first: each part in turn, the rest as it is cheapest."""
    usual = dict.fromkeys(choices.rows, 0)
    yield usual
    for name in ("vent", "water", "control", "equip", "lamps", "flow"):
        for number in range(1, choices.rows[name]):
            yield {**usual, name: number}


def _hours(maker: Maker) -> float:
    return hours_wanted(maker.level)


def _study(seed: int) -> optuna.Study:
    import optuna

    optuna.logging.set_verbosity(optuna.logging.ERROR)
    sampler = optuna.samplers.TPESampler(seed=seed, n_startup_trials=_BEGIN, multivariate=True)
    return optuna.create_study(sampler=sampler)


def _distributions(choices: Choices) -> dict[str, optuna.distributions.BaseDistribution]:
    import optuna

    return {name: optuna.distributions.IntDistribution(0, count - 1) for name, count in choices.rows.items()}


def _told(params: Mapping[str, int], choices: Choices, value: float) -> optuna.trial.FrozenTrial:
    import optuna

    return optuna.trial.create_trial(params=dict(params), distributions=_distributions(choices), value=value)
