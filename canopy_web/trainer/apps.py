"""The application of the trainer."""

from django.apps import AppConfig


class TrainerConfig(AppConfig):
    """Best results of scenarios."""

    name = "canopy_web.trainer"
    default_auto_field = "django.db.models.BigAutoField"
