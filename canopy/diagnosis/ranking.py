"""Causes ranked by symptoms, by what plan and log say, and by checks that were answered; and the next check."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import exp, log
from typing import Literal

from canopy.errors import LibraryError
from canopy.library import find
from canopy.library.ailments import Cause, Check, Symptom, causes, checks, symptoms
from canopy.margin import Sentence, sentence

Word = Literal["most likely", "likely", "possible", "unlikely"]
# How likely a cause shows a symptom that it typically, often, sometimes has; and one that nobody ties to it. Rough.
_SHOWS = (0.75, 0.45, 0.2)
_STRAY = 0.02
# How much a fact of plan or log tells for a cause, and against it; how sure an answered check is.
_FOR, _AGAINST = log(2.6), log(3.0)
_YES, _NO, _SILENT = 0.88, 0.1, 0.45
# What is met very often is taken beforehand to be so many times likelier than what is met seldom.
_COMMON = log(1.45)
# Nothing is called most likely below this share, nor without a check or a fact that tells for it.
_MOST, _LIKELY, _POSSIBLE = 0.6, 0.3, 0.06


@dataclass(frozen=True, kw_only=True)
class Fact:
    """What plan or log say of one thing: whether it holds, in words with figures."""

    id: str
    holds: bool
    words: Sentence


@dataclass(frozen=True, kw_only=True)
class Ranked:
    """A cause with its share of all that is believed, 0..1, in a word that is never surer than what stands behind it;
    what tells for it, what against it, and which symptoms it would show.
    """

    cause: Cause
    share: float
    word: Word
    tells_for: tuple[Sentence, ...]
    tells_against: tuple[Sentence, ...]
    shows: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Diagnosis:
    """What it can be, likeliest first, and the check that tells most; None where none would."""

    ranked: tuple[Ranked, ...]
    next_check: Check | None
    between: tuple[str, ...] = ()


def diagnose(
    seen: Collection[str], facts: Mapping[str, Fact], answers: Mapping[str, bool] | None = None, most: int = 6
) -> Diagnosis:
    """Rank what it can be.

    Parameters
    ----------
    seen : ids of symptoms, at least one
    facts : what plan and log say, by id; what they do not know is not among them
    answers : of checks that were made, by id
    most : so many causes at most

    Returns
    -------
    Diagnosis : with the next check that tells the likeliest apart

    Raises
    ------
    LibraryError : a symptom or check that is not known, or no symptom at all

    Notes
    -----
    Naive Bayes on rough likelihoods: what a cause typically shows is taken at 0.75, often 0.45, sometimes 0.2, a stray
    symptom at 0.02; a fact moves by a factor of about three, an answered check by about eight. The figures order
    causes; they are no probabilities, and are told in words. The next check is the one whose answer is expected to
    leave least in doubt (entropy).
    """
    known = dict(answers or {})
    for key in seen:
        find(symptoms(), key, "symptom")
    for key in known:
        find(checks(), key, "check")
    if not seen:
        raise LibraryError("choose at least one thing that you see")
    scores = {cause.id: _score(cause, seen, facts, known) for cause in causes().values()}
    shares = _shares(scores)
    order = sorted(shares, key=lambda key: -shares[key])
    ranked = tuple(_ranked(causes()[key], shares[key], seen, facts, known) for key in order[:most])
    check = _next(shares, known)
    between = tuple(item.cause.name for item in ranked[:2]) if check else ()
    return Diagnosis(ranked=ranked, next_check=check, between=between)


def _score(cause: Cause, seen: Collection[str], facts: Mapping[str, Fact], answers: Mapping[str, bool]) -> float:
    score = _COMMON * cause.common
    for key in seen:
        score += log(_shown(cause, key))
    # What it typically shows and nobody sees tells a little against it.
    score += sum(0.25 * log(1 - 0.5) for key in cause.typical if key not in seen)
    for key in cause.tells_for:
        if key in facts:
            score += _FOR if facts[key].holds else -0.5 * _FOR
    for key in cause.tells_against:
        if key in facts and facts[key].holds:
            score -= _AGAINST
    for key, said in answers.items():
        chance = _YES if key in cause.yes else _NO if key in cause.no else _SILENT
        score += log(chance if said else 1 - chance)
    return score


def _shown(cause: Cause, symptom: str) -> float:
    for keys, chance in zip((cause.typical, cause.often, cause.sometimes), _SHOWS, strict=True):
        if symptom in keys:
            return chance
    return _STRAY


def _shares(scores: Mapping[str, float]) -> dict[str, float]:
    top = max(scores.values())
    weights = {key: exp(value - top) for key, value in scores.items()}
    total = sum(weights.values())
    return {key: value / total for key, value in weights.items()}


def _next(shares: Mapping[str, float], answers: Mapping[str, bool]) -> Check | None:
    """The check after whose answer least is expected to be in doubt."""
    likely = {key: share for key, share in shares.items() if share > 0.02}
    before = _doubt(list(likely.values()))
    best, least = None, before - 0.03
    for check in checks().values():
        if check.id in answers:
            continue
        chances = {key: _chance(causes()[key], check.id) for key in likely}
        yes = sum(share * chances[key] for key, share in likely.items())
        no = sum(share * (1 - chances[key]) for key, share in likely.items())
        after = _doubt([share * chances[key] for key, share in likely.items()]) * yes / (yes + no)
        after += _doubt([share * (1 - chances[key]) for key, share in likely.items()]) * no / (yes + no)
        if after < least:
            best, least = check, after
    return best


def _chance(cause: Cause, check: str) -> float:
    return _YES if check in cause.yes else _NO if check in cause.no else _SILENT


def _doubt(weights: Sequence[float]) -> float:
    total = sum(weights)
    return -sum(w / total * log(w / total) for w in weights if w > 0)


def _ranked(
    cause: Cause, share: float, seen: Collection[str], facts: Mapping[str, Fact], answers: Mapping[str, bool]
) -> Ranked:
    good = [facts[key].words for key in cause.tells_for if key in facts and facts[key].holds]
    bad = [facts[key].words for key in cause.tells_for if key in facts and not facts[key].holds]
    bad += [facts[key].words for key in cause.tells_against if key in facts and facts[key].holds]
    for key, said in answers.items():
        if key in cause.yes or key in cause.no:
            words = sentence(f"{checks()[key].asks} {'Yes' if said else 'No'}")
            (good if said == (key in cause.yes) else bad).append(words)
    shows = tuple(symptoms()[key].name for key in seen if _shown(cause, key) > _STRAY)
    strays = [symptoms()[key].name for key in seen if _shown(cause, key) <= _STRAY]
    bad += [sentence(f"does not usually show: {name}") for name in strays]
    return Ranked(
        cause=cause,
        share=share,
        word=_word(share, backed=bool(good)),
        tells_for=tuple(dict.fromkeys(good)),
        tells_against=tuple(dict.fromkeys(bad)),
        shows=shows,
    )


def _word(share: float, *, backed: bool) -> Word:
    if share >= _MOST and backed:
        return "most likely"
    if share >= _LIKELY:
        return "likely"
    return "possible" if share >= _POSSIBLE else "unlikely"


def symptoms_of(part: str) -> tuple[Symptom, ...]:
    """Give what one can see on a part of the plant.

    Parameters
    ----------
    part : one of `PARTS`

    Returns
    -------
    tuple of Symptom : in the order of the data file
    """
    return tuple(item for item in symptoms().values() if item.part == part)
