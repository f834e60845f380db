"""Facts beside the plans."""

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    """What meters read, kept for good: a fact is struck, not erased."""

    name = "canopy_web.logbook"
    label = "logbook"

    def ready(self) -> None:
        """Let a demo's household be lived in."""
        from canopy_web.logbook.living import move_in
        from canopy_web.planning.signals import demo_opened

        demo_opened.connect(move_in, dispatch_uid="move-in")
