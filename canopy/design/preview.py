"""What a change would move, margin by margin, before it is taken."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.design.change import Remedy
from canopy.evaluate.climate.runs import running_shares
from canopy.evaluate.space import SpaceReport, as_it_runs, evaluate_space
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import ORDER, Margin
from canopy.plan.edit import apply


@dataclass(frozen=True, kw_only=True)
class Moved:
    """A margin before and after a change; None where it was not there."""

    before: Margin | None
    after: Margin | None

    @property
    def better(self) -> bool:
        """Whether the verdict improves."""
        return self._rank(self.after) > self._rank(self.before)

    @property
    def worse(self) -> bool:
        """Whether the verdict worsens; a margin that comes up is worse only when it is not good."""
        if self.before is None and self.after is not None and self.after.verdict == "good":
            return False
        return self._rank(self.after) < self._rank(self.before)

    @staticmethod
    def _rank(margin: Margin | None) -> int:
        return len(ORDER) if margin is None else ORDER.index(margin.verdict)


def preview(
    report: SpaceReport, remedy: Remedy, quality: Quality = DEFAULT, *, follow: bool = False
) -> tuple[Moved, ...]:
    """Show what a remedy would move.

    Parameters
    ----------
    report : the space's report as it is
    remedy : the change
    quality : how finely to compute what comes after; that of the report
    follow : follow the climate after it, too; without that nothing is said of it

    Returns
    -------
    tuple of Moved : the margins whose figure or verdict changes

    Raises
    ------
    PlanError : the change would break a rule
    """
    changed = apply(report.plan, report.space.id, remedy.changes)
    after_space = changed.space(report.space.id)
    if after_space is None:
        return ()
    after = evaluate_space(changed, after_space, day=report.here.day, quality=quality, with_map=False, follow=follow)
    if after.climate is None and report.climate is not None:
        # Devices are taken to run as far as they do: what changes in that is not known until it is followed.
        after = as_it_runs(after, running_shares(after.space, report.climate))
    return moved_between(report, after)


def moved_between(before: SpaceReport, after: SpaceReport) -> tuple[Moved, ...]:
    """Compare two reports of a space.

    Parameters
    ----------
    before : the space's report as it is
    after : its report as it would be

    Returns
    -------
    tuple of Moved : the margins whose figure or verdict changes, in the order of the first report; new ones last
    """
    found = []
    # What was followed on one side only is not compared.
    told = before.climate is not None and after.climate is not None
    mine, theirs = (
        [margin for margin in report.margins if told or margin.station != "climate"] for report in (before, after)
    )
    for margin in mine:
        later = after.margin(margin.id)
        if later is None or later.verdict != margin.verdict or later.there.say() != margin.there.say():
            found.append(Moved(before=margin, after=later))
    known = {margin.id for margin in before.margins}
    found += [Moved(before=None, after=margin) for margin in theirs if margin.id not in known]
    return tuple(found)
