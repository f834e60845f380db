"""The workspace app; it warms the library and the light engine so that the first page is quick."""

from django.apps import AppConfig


class WorkspaceConfig(AppConfig):
    """The workspace."""

    name = "canopy_web.workspace"
    label = "workspace"
