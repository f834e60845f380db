"""The day a photograph was taken, beside the moment it was kept."""

from django.db import migrations, models


def fill(apps, schema_editor):
    """Photographs kept so far were taken, as far as anybody knows, on the day they were sent."""
    photos = apps.get_model("photos", "SpacePhoto")
    for photo in photos.objects.filter(day=None).iterator():
        photos.objects.filter(pk=photo.pk).update(day=photo.taken.date())


class Migration(migrations.Migration):
    """Add the day, filled from when each was kept."""

    dependencies = [("photos", "0001_initial")]

    operations = [
        migrations.AddField(model_name="spacephoto", name="day", field=models.DateField(null=True)),
        migrations.RunPython(fill, migrations.RunPython.noop, elidable=True),
        migrations.AlterField(model_name="spacephoto", name="day", field=models.DateField()),
        migrations.AlterModelOptions(name="spacephoto", options={"ordering": ["-day", "-taken", "-pk"]}),
    ]
