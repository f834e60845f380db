"""Numbers for ids never go back: begin behind the highest one that any state of a plan's history has used."""

import json
import re
import zlib

import django.db.models.deletion
from django.db import migrations, models

NUMBER = re.compile(r"(\d{1,8})$")


def highest(data):
    """Give the highest number that an id in a plan's data ends in."""
    if isinstance(data, dict):
        found = NUMBER.search(data["id"]) if isinstance(data.get("id"), str) else None
        return max([int(found[1]) if found else 0, *(highest(value) for value in data.values())])
    return max(map(highest, data), default=0) if isinstance(data, list) else 0


def begin_behind(apps, schema_editor):
    """Look through every state of every plan."""
    plans, states = apps.get_model("planning", "GrowPlan"), apps.get_model("planning", "PlanState")
    for plan in plans.objects.all():
        most = 0
        for document in states.objects.filter(plan=plan).values_list("document", flat=True).iterator():
            most = max(most, highest(json.loads(zlib.decompress(bytes(document)))))
        plans.objects.filter(pk=plan.pk).update(serial=most + 1)


class Migration(migrations.Migration):
    """Add the number; a plan's head no longer stands in the way of deleting the plan."""

    dependencies = [("planning", "0001_initial")]

    operations = [
        migrations.AddField(model_name="growplan", name="serial", field=models.PositiveIntegerField(default=1)),
        migrations.AlterField(
            model_name="growplan",
            name="head",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.RESTRICT, related_name="+", to="planning.planstate"
            ),
        ),
        migrations.RunPython(begin_behind, migrations.RunPython.noop),
    ]
