"""The tab of lamps: hang them from the library, from own data or a file, link bars, set all at once."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.design.light.hanging import hang_over, line_up
from canopy.design.light.poses import POSES, SHARED, posed_all
from canopy.equipment import FixtureSpec
from canopy.errors import PhotometricError, PlanError, PlanProblem
from canopy.evaluate import SpaceReport
from canopy.evaluate.light.lamp_care import faded_to
from canopy.library import fixtures
from canopy.light.photometric_file import read_photometric
from canopy.light.photometry import fixture_load, given_ppf, ppf
from canopy.light.spectra import lux_factor, mixed, read_spectrum
from canopy.plan import Fixture
from canopy.plan.changes import Add, Change
from canopy.plan.edit import lamp_hours
from canopy.quantities import LENGTH, LightUnit, show
from canopy.words import capital, counted, percent
from canopy_web.forms import own_lamp
from canopy_web.stations.light import forms as light_forms
from canopy_web.stations.light import lamp_forms
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.reply import attempt, page, said
from canopy_web.workspace.where import Where, at_space


@require_POST
@at_space
def add_lamps(request: HttpRequest, where: Where) -> HttpResponse:
    """Hang lamps from the library, side by side over the plants."""
    form = lamp_forms.AddLampForm({}, request.POST, system=where.system, prefix="add")

    def act() -> Where:
        spec = fixtures()[form.cleaned_data["class_id"]].spec
        return hang_lamps(where, spec.model_dump(mode="json"), form.cleaned_data["count"])

    return attempt(request, where, form, "add", act)


@require_POST
@at_space
def set_all_lamps(request: HttpRequest, where: Where) -> HttpResponse:
    """Bring all lamps to one height, dimmer or day."""
    form = lamp_forms.AllLampsForm({}, request.POST, system=where.system, prefix="all")

    def act() -> Where:
        values = form.values()
        lamps = where.space.fixtures if values else ()
        changes = [Change(collection="fixtures", part_id=lamp.id, values=_for_lamp(lamp, values)) for lamp in lamps]
        return where.do("Set all lamps", *changes)

    return attempt(request, where, form, "all", act)


def _age_form(where: Where, lamp: Fixture, data: Any = None) -> lamp_forms.AgeForm:
    return lamp_forms.AgeForm(lamp.model_dump(mode="json"), data, system=where.system, prefix=f"age-{lamp.id}")


@require_POST
@at_space
def age_lamp(request: HttpRequest, where: Where, lamp_id: str) -> HttpResponse:
    """Say since when a lamp is in use, or what it still gives."""
    lamp = next((item for item in where.space.fixtures if item.id == lamp_id), None)
    if lamp is None:
        raise Http404
    form = _age_form(where, lamp, request.POST)

    def act() -> Where:
        values = form.changes()
        if isinstance(values.get("in_use_since"), dt.date):
            values["in_use_since"] = values["in_use_since"].isoformat()
        change = Change(collection="fixtures", part_id=lamp.id, values=values, was=form.seen())
        return where.do("Changed how old a lamp is", change)

    return attempt(request, where, form, f"age-{lamp.id}", act)


@require_POST
@at_space
def add_own_lamp(request: HttpRequest, where: Where) -> HttpResponse:
    """Hang a lamp of the person's own data."""
    form = own_lamp.OwnLampForm({}, request.POST, system=where.system, prefix="own")
    return attempt(request, where, form, "own", lambda: hang_lamps(where, form.spec(), 1))


@require_POST
@at_space
def pose_lamp(request: HttpRequest, where: Where) -> HttpResponse:
    """Bring a lamp, or all, into their usual places."""
    form = lamp_forms.PoseForm(where.space.fixtures, request.POST)
    if form.is_valid():
        key, pose = form.cleaned_data["lamp"], form.cleaned_data["pose"]
        lamps = [lamp for lamp in where.space.fixtures if key in ("all", lamp.id)]
        words = SHARED[pose][0] if pose in SHARED else POSES[pose][0]
        try:
            places = posed_all(where.space, lamps, pose)
            moves = [
                Change(collection="fixtures", part_id=lamp.id, values=values)
                for lamp, values in zip(lamps, places, strict=True)
            ]
            return page(request, where.do(f"{'All lamps' if key == 'all' else 'Lamp'} {words}", *moves))
        except PlanError as error:
            form.add_error("pose", said(error))
    return page(request, where, bad={"pose": form})


def _for_lamp(lamp: Fixture, values: dict[str, float]) -> dict[str, Any]:
    own = {key: value for key, value in values.items() if key != "hours"}
    return own | (lamp_hours(lamp, values["hours"]) if "hours" in values else {})


def hang_lamps(where: Where, spec: dict[str, Any], count: int) -> Where:
    """Hang lamps of one kind side by side over the plants; raises PlanError where they do not fit."""
    lamp = FixtureSpec.model_validate(spec)
    made = hang_over(where.report.here, lamp, count)
    if not made:
        size = where.space.size

        def cm(value: float) -> str:
            return show(value, LENGTH, where.system)

        words = (
            f"{lamp.name} is {cm(lamp.length_m)} × {cm(lamp.overall_width_m)}; the largest that hangs level here is "
            f"{cm(size.width_m - 0.02)} × {cm(size.depth_m - 0.02)}"
        )
        if count > 1 and hang_over(where.report.here, lamp, 1):
            fit = next(n for n in range(count, 0, -1) if hang_over(where.report.here, lamp, n))
            words = f"{count} × {lamp.name} do not fit side by side in this space: at most {fit} do"
        raise PlanError([PlanProblem(path="class_id", message=words)])
    return hang_specs(where, made, f"Hung {count} × {lamp.name}")


def hang_specs(where: Where, made: list[Fixture], label: str) -> Where:
    """Add lamps to a space under ids of their own."""
    parts = tuple(fixture.model_dump(mode="json") for fixture in made)
    return where.do(label, Add(collection="fixtures", parts=parts, prefix="lamp"))


def lamps_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    rows = rows_of(where, "fixtures", bad)
    survey = where.space.survey

    def unit(lamp: Fixture) -> LightUnit:
        return LightUnit(key=where.light, lux_per_umol=lux_factor(lamp.spec).lux_per_umol)

    for row in rows:
        lamp = row["part"]
        row["full"] = {"power": f"{lamp.spec.power_w:.0f}\u00a0W", "ppf": unit(lamp).output(ppf(lamp.spec))}
        if not lamp.enabled or lamp.dim < 1 or lamp.ageing < 1 or lamp.cover:
            row["now"] = {"power": f"{fixture_load(lamp):.0f}\u00a0W", "ppf": unit(lamp).output(given_ppf(lamp))}
        factor = survey.factor_of(row["part"].id) if survey else 1.0
        hood = report.margin(f"air.hood.{lamp.id}")
        row["hood"] = hood.why.say(where.system) if hood else ""
        row["factor"] = f"{percent(factor)} by the survey" if factor != 1.0 else ""
    bars = light_forms.LineUpForm(
        {"gap_m": 0.02, "z_m": round(where.space.size.height_m * 0.7, 2)}, system=where.system, prefix="line"
    )
    return {
        "rows": rows,
        "add_form": bad.get("add") or lamp_forms.AddLampForm({}, system=where.system, prefix="add"),
        "own_form": bad.get("own") or own_lamp.OwnLampForm({}, system=where.system, prefix="own"),
        "all_form": bad.get("all") or lamp_forms.AllLampsForm({}, system=where.system, prefix="all"),
        "line_form": bad.get("line") or bars,
        "link_form": _link_form(where, bad) if len(where.space.fixtures) > 1 else None,
        "chains": _chains(where),
        "ages": [
            {
                "part": lamp,
                "number": number,
                "form": bad.get(f"age-{lamp.id}") or _age_form(where, lamp),
                "left": percent(faded_to(lamp, where.day)) if lamp.in_use_since else "",
            }
            for number, lamp in enumerate(where.space.fixtures, 1)
        ],
        "ages_open": any(lamp.in_use_since or lamp.ageing < 1 for lamp in where.space.fixtures)
        or any(key.startswith("age-") for key in bad),
        "pose_form": bad.get("pose") or lamp_forms.PoseForm(where.space.fixtures),
        "file_form": bad.get("file") or light_forms.LampFileForm(),
        "hot": any(lamp.spec.technology in ("hps", "metal-halide", "incandescent") for lamp in where.space.fixtures),
        "animals": any(lamp.spec.purpose != "grow" for lamp in where.space.fixtures),
        "bands": [
            (name, percent(share))
            for name, share in mixed([(f.spec, given_ppf(f)) for f in where.space.fixtures]).items()
        ],
    }


def _link_form(where: Where, bad: Mapping[str, Any]) -> light_forms.LinkForm:
    fresh = light_forms.LinkForm({}, system=where.system, prefix="link", count=len(where.space.fixtures))
    return bad.get("link") or fresh


def _chains(where: Where) -> list[dict[str, str]]:
    """Which lamps are plugged into each other, by their numbers."""
    found: dict[str, list[str]] = {}
    for number, lamp in enumerate(where.space.fixtures, 1):
        if lamp.chain:
            found.setdefault(lamp.chain, []).append(str(number))
    return [{"name": name, "numbers": ", ".join(numbers)} for name, numbers in found.items()]


@require_POST
@at_space
def line_bars(request: HttpRequest, where: Where) -> HttpResponse:
    """Link bars end to end along a side."""
    form = light_forms.LineUpForm({}, request.POST, system=where.system, prefix="line")

    def act() -> Where:
        got = form.cleaned_data
        spec = fixtures()[got["class_id"]].spec
        made = line_up(
            where.space,
            spec,
            along=got["along"],
            gap_m=got["gap_m"],
            z_m=got["z_m"],
            count=got["count"] or 0,
            length_m=got["length_m"] or 0.0,
        )
        if not made:
            raise PlanError([PlanProblem(path="class_id", message=f"not even one {spec.name} fits there")])
        return hang_specs(where, made, f"Linked {len(made)} × {spec.name}")

    return attempt(request, where, form, "line", act)


@require_POST
@at_space
def link_lamps(request: HttpRequest, where: Where, what: str) -> HttpResponse:
    """Plug lamps into each other, wherever they hang; or give each its own plug again."""
    if what not in ("link", "part"):
        raise Http404
    lamps = where.space.fixtures
    form = light_forms.LinkForm({}, request.POST, system=where.system, prefix="link", count=len(lamps))

    def act() -> Where:
        picked = [lamps[place] for place in form.cleaned_data["lamps"]]
        if what == "link" and len(picked) < 2:
            raise PlanError([PlanProblem(path="lamps", message="name at least two lamps")])
        used = {lamp.chain for lamp in lamps}
        name = next(f"chain {number}" for number in range(1, 100) if f"chain {number}" not in used)
        values = {"chain": name if what == "link" else ""}
        changes = [Change(collection="fixtures", part_id=lamp.id, values=values) for lamp in picked]
        label = f"Linked {counted(len(picked), 'lamp')}" if what == "link" else f"Parted {counted(len(picked), 'lamp')}"
        return where.do(label, *changes)

    return attempt(request, where, form, "link", act)


@require_POST
@at_space
def lamp_from_file(request: HttpRequest, where: Where) -> HttpResponse:
    """Hang a lamp from its photometric file."""
    form = light_forms.LampFileForm(request.POST, request.FILES)
    if form.is_valid():
        power, light = form.number("power_w"), form.number("ppf_umol_s")
        try:
            file = form.cleaned_data["photometry"]
            found = read_photometric(file.read(), file.name.rpartition(".")[0])
            waves = read_spectrum(form.cleaned_data["spectrum"].read()) if form.cleaned_data.get("spectrum") else ()
            if form.errors:
                raise PhotometricError("")
            if power is None and found.power_w is None:
                form.add_error("power_w", "the file does not say what the lamp draws: type it")
            if light is None and found.flux_lm is None:
                form.add_error("ppf_umol_s", "the file does not say how much light it gives: type its PPF")
            if not form.errors:
                source, cct = form.cleaned_data["source_id"] or "white-led", form.number("cct_k") or 4000.0
                if not light and not waves and source in own_lamp.COLOURED:
                    raise PhotometricError("lumens say little of red and blue light: add its spectrum, or type its PPF")
                lumens = {"kind": "lumens", "flux_lm": found.flux_lm, "source_id": source, "cct_k": cct}
                output = {"kind": "ppf", "ppf_umol_s": light} if light else lumens
                kind = {} if waves else own_lamp.kind_of_light(source, cct)
                spec = {
                    **kind,
                    "name": found.name,
                    "power_w": power or found.power_w,
                    "output": output,
                    "emission": "photometric",
                    "photometry": found.photometry.model_dump(mode="json"),
                    "shape": "disc" if found.round else "rectangle",
                    "length_m": max(found.length_m, 0.02),
                    "width_m": max(found.width_m, 0.02),
                    "spectrum": waves,
                }
                return page(
                    request,
                    hang_lamps(where, spec, 1),
                    words=f"{found.name} hangs over the plants; drag it from there.",
                )
        except PhotometricError as error:
            if str(error):
                form.add_error("photometry", capital(str(error)) + ".")
        except PlanError as error:
            form.add_error(None, said(error))
    return page(request, where, bad={"file": form})
