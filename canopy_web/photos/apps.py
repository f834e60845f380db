"""Photographs of spaces."""

from django.apps import AppConfig


class PhotosConfig(AppConfig):
    """Photographs, each re-encoded before it is kept."""

    name = "canopy_web.photos"
    label = "photos"
