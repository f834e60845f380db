"""Mend everything: the smallest set of changes that brings a plan's margins inside, what costs nothing first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import chain

from canopy.design.change import Remedy
from canopy.design.grouped import best_for
from canopy.design.preview import Moved, moved_between
from canopy.design.remedies import options_for
from canopy.designer.outcome import Outcome, of_report, outcome_of
from canopy.designer.stepwise import Stepwise
from canopy.errors import CanopyError
from canopy.evaluate.grouping import grouped
from canopy.evaluate.space import SpaceReport
from canopy.library import Window
from canopy.light.scene import DEFAULT, PREVIEW, Quality
from canopy.margin import Margin, Sentence
from canopy.plan.changes import Act, Add, Remove
from canopy.plan.document import Plan
from canopy.plan.edit import apply

# A step has to make the whole better by so much (a margin outside counts 1 to 2), and there are at most so many.
_WORTH, MOST_STEPS = 0.2, 14
# So many changes are looked at for a second that answers what they break.
_CHAINED = 6
# What costs less than this is not bought [currency].
_FREE = 0.5


@dataclass(frozen=True, kw_only=True, eq=False)
class MendStep:
    """One change of the set, on the plan as the steps before it leave it.

    ``mends`` are margins that it brings inside, ``worse`` what gets worse by it; ``purchase`` is what it adds to what
    is bought, ``cost_month`` to what is drawn in a month [currency]. ``alone`` says whether it helps when it is taken
    without those before it.
    """

    key: str
    remedy: Remedy
    mends: tuple[Margin, ...]
    moved: tuple[Moved, ...]
    purchase: Window
    cost_month: float
    gain: float
    alone: bool = True

    @property
    def label(self) -> Sentence:
        """What it is."""
        return self.remedy.label

    @property
    def worse(self) -> tuple[Moved, ...]:
        """What gets worse by it."""
        return tuple(item for item in self.moved if item.worse)

    @property
    def buys(self) -> bool:
        """Whether something has to be bought for it."""
        return self.purchase.high > _FREE

    @property
    def worth(self) -> float:
        """What it mends per unit of money; endless where it costs nothing [1/currency]."""
        price = (self.purchase.low + self.purchase.high) / 2
        return self.gain / price if self.buys and price > 0 else float("inf")


@dataclass(frozen=True, kw_only=True, eq=False)
class Mending:
    """The steps, what they make of the plan, and what remains outside."""

    before: Outcome
    after: Outcome
    steps: tuple[MendStep, ...]

    @property
    def changes(self) -> tuple[Act, ...]:
        """All of them, in order."""
        return tuple(act for step in self.steps for act in step.remedy.changes)

    @property
    def mended(self) -> tuple[Margin, ...]:
        """Margins that were outside and no longer are."""
        left = {margin.id for margin in self.after.bad}
        return tuple(margin for margin in self.before.bad if margin.id not in left)

    @property
    def remains(self) -> tuple[Margin, ...]:
        """What is still outside."""
        return self.after.bad


@dataclass(frozen=True, kw_only=True, eq=False)
class _Candidate:
    key: str
    remedy: Remedy


@dataclass(eq=False)
class Mender(Stepwise):
    """Looks for the set, one try at a time, so that it can tell how far it has come and be stopped.

    Free steps come before bought ones whatever they mend; among what is bought, what mends most per unit of money.
    Plants are given up only where nothing else helps.
    """

    report: SpaceReport
    seasons: bool = False
    before: Outcome = field(init=False)
    now: Outcome = field(init=False)
    steps: list[MendStep] = field(default_factory=list)
    tries: int = 0

    def __post_init__(self) -> None:
        self.before = self.now = of_report(self.report, seasons=self.seasons)
        self._pool: dict[str, _Candidate] = {}

    def run(self) -> Mending:
        """Try everything there is to try.

        Returns
        -------
        Mending : the set
        """
        self.to_the_end()
        return self.found

    @property
    def found(self) -> Mending:
        """What has been found so far."""
        return Mending(before=self.before, after=self.now, steps=tuple(self.steps))

    def _tries(self) -> Iterator[bool]:
        while self.now.bad and len(self.steps) < MOST_STEPS:
            best: tuple[MendStep, Outcome] | None = None
            last: list[_Candidate] = []
            for candidate in self._candidates():
                if _takes_out(candidate.remedy):
                    last.append(candidate)
                    continue
                self.tries += 1
                yield True
                made = self._tried(candidate)
                if made is None:
                    continue
                if not made[0].buys and not made[0].worse and len(made[0].mends) > 0:
                    best = made
                    break
                if best is None or _rank(made[0]) > _rank(best[0]):
                    best = made
            # Nothing helps by itself: what mends something and breaks another, with what mends that; then fewer plants.
            for candidate in () if best else chain(self._chained(), last):
                self.tries += 1
                yield True
                best = self._tried(candidate)
                if best is not None:
                    break
            if best is None:
                break
            self.steps.append(best[0])
            # A device that was added is not added once more for what it did not do: it is looked at anew.
            self._pool = {key: item for key, item in self._pool.items() if not _adds_device(item.remedy)}
            # What was tried roughly is taken as the page will show it.
            self.now = self._after(self.now.report.plan, best[0].remedy.changes, DEFAULT) or best[1]
        yield from self._thinned()
        yield from self._singly()

    def _candidates(self) -> Iterator[_Candidate]:
        """What is known already from earlier states, then what mends most of a group, then each margin's own ways."""
        yield from list(self._pool.values())
        report = self.now.report
        for group in grouped(self.now.bad):
            found: list[tuple[str, Remedy]] = []
            if len(group.margins) > 1:
                found += [(f"{group.key}/{item.key}", item.remedy) for item in best_for(report, group)[:3]]
            for margin in group.margins[:3]:
                found += [(f"{margin.id}/{item.key}", item.remedy) for item in options_for(report, margin.id)]
            for key, remedy in found:
                known = self._pool.get(key)
                if known is None or known.remedy.changes != remedy.changes:
                    self._pool[key] = _Candidate(key=key, remedy=remedy)
                    yield self._pool[key]

    def _chained(self) -> Iterator[_Candidate]:
        """Two changes as one: the second answers what the first puts outside."""
        known = {margin.id for margin in self.now.bad}
        whole = [item for item in self._pool.values() if not _takes_out(item.remedy)]
        for candidate in whole[:_CHAINED]:
            after = self._after(self.now.report.plan, candidate.remedy.changes)
            left = {margin.id for margin in after.bad} if after is not None else known
            fresh = [margin for margin in after.bad if margin.id not in known] if after is not None else []
            if after is None or not fresh or known <= left:
                continue
            for option in options_for(after.report, fresh[0].id)[:2]:
                first, second = candidate.remedy, option.remedy
                yield _Candidate(
                    key=f"{candidate.key}+{fresh[0].id}/{option.key}",
                    remedy=Remedy(label=_then(first.label, second.label), changes=(*first.changes, *second.changes)),
                )

    def _tried(self, candidate: _Candidate) -> tuple[MendStep, Outcome] | None:
        """A step on the plan as it is by now; None where it does not make the whole better."""
        after = self._after(self.now.report.plan, candidate.remedy.changes)
        if after is None:
            return None
        gain = self.now.weight - after.weight
        if gain < _WORTH or _harms(self.now, after):
            return None
        return _step(candidate, self.now, after, gain), after

    def _after(self, plan: Plan, changes: tuple[Act, ...], quality: Quality = PREVIEW) -> Outcome | None:
        space_id, day = self.report.space.id, self.report.here.day
        try:
            return outcome_of(apply(plan, space_id, changes), space_id, day, quality=quality, seasons=self.seasons)
        except CanopyError:
            return None

    def _thinned(self) -> Iterator[bool]:
        """Leave out what later steps made needless: the last first, for those are told by what they still mend."""
        for number in range(len(self.steps) - 2, -1, -1):
            yield True
            rest = [step for k, step in enumerate(self.steps) if k != number]
            acts = tuple(act for step in rest for act in step.remedy.changes)
            after = self._after(self.report.plan, acts, DEFAULT)
            if after is not None and after.weight <= self.now.weight + 1e-6:
                self.steps, self.now = rest, after

    def _singly(self) -> Iterator[bool]:
        """Say of each step whether it helps without those before it."""
        for number, step in enumerate(self.steps):
            if number == 0:
                continue
            yield True
            after = self._after(self.report.plan, step.remedy.changes)
            helps = after is not None and self.before.weight - after.weight >= _WORTH and not _harms(self.before, after)
            self.steps[number] = replace(step, alone=helps)


def _adds_device(remedy: Remedy) -> bool:
    return any(isinstance(act, Add) and act.collection == "devices" for act in remedy.changes)


def _takes_out(remedy: Remedy) -> bool:
    """Whether plants are given up for it: it costs nothing, and is the last that a grower wants."""
    return any(isinstance(act, Remove) and act.collection == "plants" for act in remedy.changes)


def _then(one: Sentence, two: Sentence) -> Sentence:
    """Two changes in one sentence; amounts of one name are kept apart."""
    renamed = {name: f"{name}_then" for name, _ in two.amounts}
    text = two.text
    for name, fresh in renamed.items():
        text = text.replace(f"{{{name}}}", f"{{{fresh}}}")
    amounts = tuple((renamed[name], amount) for name, amount in two.amounts)
    return Sentence(text=f"{one.text}; then {text[:1].lower()}{text[1:]}", amounts=(*one.amounts, *amounts))


def _step(candidate: _Candidate, before: Outcome, after: Outcome, gain: float) -> MendStep:
    left = {margin.id for margin in after.bad}
    one, two = before.purchase, after.purchase
    return MendStep(
        key=candidate.key,
        remedy=candidate.remedy,
        mends=tuple(margin for margin in before.bad if margin.id not in left),
        moved=moved_between(before.report, after.report),
        purchase=Window(low=max(0.0, two.low - one.low), high=max(0.0, two.high - one.high)),
        cost_month=after.cost_month - before.cost_month,
        gain=gain,
    )


def _rank(step: MendStep) -> tuple[bool, float, float]:
    """What costs nothing first; then what mends most for its money, or most of all."""
    return not step.buys, step.worth if step.buys else 0.0, step.gain


def _harms(before: Outcome, after: Outcome) -> bool:
    """Whether something comes up by which somebody could come to harm."""
    known = {margin.id for margin in before.report.margins if margin.danger}
    return any(margin.danger and margin.id not in known for margin in after.report.margins)
