"""Make the demo's person and household; does nothing where they are there already."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from canopy_web.planning.actions import DEMO_USER, open_demo


class Command(BaseCommand):
    """Load the demo."""

    help = "Make the demo's person and household, unless they are there"

    def handle(self, *args: Any, **options: Any) -> None:
        user, made = get_user_model().objects.get_or_create(username=DEMO_USER)
        if made:
            user.set_unusable_password()
            user.save()
        open_demo(user)
        self.stdout.write("demo household ready")
