"""How much of each part brings water to a strength."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from canopy.errors import QuantityError
from canopy.plan.furnishing import FeedPart

Scale = Literal[500, 700]


# What a mL/L of a usual bottle adds, until its own figure is typed [mS/cm].
USUAL_STRENGTH_MS_CM = 0.25


@dataclass(frozen=True, kw_only=True)
class Dose:
    """What of one part goes into a batch: per litre and in all [mL, or g for powders], and the EC it adds [mS/cm]."""

    part: FeedPart
    ml_per_l: float
    ml: float
    adds_ms_cm: float


def ppm_of_ec(ec_ms_cm: float, scale: Scale) -> float:
    """Give the ppm a meter shows.

    Parameters
    ----------
    ec_ms_cm : electrical conductivity [mS/cm]
    scale : 500 (as sodium chloride) or 700 (as a mix of salts)

    Returns
    -------
    float : ppm on that scale
    """
    return ec_ms_cm * scale


def ec_of_ppm(ppm: float, scale: Scale) -> float:
    """Give the EC behind a meter's ppm.

    Parameters
    ----------
    ppm : what the meter shows, 0 or more [ppm]
    scale : 500 or 700

    Returns
    -------
    float : electrical conductivity [mS/cm]
    """
    return ppm / scale


# What goes in before what: silicate clouds acid mixes, calcium falls out with phosphate and sulphate where strong.
_ORDER = ("silicate", "calcium", "base", "other")


def in_order(parts: Sequence[FeedPart]) -> tuple[FeedPart, ...]:
    """Sort parts as they go in.

    Parameters
    ----------
    parts : by their kinds

    Returns
    -------
    tuple of FeedPart : silicate, then calcium and magnesium, then the rest as they were listed
    """
    return tuple(sorted(parts, key=lambda part: _ORDER.index(part.kind)))


def doses(
    parts: Sequence[FeedPart],
    target_ec_ms_cm: float,
    water_ec_ms_cm: float,
    volume_l: float,
    stage: str = "",
    *,
    above_water: bool = False,
) -> tuple[Dose, ...]:
    """Divide the strength that is wanted among the parts.

    Parameters
    ----------
    parts : the parts; one with stages goes in only at those, one with a dose of its own always at that
    target_ec_ms_cm : wanted strength [mS/cm]
    water_ec_ms_cm : what the water brings itself [mS/cm]
    volume_l : how much is mixed [L]
    stage : the stage it is for; every part when ""
    above_water : the target counts above the water's own strength

    Returns
    -------
    tuple of Dose : one for each part that goes in, in the order in which they do

    Raises
    ------
    QuantityError : no part goes in, or the water or the fixed doses alone are as strong as what is wanted

    Notes
    -----
    Conservation of ions in dilute solution: EC adds up linearly at these strengths, EC = EC water + Σ x e, with
    doses x [mL/L] in the ratio of the parts' shares and e what a mL/L adds. Good to about 10 %; the meter decides.
    Hard water fills a low target with bicarbonate, which feeds nothing: then the target counts above it.
    """
    used = in_order([part for part in parts if not part.stages or not stage or stage in part.stages])
    if not used:
        raise QuantityError("no part of the feed goes in at this stage")
    missing = target_ec_ms_cm - (0.0 if above_water else water_ec_ms_cm)
    if missing <= 0:
        raise QuantityError(
            f"the water alone has {water_ec_ms_cm:.2g} mS/cm, the target is {target_ec_ms_cm:.2g}: thin it "
            "with rain or "
            "filtered water"
        )
    fixed = sum(part.dose_ml_l * part.ec_ms_cm_per_ml_l for part in used if part.dose_ml_l is not None)
    sharing = [part for part in used if part.dose_ml_l is None]
    if missing - fixed < -1e-9:
        raise QuantityError(
            f"the parts of a fixed dose alone add {fixed:.2g} mS/cm, {missing:.2g} is left for all: give less of them"
        )
    each = (missing - fixed) / sum(part.share * part.ec_ms_cm_per_ml_l for part in sharing) if sharing else 0.0

    def dose(part: FeedPart) -> Dose:
        per_l = each * part.share if part.dose_ml_l is None else part.dose_ml_l
        return Dose(part=part, ml_per_l=per_l, ml=per_l * volume_l, adds_ms_cm=per_l * part.ec_ms_cm_per_ml_l)

    return tuple(dose(part) for part in used)
