"""The tab that asks the other way round: which crops would do well in what stands here now."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.designer.crops_for import CropFinder
from canopy.evaluate import SpaceReport
from canopy.evaluate.light.margins import DLI
from canopy.margin import Amount
from canopy.words import capital, counted
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.slices import Slice, Slices
from canopy_web.workspace.where import Where, at_space

# Kinds of crops as one looks for them: a key, words, and the library's groups.
KINDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "eaten": ("to eat", ("microgreen", "leaf", "herb", "fruiting", "root")),
    "leaf": ("leaves and herbs", ("microgreen", "leaf", "herb")),
    "fruit": ("fruit", ("fruiting",)),
    "young": ("young plants", ("seedling",)),
    "looked-at": ("to look at", ("houseplant", "orchid", "fern-moss", "carnivore", "succulent", "bulb")),
    "any": ("whatever there is", ()),
}
_finders: Slices[CropFinder] = Slices()


def suits_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: what one looks for."""
    return {"suit_kinds": [(key, words) for key, (words, _) in KINDS.items()]}


def _finding(where: Where, kind: str) -> Slice[CropFinder]:
    if kind not in KINDS:
        raise Http404
    key = (where.row.pk, where.row.head_id, where.space.id, where.day, kind)
    return _finders.get(key, lambda: CropFinder(where.followed, groups=KINDS[kind][1]))


@require_GET
@at_space
def suits(request: HttpRequest, where: Where, kind: str) -> HttpResponse:
    """Go on for a moment, and show what was found so far."""
    found = _finding(where, kind)
    if told := found.heed(request):
        return told
    with found.lock:
        finder, reader = found.work, where.reader(where.report)
        rows = [
            {
                "fit": fit,
                "name": fit.crop.name,
                "tight": len(fit.outcome.tight) if fit.outcome else 0,
                "light": _light(fit.outcome, reader) if fit.outcome else "",
                "worst": [(season, margin) for season, margin in fit.seasons],
            }
            for fit in finder.found
        ]
        shown = {
            "kind": kind,
            "rows": rows,
            "looked": finder.looked,
            "judged": len(finder.judged),
            "finished": finder.finished,
            "stopped": found.stopped,
            "there": bool(where.report.here.plants),
            "year": any(fit.outcome and fit.outcome.extreme_days for fit in finder.found),
        }
    return render(request, "crops/_suited.html", {**shown, **place(where, reader)})


def _light(outcome: Any, reader: Any) -> str:
    found = outcome.report.lighting.plants
    dli = [item.dli_mol_m2_d for item in found]
    if not dli:
        return ""
    low, high = min(dli), max(dli)
    span = Amount(value=low, unit=DLI, decimals=0, high=high if round(high) > round(low) else None)
    return span.text(reader)


@at_space
def grow(request: HttpRequest, where: Where, kind: str, crop_id: str) -> HttpResponse:
    """Let a crop that was found stand here in place of what does now."""
    found = _finding(where, kind)
    with found.lock:
        fit = next((item for item in found.work.found if item.crop.id == crop_id), None)
    if request.method != "POST" or fit is None:
        return page(request, where, words="This has changed meanwhile: look for it once more.")
    label = f"{capital(counted(fit.count, 'plant'))} of {fit.crop.name} in place of what stood here"
    return change(request, where, label, *fit.changes)
