"""The margin: the unit of judgement everywhere, with its words and its working."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from canopy.quantities import KINDS, Reader, magnitude, number, reader_of, show, significant, spoken
from canopy.quantities.reader import LIGHT_DOUBT, PPF, PPFD

Verdict = Literal["short", "tight", "good", "over", "unknown"]
Station = Literal["space", "crops", "light", "air", "climate", "power", "day"]
# Worst first: what is short hurts first, then what is too much, then what is close.
ORDER: tuple[Verdict, ...] = ("short", "over", "tight", "unknown", "good")


@dataclass(frozen=True, kw_only=True)
class Amount:
    """A number with its unit: a kind of ``canopy.quantities`` where people's unit systems differ, else a symbol."""

    value: float
    unit: str
    high: float | None = None
    decimals: int | None = None

    def text(self, reader: str | Reader = "metric") -> str:
        """Write the amount.

        Parameters
        ----------
        reader : "metric", "us", or how a person reads figures, light among them

        Returns
        -------
        str : such as "46 cm", "12–17 mol/m²/d" or "1510 fc"
        """
        who = reader_of(reader)
        kind = KINDS.get(self.unit)
        if kind:
            if self.high is None:
                return show(self.value, kind, who.system)
            return f"{magnitude(self.value, kind, who.system)}–{show(self.high, kind, who.system)}"
        if self.unit == LIGHT_DOUBT:
            return who.light.doubt_text
        if self.unit == PPF and not who.light.is_photons:
            return who.light.output(self.value)
        body = self._plain(self.value, who)
        if self.high is not None:
            body += f"–{self._plain(self.high, who)}"
        unit = who.light.symbol if self.unit == PPFD else self.unit
        if unit in ("%", "") or not unit:
            return body + ("\u00a0%" if unit == "%" else "")
        return f"{body}\u00a0{unit}"

    def worked(self, reader: str | Reader = "metric") -> str:
        """Write the amount as a working needs it: light that is read in another unit beside its photons.

        Parameters
        ----------
        reader : "metric", "us", or how a person reads figures

        Returns
        -------
        str : such as "1510 fc = 243 µmol/m²/s"
        """
        who = reader_of(reader)
        mine, photons = self.text(who), self.text(who.system)
        return mine if mine == photons or self.unit == LIGHT_DOUBT else f"{mine} = {photons}"

    def _plain(self, value: float, who: Reader) -> str:
        if self.unit == PPFD:
            return who.light.number(value, self.decimals)
        return significant(value) if self.decimals is None else number(value, self.decimals)


@dataclass(frozen=True, kw_only=True)
class Sentence:
    """Words with amounts in braces, written out in a person's own units only at the edge."""

    text: str
    amounts: tuple[tuple[str, Amount], ...] = ()

    def say(self, reader: str | Reader = "metric") -> str:
        """Write the sentence out.

        Parameters
        ----------
        reader : "metric", "us", or how a person reads figures

        Returns
        -------
        str : the sentence
        """
        known = dict(self.amounts)
        text = spoken(self.text, reader_of(reader).system)

        def written(found: re.Match[str]) -> str:
            # Braces in a name that a person typed are no amount.
            return known[found[1]].text(reader) if found[1] in known else found[0]

        return re.sub(r"\{(\w+)\}", written, text)


def sentence(text: str, **amounts: Amount) -> Sentence:
    """Make a sentence.

    Parameters
    ----------
    text : the words, with {names} where amounts go
    amounts : the amounts by name

    Returns
    -------
    Sentence : ready to be said
    """
    return Sentence(text=text, amounts=tuple(amounts.items()))


@dataclass(frozen=True, kw_only=True)
class Step:
    """One line of a working: a symbol, what it means, and its amount; ``aside`` is an amount that belongs to the
    meaning.
    """

    symbol: str
    meaning: str
    amount: Amount
    aside: Amount | None = None

    def means(self, reader: str | Reader = "metric") -> str:
        """Write what it means.

        Parameters
        ----------
        reader : "metric", "us", or how a person reads figures

        Returns
        -------
        str : the meaning, with its amount where it has one
        """
        meaning = spoken(self.meaning, reader_of(reader).system)
        return meaning if self.aside is None else f"{meaning} {self.aside.text(reader)}"


@dataclass(frozen=True, kw_only=True)
class Working:
    """How a figure came about: formula, numbers put in, source, and how sure it is."""

    formula: str
    steps: tuple[Step, ...]
    source: str
    certainty: str


@dataclass(frozen=True, kw_only=True)
class Margin:
    """What is needed, what is there, the verdict, why, and the working.

    ``said`` is the verdict's word where another fits the side better ("overloaded"); ``danger`` is the caution that
    goes with a margin by which somebody could come to harm, and is only there while it is broken.
    """

    id: str
    station: Station
    title: str
    need: Sentence
    there: Sentence
    verdict: Verdict
    why: Sentence
    working: Working
    parts: tuple[str, ...] = ()
    mendable: bool = False
    information: bool = False
    said: str = ""
    danger: str = ""

    @property
    def word(self) -> str:
        """The verdict in a word."""
        return self.said or self.verdict


def first_amount(said: Sentence) -> Amount | None:
    """Give the amount that a sentence says first.

    Parameters
    ----------
    said : such as what there is

    Returns
    -------
    Amount : None where it says none
    """
    found = [(said.text.index(f"{{{name}}}"), amount) for name, amount in said.amounts if f"{{{name}}}" in said.text]
    return min(found, key=lambda item: item[0])[1] if found else None


def gap(margin: Margin) -> float:
    """Say how far a margin is from what is needed, to tell the worse of two of one verdict.

    Parameters
    ----------
    margin : any margin

    Returns
    -------
    float : need over what there is where that is too little, the other way round where it is too much; 0 where it
        is neither, or not said in comparable amounts
    """
    there, need = first_amount(margin.there), first_amount(margin.need)
    if there is None or need is None or there.unit != need.unit:
        return 0.0
    if margin.verdict == "short":
        return need.value / max(there.value, 1e-9)
    high = need.value if need.high is None else need.high
    most = there.value if there.high is None else there.high
    return most / max(high, 1e-9) if margin.verdict == "over" else 0.0


def worst(margins: list[Margin] | tuple[Margin, ...]) -> Verdict:
    """Give the worst verdict of some margins.

    Parameters
    ----------
    margins : any margins; mere information does not count

    Returns
    -------
    str : "unknown" when there are none: nothing was judged
    """
    found = {margin.verdict for margin in margins if not margin.information}
    return next((verdict for verdict in ORDER if verdict in found), "unknown")


def ranked(margins: list[Margin]) -> tuple[Margin, ...]:
    """Sort margins: what could do harm first, then worst first, information last; the order within a verdict stays.

    Parameters
    ----------
    margins : any margins

    Returns
    -------
    tuple of Margin : sorted
    """
    return tuple(sorted(margins, key=lambda m: (not m.danger, m.information, ORDER.index(m.verdict))))


def judge_least(there: float, need: float, *, tight: float = 1.1, over: float | None = None) -> Verdict:
    """Judge something of which there must be enough.

    Parameters
    ----------
    there : what there is
    need : what is needed, same unit
    tight : below need x tight it is tight
    over : above need x over it is too much; never when None

    Returns
    -------
    str : the verdict
    """
    if there < need * (1 - 1e-9):
        return "short"
    if over is not None and there > need * over:
        return "over"
    return "tight" if there < need * tight else "good"


def judge_most(there: float, limit: float, *, tight: float = 0.9) -> Verdict:
    """Judge something that must stay under a limit.

    Parameters
    ----------
    there : what there is
    limit : the limit, same unit
    tight : above limit x tight it is tight

    Returns
    -------
    str : "over", "tight" or "good"
    """
    if there > limit * (1 + 1e-9):
        return "over"
    return "tight" if there > limit * tight else "good"


def judge_window(least: float, most: float, low: float, high: float, *, edge: float = 0.05) -> Verdict:
    """Judge values that must lie in a window.

    Parameters
    ----------
    least : the least of the values
    most : the greatest of the values
    low : lower end of the window
    high : upper end of the window
    edge : within this share of an end it is tight

    Returns
    -------
    str : "short" goes before "over"
    """
    if least < low * (1 - 1e-9):
        return "short"
    if most > high * (1 + 1e-9):
        return "over"
    return "tight" if least < low * (1 + edge) or most > high * (1 - edge) else "good"
