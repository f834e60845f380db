"""Readings of light surveys lay inside plan documents: bring them here, from every state of every plan's history.

What the present state holds counts; what only an older state still holds was taken out, and comes as struck.
"""

import json
import zlib

from django.db import migrations

METER = (("taken_on", None), ("unit", "ppfd"), ("source_id", "white-led"), ("cct_k", 4000))


def read_out(apps, schema_editor):
    """Go through each plan's states, the present one first, then from the newest to the oldest."""
    plans, states = apps.get_model("planning", "GrowPlan"), apps.get_model("planning", "PlanState")
    for plan in plans.objects.all():
        seen, groups = set(), {}
        rest = states.objects.filter(plan=plan).exclude(pk=plan.head_id).order_by("-pk")
        for state in [*states.objects.filter(pk=plan.head_id), *rest.iterator()]:
            data = json.loads(zlib.decompress(bytes(state.document)))
            for space in data.get("spaces", []):
                survey = space.get("survey") or {}
                meter = tuple(survey.get(key, usual) for key, usual in METER)
                for reading in survey.get("readings", []):
                    key = (space["id"], reading["id"])
                    if key not in seen:
                        seen.add(key)
                        group = groups.setdefault((space["id"], meter), {"states": [], "readings": []})
                        group["states"].append((state.pk == plan.head_id, state.pk))
                        group["readings"].append((reading, state.pk != plan.head_id))
        _keep(apps, plan, groups)


def _keep(apps, plan, groups):
    surveys, readings = apps.get_model("logbook", "LightSurvey"), apps.get_model("logbook", "LightReading")
    # The present survey of a space is its last row: write it last.
    for (space_id, meter), group in sorted(groups.items(), key=lambda item: max(item[1]["states"])):
        said = dict(zip((key for key, _ in METER), meter))
        row = surveys.objects.create(plan=plan, space_id=space_id, state_id=max(group["states"])[1], **said)
        ordered = sorted(group["readings"], key=lambda item: int("0" + "".join(filter(str.isdigit, item[0]["id"]))))
        for number, (reading, struck) in enumerate(ordered, 1):
            place = {key: reading[key] for key in ("x_m", "y_m", "z_m", "value")}
            readings.objects.create(survey=row, number=number, struck=struck, **place)


class Migration(migrations.Migration):
    """Facts only; the plans' documents stay as they are, and are read without their readings from now on."""

    dependencies = [("logbook", "0001_initial"), ("planning", "0002_numbers_never_go_back")]

    operations = [migrations.RunPython(read_out, migrations.RunPython.noop)]
