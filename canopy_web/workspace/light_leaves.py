"""The leaves of the Light station: lamps, light on the leaves, backwards, survey, outdoors."""

from __future__ import annotations

from typing import Any

from canopy.errors import CanopyError
from canopy.evaluate import SpaceReport
from canopy.evaluate.light.leaf_levels import leaf_levels
from canopy.evaluate.light.lighting import crowns_of
from canopy.light.outdoors import SKIES, hardening_off, like_outdoors, outdoor_dli_mol_m2_d
from canopy.light.photometry import ppf
from canopy.light.spectra import mixed, reading_to_ppfd
from canopy.light.survey import SurveyFit, fit_survey
from canopy.margin import Amount, judge_window
from canopy.plan import Survey
from canopy.quantities import LENGTH, show, significant
from canopy_web.workspace import forms, light_forms
from canopy_web.workspace.page import Where
from canopy_web.workspace.rows import rows_of

TOOLS = (
    ("dimmers", "Set the dimmers", "The least power that brings every plant into its daily window."),
    ("height", "Find the height", "All lamps moved up or down together, dimmers set anew for each height."),
    ("spacing", "Space the lamps", "Drawn together or apart about their middle, dimmers set anew."),
    (
        "places",
        "Place the plants",
        "Who stands where, among the places there are: by need for light, height and shade.",
    ),
)
LATITUDE = 50.0
_MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


def light_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    """Fill the leaf that is shown."""
    return _LEAVES[where.leaf](where, report, bad)


def _lamps(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    rows = rows_of(where, "fixtures", bad)
    survey = where.space.survey
    for row in rows:
        row["ppf"] = significant(ppf(row["part"].spec))
        factor = survey.factor_of(row["part"].id) if survey else 1.0
        row["factor"] = f"{factor:.0%} by the survey" if factor != 1.0 else ""
    bars = light_forms.LineUpForm(
        {"gap_m": 0.02, "z_m": round(where.space.size.height_m * 0.7, 2)}, system=where.system, prefix="line"
    )
    return {
        "rows": rows,
        "add_form": bad.get("add") or forms.AddLampForm({}, system=where.system, prefix="add"),
        "own_form": bad.get("own") or forms.OwnLampForm({}, system=where.system, prefix="own"),
        "all_form": bad.get("all") or forms.AllLampsForm({}, system=where.system, prefix="all"),
        "line_form": bad.get("line") or bars,
        "file_form": bad.get("file") or light_forms.LampFileForm(),
        "hot": any(lamp.spec.technology in ("hps", "metal-halide", "incandescent") for lamp in where.space.fixtures),
        "animals": any(lamp.spec.purpose != "grow" for lamp in where.space.fixtures),
        "bands": [
            (name, f"{share:.0%}")
            for name, share in mixed([(f.spec, ppf(f.spec) * f.dim) for f in where.space.fixtures if f.enabled]).items()
        ],
    }


def _leaves(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    light = {item.plant.id: item for item in report.lighting.plants}
    found = []
    for item in leaf_levels(report.here):
        want, dli = item.plant.want, light[item.plant.id].dli_mol_m2_d
        found.append(
            {
                "number": item.plant.number,
                "name": item.plant.crop.name,
                "levels": [f"{value:.0f}" for value in item.levels],
                "mean": f"{item.mean_umol_m2_s:.0f}",
                "dli": f"{dli:.1f}",
                "window": Amount(value=want.dli_mol_m2_d.low, high=want.dli_mol_m2_d.high, unit="").text(),
                "walls": f"{light[item.plant.id].reflected_share:.0%}",
                "lost": f"{item.lost_share:.0%}" if item.lost_share >= 0.005 else "none",
                "idle": f"lowest {item.idle_share:.0%}" if item.idle_share > 0.02 else "none",
                "least": f"{item.compensation_umol_m2_s:.0f}",
                "verdict": judge_window(dli, dli, want.dli_mol_m2_d.low, want.dli_mol_m2_d.high),
            }
        )
    size = where.space.size
    middle = {"x_m": size.width_m / 2, "y_m": size.depth_m / 2, "z_m": round(size.height_m / 4, 2)}
    return {
        "per_plant": found,
        "probe_form": bad.get("probe") or light_forms.ProbeForm(middle, system=where.system, prefix="probe"),
        "delivered": report.margin("light.delivered"),
    }


def _backwards(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    return {
        "tools": TOOLS if where.space.fixtures and report.here.plants else (),
        "has_plants": bool(report.here.plants),
    }


def survey_fit(where: Where, report: SpaceReport) -> SurveyFit | str:
    """A survey's fit, or in words why there is none."""
    survey = where.space.survey
    if survey is None or not survey.readings:
        return ""
    try:
        return fit_survey(where.space, survey, crowns=crowns_of(report.here))
    except CanopyError as error:
        return str(error)


def _as_ppfd(survey: Survey, value: float) -> str:
    found = reading_to_ppfd(value, survey.unit, survey.source_id, survey.cct_k)
    return f"{found.ppfd_umol_m2_s:.0f} ± {found.ppfd_umol_m2_s * found.uncertainty:.0f}"


def _survey(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    survey = where.space.survey or Survey(taken_on=where.day)
    fit = survey_fit(where, report)
    names = {lamp.id: f"{number} {lamp.spec.name}" for number, lamp in enumerate(where.space.fixtures, 1)}
    by_id = {item.reading_id: item for item in fit.readings} if isinstance(fit, SurveyFit) else {}

    def say(value: float) -> str:
        return show(value, LENGTH, where.system)

    return {
        "survey": survey,
        "survey_form": bad.get("survey")
        or light_forms.SurveyForm(survey.model_dump(mode="json"), system=where.system, prefix="survey"),
        "readings_form": bad.get("readings") or light_forms.ReadingsForm(),
        "fit": fit if isinstance(fit, SurveyFit) else None,
        "fit_wrong": fit if isinstance(fit, str) else "",
        "fit_lamps": [(names.get(item.fixture_id, item.fixture_id), item) for item in fit.lamps]
        if isinstance(fit, SurveyFit)
        else [],
        "readings": [
            {
                "number": n,
                "reading": r,
                "x": say(r.x_m),
                "y": say(r.y_m),
                "z": say(r.z_m),
                "fit": by_id.get(r.id),
                "ppfd": _as_ppfd(survey, r.value),
            }
            for n, r in enumerate(survey.readings, 1)
        ],
    }


def _outdoors(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    form = bad.get("outdoors")
    chosen = where.outdoors
    latitude = float(chosen.get("latitude_deg", LATITUDE))
    dli = report.lighting.dli_mol_m2_d
    likes = (
        [
            {"month": _MONTHS[item.month - 1], "sky": item.sky, "dli": f"{item.dli_mol_m2_d:.0f}"}
            for item in like_outdoors(dli, latitude)
        ]
        if dli > 0
        else []
    )
    year = [
        {
            "month": _MONTHS[m - 1],
            "skies": [
                f"{outdoor_dli_mol_m2_d(latitude, where.day.replace(month=m, day=15), sky):.0f}" for sky in SKIES
            ],
        }
        for m in range(1, 13)
    ]
    start = where.day if "start" not in chosen else type(where.day).fromisoformat(str(chosen["start"]))
    days = int(chosen.get("days", 10))
    steps = hardening_off(dli, latitude, start, days=days) if dli > 0 else ()
    shown = {"latitude_deg": latitude, "start": start.isoformat(), "days": days}
    return {
        "outdoors_form": form or light_forms.OutdoorsForm(shown, prefix="outdoors"),
        "likes": likes,
        "year": year,
        "skies": list(SKIES),
        "steps": steps,
        "dim_outdoors": bool(steps) and all(step.dli_mol_m2_d <= dli for step in steps),
        "indoor": f"{dli:.1f}",
        "latitude": latitude,
    }


_LEAVES = {"lamps": _lamps, "leaves": _leaves, "backwards": _backwards, "survey": _survey, "outdoors": _outdoors}
