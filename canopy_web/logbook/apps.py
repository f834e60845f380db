"""Facts beside the plans."""

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    """What meters read, kept for good: a fact is struck, not erased."""

    name = "canopy_web.logbook"
    label = "logbook"
