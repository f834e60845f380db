"""A step of the build, and how one is made."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass

from canopy.library import Caution, cautions
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.document import Space

# Where somebody needs a ladder inside.
_TALL_M = 1.6


@dataclass(frozen=True, kw_only=True)
class BuildStep:
    """A step: what is done, why, how one knows that it is right, and what can hurt meanwhile.

    ``key`` stays the same for the same step, ``stamp`` changes with what of the plan it was made from.
    """

    key: str
    phase: str
    title: str
    does: Sentence
    right: Sentence
    why: str
    stamp: str
    cautions: tuple[Caution, ...] = ()
    parts: tuple[str, ...] = ()


def step_of(
    phase: str,
    key: str,
    title: str,
    does: str | Sentence,
    right: str | Sentence,
    why: str,
    *,
    of: Iterable[object] = (),
    care: Iterable[str] = (),
    parts: Iterable[str] = (),
) -> BuildStep:
    """Make a step.

    Parameters
    ----------
    phase : under which heading it stands
    key : the same for the same step of a space
    title : a few words
    does : what is done
    right : how one knows that it is right
    why : what comes of it otherwise
    of : what of the plan it was made from
    care : ids of cautions
    parts : its places in the drawing

    Returns
    -------
    BuildStep : with its stamp
    """
    return BuildStep(
        key=key,
        phase=phase,
        title=title,
        does=sentence(does) if isinstance(does, str) else does,
        right=sentence(right) if isinstance(right, str) else right,
        why=why,
        stamp=_stamp(key, *of),
        cautions=tuple(cautions()[item] for item in care),
        parts=tuple(parts),
    )


def _stamp(*records: object) -> str:
    text = "|".join(item.model_dump_json() if hasattr(item, "model_dump_json") else repr(item) for item in records)
    return hashlib.sha256(text.encode()).hexdigest()[:12]


def length(value_m: float) -> Amount:
    """A length in the reader's unit.

    Parameters
    ----------
    value_m : length [m]

    Returns
    -------
    Amount : to be said
    """
    return Amount(value=value_m, unit="length")


def weight(value_kg: float) -> Amount:
    """A weight in the reader's unit.

    Parameters
    ----------
    value_kg : weight [kg]

    Returns
    -------
    Amount : to be said
    """
    return Amount(value=value_kg, unit="weight")


def overhead(space: Space) -> tuple[str, ...]:
    """Cautions for work at the top of a space.

    Parameters
    ----------
    space : of whatever size

    Returns
    -------
    tuple of str : "ladder" where one stands on something to reach it
    """
    return ("ladder",) if space.size.height_m > _TALL_M else ()
