"""How findings are shown, and the changes by which a plan follows one."""

from __future__ import annotations

from typing import Any

from django.http import Http404

from canopy.margin import Amount
from canopy.plan.changes import Act, Add, Remove
from canopy.plan.correction import LEAST, MOST, Correction, Subject
from canopy.plan.learnt import stamp
from canopy.quantities import Reader
from canopy.review.finding import Finding
from canopy.review.quantity import told_of
from canopy_web.workspace.where import Where

BASIS = {
    "log": "the log of ordinary days",
    "heater": "the test with a heater",
    "co2": "a fall of CO₂",
    "minutes": "five minutes with the fan off",
    "pots": "pots that were weighed",
    "meter": "a meter at the plug",
    "picture": "a picture from above",
}
_DECIMALS = {"airflow": 0, "heat loss": 1, "volume": 2, "power": 0, "": 2}


def figure(value: float, unit: str, reader: Reader) -> str:
    """Write a quantity that factors are about."""
    decimals = 1 if unit == "airflow" and value < 20 else _DECIMALS.get(unit)
    return Amount(value=value, unit=unit, decimals=decimals).text(reader)


def shown_finding(where: Where, item: Finding, reader: Reader) -> dict[str, Any]:
    """Write a finding: what it is about, computed and found."""
    told = told_of(where.plan, where.space, where.report, item.subject, item.target)
    row = {"name": told.name, "computed": figure(item.computed or 0.0, item.unit, reader), "found": "", "off": ""}
    if item.found is not None and item.off is not None and item.grade != "unknown":
        row |= {"found": figure(item.found, item.unit, reader), "off": "± " + figure(item.off, item.unit, reader)}
    return row


def correcting(where: Where, item: Finding) -> tuple[Act, ...]:
    """The changes by which a plan follows a finding: one correction of a thing at most."""
    if item.factor is None or item.standard_error is None:
        raise Http404
    about = (item.subject, item.target or "")
    same = tuple(one.id for one in where.space.learnt if one.about == about)
    subject: Subject = item.subject
    fresh = Correction(
        id="new",
        subject=subject,
        target=item.target,
        factor=round(min(MOST, max(LEAST, item.factor)), 4),
        standard_error=round(min(5.0, item.standard_error), 4),
        found_on=min(item.ends or where.day, where.day),
        basis=item.basis,
        limits=item.limits[:300],
        of=stamp(where.space, subject, item.target),
    )
    taken: tuple[Act, ...] = (Remove(collection="learnt", part_ids=same),) if same else ()
    return (*taken, Add(collection="learnt", parts=(fresh.model_dump(mode="json"),), prefix="learnt"))
