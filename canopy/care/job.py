"""One kind of recurring work at one place."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace

from canopy.library import CareKind, care_kinds, find
from canopy.margin import Sentence, sentence
from canopy.plan.care import CareRule
from canopy.plan.document import Space

MORNING = "09:00"
NOTHING = sentence("")


@dataclass(frozen=True, kw_only=True)
class Job:
    """Work in a space: first on a day, then every so many days (None: once) until a day (None: with no end).

    ``key`` names it in the household and never changes for the same work, ``family`` what it is called without the
    month that parts it, ``what`` says how much, ``why`` from what. Where it ``floats``, the next one counts from the
    day on which it was done last.
    """

    key: str
    family: str
    space_id: str
    where: str
    kind: CareKind
    title: str
    first: dt.date
    what: Sentence = NOTHING
    why: Sentence = NOTHING
    every_days: int | None = None
    until: dt.date | None = None
    at: str = MORNING
    minutes: float = 10.0
    floats: bool = True
    parts: tuple[str, ...] = ()

    def on(self, begins: dt.date, to: dt.date) -> tuple[dt.date, ...]:
        """Lay it out as if nobody had ever done it.

        Parameters
        ----------
        begins : first day
        to : last day

        Returns
        -------
        tuple of date : in order
        """
        if self.every_days is None:
            return (self.first,) if begins <= self.first <= to else ()
        last = min(to, self.until) if self.until else to
        ahead = max(0, -(-(begins - self.first).days // self.every_days))
        day, found = self.first + dt.timedelta(days=ahead * self.every_days), []
        while day <= last:
            found.append(day)
            day += dt.timedelta(days=self.every_days)
        return tuple(found)


def job(
    space: Space,
    kind_id: str,
    first: dt.date,
    *,
    of: str = "",
    title: str = "",
    what: Sentence | None = None,
    why: Sentence | None = None,
    every_days: int | None = 0,
    until: dt.date | None = None,
    floats: bool = True,
    parts: tuple[str, ...] = (),
    part: str = "",
) -> Job:
    """Make a job of a kind of the library.

    Parameters
    ----------
    space : where it is
    kind_id : such as "scout"
    first : its first day
    of : what it is about, such as a device's id
    title : the kind's name when empty
    what : how much of what
    why : from what it follows
    every_days : 0 for the kind's own, None for once
    until : its last day
    floats : whether the next one counts from when it was done
    parts : ids of what is marked in the drawing
    part : what parts a job from others of its family, such as a month

    Returns
    -------
    Job : with a key that is the same whenever it is made anew
    """
    kind = find(care_kinds(), kind_id, "care")
    family = f"{space.id}.{kind_id}" + (f".{of}" if of else "")
    return Job(
        key=f"{family}.{part}" if part else family,
        family=family,
        space_id=space.id,
        where=space.name,
        kind=kind,
        title=title or kind.name,
        first=first,
        what=what or NOTHING,
        why=why or NOTHING,
        every_days=kind.every_days if every_days == 0 else every_days,
        until=until,
        minutes=kind.minutes,
        floats=floats,
        parts=parts,
    )


def as_settled(item: Job, rule: CareRule | None) -> Job | None:
    """Lay what a person settled over a job.

    Parameters
    ----------
    item : as it follows from the plan
    rule : what they settled of it

    Returns
    -------
    Job : None where they left it out
    """
    if rule is None:
        return item
    if rule.off:
        return None
    every = rule.every_days if rule.every_days is not None and item.every_days is not None else item.every_days
    # Parted by months it keeps each month's own first day.
    begins = rule.starts_on if rule.starts_on is not None and item.key == item.family else item.first
    note = f" {rule.note}" if rule.note else ""
    return replace(
        item,
        every_days=every,
        first=begins,
        at=rule.at or item.at,
        what=Sentence(text=item.what.text + note, amounts=item.what.amounts) if note else item.what,
    )
