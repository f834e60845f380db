"""The tab of pictures: a series through the days, and pictures from above that are measured."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Mapping, Sequence
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_GET, require_POST
from pydantic import ValidationError

from canopy.errors import CanopyError
from canopy.evaluate import SpaceReport
from canopy.pictures.measured import Marks, Measured, Reading
from canopy.quantities import LENGTH
from canopy.review.pictured import measured_in, planned_cover, stems
from canopy.review.trends import Trend, trend
from canopy.season import standing_of
from canopy.words import capital
from canopy_web.accounts.context import today
from canopy_web.forms.fields import QuantityField
from canopy_web.forms.part import PartForm
from canopy_web.photos import actions
from canopy_web.photos.models import PictureMeasure, SpacePhoto
from canopy_web.photos.pictures import PictureError, pixels
from canopy_web.photos.querysets import photos_of
from canopy_web.stations.review.picture_words import follow_rows, hue_words, plants_told
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

# Where corners are drawn before anybody moved them.
_CORNERS = ((0.15, 0.15), (0.85, 0.15), (0.85, 0.85), (0.15, 0.85))
CORNERS = ("back left", "back right", "front right", "front left")
# Places that were pointed at take no more letters than this.
_MOST_SENT = 4000
# Pictures are taken weekly: a month of them tells how cover and colour go on.
_WEEKLY = 4
CARDS = (("", "none"), ("grey", "a grey card"), ("white", "a white sheet of paper"))


class MarksForm(PartForm):
    """What cannot be pointed at in a picture."""

    card_kind = forms.ChoiceField(choices=CARDS, required=False, label="card in the picture")
    leaves_m = QuantityField(LENGTH, 0, 5, optional=True, label="leaves above the corners")
    camera_m = QuantityField(LENGTH, 0.1, 6, optional=True, label="camera above the corners")
    white_light = forms.BooleanField(required=False, label="lit by daylight or a white lamp")


def pictures_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: the series, what it says through the days, and the form for one more."""
    shots = [shown_shot(where, photo) for photo in reversed(photos_of(where.row, where.space.id))]
    return {
        "shots": shots,
        "filters": _filters(where, shots),
        "picture_trends": _trends(shots),
        "picture_wrong": bad.get("picture", ""),
        "plant_choices": [(plant.id, f"{n}, {where.crops[plant.crop_id].name}") for n, plant in _numbered(where)],
    }


def _numbered(where: Where) -> list[tuple[int, Any]]:
    return [(n, plant) for n, plant in enumerate(where.space.plants, 1) if plant.crop_id in where.crops]


def shown_shot(where: Where, photo: SpacePhoto) -> dict[str, Any]:
    """Write a picture of the series: its day in each run, what was measured."""
    kept = getattr(photo, "measure", None)
    runs = [
        (planting.id, (photo.day - planting.starts_on).days + 1)
        for planting in _plantings(where)
        if planting.starts_on <= photo.day <= (planting.cleared_on or dt.date.max)
    ]
    number = next((n for n, plant in _numbered(where) if plant.id == photo.plant_id), None)
    shot: dict[str, Any] = {
        "photo": photo,
        "number": number,
        "kinds": " ".join(
            [f"plant:{photo.plant_id}" if photo.plant_id else "space", *(f"run:{key}" for key, _ in runs)]
        ),
        "days": ", ".join(f"day {day} of {_name(where, key)}" for key, day in runs),
        "at": kept.made.timestamp() if kept else 0,
    }
    if kept:
        reading = Reading.model_validate(kept.reading)
        shot |= {
            "reading": reading,
            "cover": f"{100 * reading.cover:.0f}",
            "off": f"{max(1, round(100 * reading.standard_error))}",
            "planned": f"{100 * planned_cover(standing_of(where.space, photo.day, where.cast)):.0f}",
        }
    parts = [f"{photo.day.day} {photo.day:%b %Y}", f"plant {number}" if number else "", shot["days"]]
    covered = f": leaves cover {shot['cover']} ± {shot['off']} %" if kept else ""
    return {**shot, "words": ", ".join(part for part in parts if part) + covered}


def _plantings(where: Where) -> list[Any]:
    used = {plant.planting_id for plant in where.space.plants}
    return [planting for planting in where.plan.plantings if planting.id in used]


def _name(where: Where, key: str) -> str:
    return next(planting.name for planting in where.plan.plantings if planting.id == key)


def _filters(where: Where, shots: Sequence[Mapping[str, Any]]) -> list[tuple[str, str]]:
    """What the series can be narrowed to: those of which there are pictures."""
    there = {kind for shot in shots for kind in shot["kinds"].split()}
    options = [("space", "the whole space")]
    options += [(f"run:{planting.id}", planting.name) for planting in _plantings(where)]
    options += [(f"plant:{plant.id}", f"plant {n}") for n, plant in _numbered(where)]
    return [(key, name) for key, name in options if key in there]


def _trends(shots: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """How cover and colour go on, by pictures of the whole space."""
    read = [shot for shot in shots if "reading" in shot and not shot["photo"].plant_id]
    coloured = [shot for shot in read if shot["reading"].colour]
    carded = [shot for shot in coloured if shot["reading"].colour.balanced]
    # With and without a card is not one scale.
    used = carded if len(carded) * 2 >= len(coloured) else [s for s in coloured if not s["reading"].colour.balanced]
    cover = trend([shot["photo"].day for shot in read], [100 * shot["reading"].cover for shot in read], least=_WEEKLY)
    hue = trend([shot["photo"].day for shot in used], [shot["reading"].colour.hue_deg for shot in used], least=_WEEKLY)
    return {
        "measured": len(read),
        "cover": _weekly(cover, "points of cover"),
        "hue": hue_words(hue),
        "why_not": cover.why_not,
        "carded": used is carded,
    }


def _weekly(found: Trend, what: str) -> str:
    if found.why_not:
        return ""
    if not found.sure:
        return f"no change of {what} beyond chance"
    return f"{7 * found.a_day:+.0f} ± {max(1, round(7 * found.off_a_day))} {what} a week".replace("-", "−")


@require_POST
@at_space
def add(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep a picture of the series."""
    file = request.FILES.get("picture")
    if file is None:
        return page(request, where, bad={"picture": "Choose a picture first."})
    plant = request.POST.get("plant", "")
    known = plant if any(item.id == plant for item in where.space.plants) else ""
    try:
        typed = request.POST.get("day", "")
        day = parse_date(typed) if typed else None
        if typed and day is None:
            raise ValueError
        now = today(request, where.plan)
        actions.add_photo(where.row, where.space.id, file, today=now, day=day, plant_id=known)
    except ValueError as error:
        words = str(error) if isinstance(error, PictureError) else "Type the day as 2026-03-14."
        return page(request, where, bad={"picture": words})
    return page(request, where, words="The picture is kept.")


def _photo(where: Where, pk: int) -> SpacePhoto:
    rows = SpacePhoto.objects.filter(plan=where.row, space_id=where.space.id).select_related("measure")
    found: SpacePhoto = get_object_or_404(rows, pk=pk)
    return found


def _kept(photo: SpacePhoto) -> PictureMeasure | None:
    found: PictureMeasure | None = getattr(photo, "measure", None)
    return found


@require_GET
@at_space
def mark(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show a picture with its corners to be marked: as they were, or as in the last picture that was measured."""
    photo = _photo(where, pk)
    kept = _kept(photo) or _last(where, photo)
    marks = Marks.model_validate(kept.marks) if kept else None
    if marks is not None and _kept(photo) is None:
        marks = marks.model_copy(update={"card": None, "leaf": (), "ground": (), "shift": 0.0})
    return _marking(request, where, photo, marks, like=kept is not None and _kept(photo) is None)


def _last(where: Where, photo: SpacePhoto) -> PictureMeasure | None:
    """The measurement of the picture nearest in time that is of the same shape: a camera that was not moved."""
    rows = PictureMeasure.objects.filter(photo__plan=where.row, photo__space_id=where.space.id)
    same = rows.filter(photo__width=photo.width, photo__height=photo.height).select_related("photo")
    days = [(abs((kept.photo.day - photo.day).days), -kept.pk, kept) for kept in same.defer("flat", "mask")[:50]]
    return min(days)[2] if days else None


def _marking(
    request: HttpRequest,
    where: Where,
    photo: SpacePhoto,
    marks: Marks | None,
    *,
    trouble: str = "",
    form: MarksForm | None = None,
    like: bool = False,
) -> HttpResponse:
    corners = marks.corners if marks else _CORNERS
    shown = {
        "photo": photo,
        "trouble": trouble,
        "like": like,
        "corners": [
            {"name": name, "x": round(x, 4), "y": round(y, 4)} for name, (x, y) in zip(CORNERS, corners, strict=True)
        ],
        "card": marks.card if marks and marks.card else (0.5, 0.92),
        "form": form or _form(where, marks),
        "kept": _kept(photo) is not None,
    }
    return render(request, "review/_marking.html", {**shown, **place(where)})


def _form(where: Where, marks: Marks | None, data: Any = None) -> MarksForm:
    record = {
        "card_kind": marks.card_kind if marks and marks.card else "",
        "leaves_m": marks.leaves_m if marks and marks.leaves_m else None,
        "camera_m": marks.camera_m if marks else None,
        "white_light": bool(marks and marks.white_light),
    }
    return MarksForm(record, data, system=where.system, prefix="marks")


@require_POST
@at_space
def read(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Measure a picture by what was marked in it, and keep that; or say why it cannot be."""
    photo = _photo(where, pk)
    form = _form(where, None, request.POST)
    marks = None
    try:
        if not form.is_valid():
            return _marking(request, where, photo, _marked(request, {}), form=form)
        marks = _marked(request, form.cleaned_data)
        found = _measured(where, photo, marks)
    except CanopyError as error:
        return _marking(request, where, photo, marks, trouble=f"{capital(str(error))}.", form=form)
    except (ValidationError, ValueError):
        return _marking(request, where, photo, None, trouble="Mark the four corners first.", form=form)
    actions.keep_measure(photo, marks, found)
    return _told(request, where, _photo(where, pk))


def _marked(request: HttpRequest, typed: Mapping[str, Any]) -> Marks:
    """What a request says was marked; raises ValueError for what is no marking."""
    sent = {key: request.POST.get(key) or "[]" for key in ("corners", "leaf", "ground", "card")}
    if max(map(len, sent.values())) > _MOST_SENT:
        raise ValueError
    posted = {key: json.loads(text) for key, text in sent.items()}
    kind = typed.get("card_kind") or ""
    return Marks.model_validate(
        {
            "corners": posted["corners"],
            "card": posted["card"] if kind and posted["card"] else None,
            "card_kind": kind or "grey",
            "leaf": posted["leaf"],
            "ground": posted["ground"],
            "shift": float(request.POST.get("shift") or 0),
            "leaves_m": typed.get("leaves_m") or 0.0,
            "camera_m": typed.get("camera_m"),
            "white_light": bool(typed.get("white_light")),
        }
    )


def _measured(where: Where, photo: SpacePhoto, marks: Marks) -> Measured:
    here = standing_of(where.space, photo.day, where.cast)
    return measured_in(pixels(bytes(photo.image)), marks, here, photo.lens_mm)


def _told(request: HttpRequest, where: Where, photo: SpacePhoto) -> HttpResponse:
    kept = _kept(photo)
    assert kept is not None
    marks, shot = Marks.model_validate(kept.marks), shown_shot(where, photo)
    reading: Reading = shot["reading"]
    here = standing_of(where.space, photo.day, where.cast)
    reader = where.reader(where.report)
    high = max((plant.top_m for plant in here.plants), default=0.0)
    shown = {
        "photo": photo,
        "shot": shot,
        "marks": marks,
        "spots": {key: json.dumps(getattr(marks, key)) for key in ("corners", "leaf", "ground", "card")},
        "hidden": [
            ("marks-card_kind", marks.card_kind if marks.card else ""),
            ("marks-leaves_m", _form(where, marks)["leaves_m"].value() or ""),
            ("marks-camera_m", _form(where, marks)["camera_m"].value() or ""),
            ("marks-white_light", "on" if marks.white_light else ""),
        ],
        "tall": high > 0.12 and not marks.leaves_m,
        "leaf_spots": len(marks.leaf),
        "ground_spots": len(marks.ground),
        "plants": plants_told(here, reading, reader),
        "follow": follow_rows(where.space, here, reading, photo.day, reader),
        "outside": bool(reading.plants) and len(reading.plants) < len(stems(here)),
        "hue": f"{reading.colour.hue_deg:.0f}°" if reading.colour else "",
        "dark_green": f"{reading.colour.dark_green:.2f}" if reading.colour else "",
    }
    return render(request, "review/_measured.html", {**shown, **place(where)})


@require_GET
@at_space
def laid(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Give the floor laid flat; ``?leaves`` what is leaf in it."""
    photo = _photo(where, pk)
    kept = _kept(photo)
    if kept is None:
        return HttpResponse(status=404)
    if not kept.flat:
        # Taken over from an archive: drawn again from what was marked.
        try:
            actions.draw_measure(kept, _measured(where, photo, Marks.model_validate(kept.marks)))
        except CanopyError:
            return HttpResponse(status=404)
    of_leaves = "leaves" in request.GET
    response = HttpResponse(
        bytes(kept.mask if of_leaves else kept.flat), content_type="image/png" if of_leaves else "image/jpeg"
    )
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@require_POST
@at_space
def forget(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take back what was measured in a picture; the picture stays."""
    actions.forget_measure(_photo(where, pk))
    return page(request, where, words="What was measured is taken back; the picture stays.")
