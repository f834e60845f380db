"""Reads of a person's own crops."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import models

from canopy.library import Crop
from canopy_web.library.models import OwnCrop


def own_rows(user: Any) -> models.QuerySet[OwnCrop]:
    """A person's own crops as rows."""
    return OwnCrop.objects.filter(owner=user)


def own_crops(user: Any) -> Mapping[str, Crop]:
    """A person's own crops by id."""
    return {row.key: Crop.model_validate(row.document) for row in own_rows(user)}
