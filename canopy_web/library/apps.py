"""The library's part of the site."""

from django.apps import AppConfig


class LibraryConfig(AppConfig):
    """Crops, and a person's own copies of them."""

    name = "canopy_web.library"
    label = "library"
