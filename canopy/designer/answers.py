"""Three to five whole kits that differ in kind, why each is there, and the trade between money and what it buys."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from canopy.designer.outcome import Figures, Outcome
from canopy.designer.request import Liking
from canopy.designer.search import KINDS, MONTHS, Kind, Search, Tried
from canopy.margin import Amount, Sentence, sentence

MOST, LEAST = 5, 3
NAMES: dict[Kind, str] = {
    "cheapest": "Cheapest that works",
    "thriftiest": "Thriftiest over two years",
    "quietest": "Quietest",
    "even": "Most even light",
    "least-work": "Least to tend",
}
_LIKED: dict[str, Kind] = {"cheap": "cheapest", "quiet": "quietest", "hands-off": "least-work"}
# Differences from here on are worth a word: money [currency], noise [dB], evenness, work [h a month].
_MONEY, _MONTHLY, _DB, _EVEN, _WORK_H = 3.0, 0.2, 0.8, 0.03, 0.3


@dataclass(frozen=True, kw_only=True, eq=False)
class Alternative:
    """A whole kit: what it is best at (nothing for one that lies between), what it comes to, and why it is there."""

    tried: Tried
    outcome: Outcome
    kinds: tuple[Kind, ...]
    why: tuple[Sentence, ...]

    @property
    def key(self) -> str:
        """What it is asked for by."""
        return f"{self.tried.number}"

    @property
    def name(self) -> str:
        """What it is, in words."""
        if self.outcome.weight > 0:
            return "Comes nearest"
        if not self.kinds:
            return "In between"
        first, *rest = (NAMES[kind] for kind in self.kinds)
        return ", ".join((first, *(word[:1].lower() + word[1:] for word in rest)))


@dataclass(frozen=True, kw_only=True)
class Point:
    """One plan that was tried, for the picture of the trade: what it costs to buy and to run two years [currency], how
    even its light is, how loud it is [dB(A)], whether it works, and whether no other beats it in all of these.
    """

    key: str
    price: float
    years: float
    evenness: float
    noise_dba: float
    works: bool
    best: bool


def answers(search: Search, likes: Liking = "") -> tuple[Alternative, ...]:
    """Pick the answers of a search, as far as it has come.

    Parameters
    ----------
    search : begun, running or finished
    likes : what is liked best; the answer that is best at it comes first

    Returns
    -------
    tuple of Alternative : the cheapest first, each computed at the full setting; those that come nearest where none
        works; empty before anything was tried
    """
    winners: dict[int, list[Kind]] = {}
    for kind in KINDS:
        best = search.settled_best(kind)
        if best is not None:
            winners.setdefault(best.number, []).append(kind)
    known = {item.number: item for item in search.tried}
    picked = [known[number] for number in winners]
    picked += _between(search, picked)
    liked = _LIKED.get(likes)
    found = sorted(picked, key=lambda item: (liked not in winners.get(item.number, ()), search.settle(item).price))[
        :MOST
    ]
    outcomes = [search.settle(item) for item in found]
    return tuple(
        Alternative(
            tried=item,
            outcome=outcome,
            kinds=tuple(winners.get(item.number, ())),
            why=_why(outcome, outcomes, winners.get(item.number, [])),
        )
        for item, outcome in zip(found, outcomes, strict=True)
    )


def alone(search: Search, item: Tried) -> Alternative:
    """Give a plan that was tried beside the answers.

    Parameters
    ----------
    search : that tried it
    item : the plan

    Returns
    -------
    Alternative : against the cheapest
    """
    mine = search.settle(item)
    best = search.settled_best("cheapest")
    others = [search.settle(best)] if best is not None and best is not item else []
    return Alternative(tried=item, outcome=mine, kinds=(), why=_why(mine, [mine, *others], []))


def _figures(found: Outcome | Figures) -> tuple[float, ...]:
    """What plans are told apart by, the less the better."""
    noise = found.noise_dba or 0.0
    return (found.price, found.price + MONTHS * found.cost_month, noise, -found.evenness, found.tending_h_month)


def _between(search: Search, picked: Sequence[Tried]) -> list[Tried]:
    """Where fewer than three differ: others that nothing beats, those that are least like the ones that are there."""
    found: list[Tried] = []
    able = [item for item in search.working if all(item is not other for other in picked)]
    if not able or not picked:
        return found
    rows = {item.number: _figures(item.figures) for item in (*able, *picked)}
    spans = [max(max(column) - min(column), 1e-9) for column in zip(*rows.values(), strict=True)]

    def apart(item: Tried) -> float:
        chosen = [*picked, *found]
        gaps = [
            sum(abs(a - b) / span for a, b, span in zip(rows[item.number], rows[other.number], spans, strict=True))
            for other in chosen
        ]
        return float(min(gaps))

    front = [item for item in able if not _beaten(rows[item.number], rows.values())]
    while len(picked) + len(found) < LEAST:
        # Those that nothing beats first; of the rest, what is most unlike.
        left = [item for item in front if item not in found] or [item for item in able if item not in found]
        best = max(left, key=lambda item: (apart(item), -item.number), default=None)
        if best is None or apart(best) < 1e-6 or search.settle(best).weight > 1e-9:
            break
        found.append(best)
    return found


def _beaten(row: Sequence[float], others: Iterable[Sequence[float]]) -> bool:
    return any(
        all(b <= a + 1e-9 for a, b in zip(row, other, strict=True))
        and any(b < a - 1e-9 for a, b in zip(row, other, strict=True))
        for other in others
    )


def points(search: Search) -> tuple[Point, ...]:
    """Give every plan that was tried, for the picture of the trade.

    Parameters
    ----------
    search : begun, running or finished

    Returns
    -------
    tuple of Point : in the order in which they were tried
    """
    working = [item for item in search.tried if item.works]
    front = {item.number: (round(item.figures.price), -round(item.figures.evenness, 2)) for item in working}
    return tuple(
        Point(
            key=f"{item.number}",
            price=item.figures.price,
            years=item.figures.price + MONTHS * item.figures.cost_month,
            evenness=item.figures.evenness,
            noise_dba=item.figures.noise_dba or 0.0,
            works=item.works,
            best=item.works and not _beaten(front[item.number], front.values()),
        )
        for item in search.tried
    )


def _why(mine: Outcome, all_of: Sequence[Outcome], kinds: Sequence[Kind]) -> tuple[Sentence, ...]:
    """Why it is there: what it has before the cheapest, and what it pays for that."""
    others = [item for item in all_of if item is not mine]
    if not others:
        return (sentence("The only one that was found."),)
    if not _beaten_by_any(mine, others) and all(_beats(mine, other) for other in others):
        return (sentence("It beats the others in everything that was compared."),)
    cheapest = min(all_of, key=lambda item: item.price)
    base = cheapest if mine is not cheapest else min(others, key=lambda item: item.price)
    words = list(_gains(mine, base)), list(_losses(mine, base))
    against = "the cheapest" if mine is not cheapest else "the next"
    found = []
    if words[0]:
        found.append(_joined(f"Against {against}: ", words[0]))
    if words[1]:
        found.append(_joined("For that: ", words[1]))
    if not found:
        found.append(sentence("It comes to the same as the cheapest with other things."))
    return tuple(found)


def _beats(one: Outcome, other: Outcome) -> bool:
    return _beaten(_figures(other), [_figures(one)])


def _beaten_by_any(one: Outcome, others: Sequence[Outcome]) -> bool:
    return any(_beats(other, one) for other in others)


Said = tuple[str, dict[str, Amount]]


def _gains(mine: Outcome, base: Outcome) -> Iterable[Said]:
    yield from _compared(mine, base, 1.0)


def _losses(mine: Outcome, base: Outcome) -> Iterable[Said]:
    yield from _compared(mine, base, -1.0)


_WORDS: dict[str, tuple[str, str]] = {
    "buy": ("{buy} less to buy", "{buy} more to buy"),
    "month": ("{month} less a month", "{month} more a month"),
    "noise": ("{noise} quieter", "{noise} louder"),
    "even": ("light more even by {even}", "light less even by {even}"),
    "work": ("{work} less work a month", "{work} more work a month"),
}


def _compared(mine: Outcome, base: Outcome, sign: float) -> Iterable[Said]:
    """What is better (sign 1) or worse (-1) by more than is worth a word."""
    money = mine.report.plan.site.currency
    rows = {
        "buy": (base.price - mine.price, _MONEY, money, 0),
        "month": (base.cost_month - mine.cost_month, _MONTHLY, money, 2),
        "noise": ((base.noise_dba or 0.0) - (mine.noise_dba or 0.0), _DB, "dB", 0),
        "even": (mine.evenness - base.evenness, _EVEN, "", 2),
        "work": (base.tending_h_month - mine.tending_h_month, _WORK_H, "h", 1),
    }
    for name, (gain, least, unit, decimals) in rows.items():
        if sign * gain >= least:
            words = _WORDS[name][0 if sign > 0 else 1]
            yield words, {name: Amount(value=abs(gain), unit=unit, decimals=decimals)}


def _joined(begin: str, rows: Sequence[Said]) -> Sentence:
    amounts: dict[str, Amount] = {}
    for _, row in rows:
        amounts |= row
    return sentence(begin + ", ".join(words for words, _ in rows) + ".", **amounts)
