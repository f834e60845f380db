"""Facts beside the plans."""

from __future__ import annotations

from typing import Any

from django.apps import AppConfig


def _move_in(plan: Any, **signal: Any) -> None:
    """Let a visitor's household be lived in; what that needs is fetched with the first of them."""
    from canopy_web.logbook.living import move_in

    move_in(plan)


class LogbookConfig(AppConfig):
    """What meters read, kept for good: a fact is struck, not erased."""

    name = "canopy_web.logbook"
    label = "logbook"

    def ready(self) -> None:
        """Let a demo's household be lived in."""
        from canopy_web.planning.signals import demo_opened

        demo_opened.connect(_move_in, dispatch_uid="move-in")
