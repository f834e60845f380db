"""Photographs of spaces."""

from typing import Any

from django.apps import AppConfig


def _hang_up(plan: Any, **signal: Any) -> None:
    """Let a visitor's household have its pictures; what that needs is fetched with the first of them."""
    from canopy_web.photos.living import hang_up

    hang_up(plan)


class PhotosConfig(AppConfig):
    """Photographs, each re-encoded before it is kept."""

    name = "canopy_web.photos"
    label = "photos"

    def ready(self) -> None:
        """Let a demo's household have pictures."""
        from canopy_web.planning.signals import demo_opened

        demo_opened.connect(_hang_up, dispatch_uid="hang-up")
