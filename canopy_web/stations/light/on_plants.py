"""The tab of the light on each plant, down its levels."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.evaluate.light.leaf_levels import leaf_levels
from canopy.margin import Amount, judge_window
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.where import Where

# Where DEPTHS of the leaf levels lie, in words.
LEVELS = ("Top", "¼ down", "Middle", "¾ down", "Lowest")


def on_plants_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    light = {item.plant.id: item for item in report.lighting.plants}
    found = []
    for item in leaf_levels(report.here):
        want, dli = item.plant.want, light[item.plant.id].dli_mol_m2_d
        found.append(
            {
                "number": item.plant.number,
                "name": item.plant.crop.name,
                "levels": [(name, f"{value:.0f}") for name, value in zip(LEVELS, item.levels, strict=True)],
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
        "level_names": LEVELS,
        "probe_form": bad.get("probe") or light_forms.ProbeForm(middle, system=where.system, prefix="probe"),
        "delivered": report.margin("light.delivered"),
    }
