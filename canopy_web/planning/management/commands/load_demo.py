"""Make ready for a demo: what visitors of the day before left is swept away, and the demo household can be opened."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from canopy.plan import loads
from canopy_web.planning.actions import DEMO_FILE, sweep_demo


class Command(BaseCommand):
    """Make ready for a demo."""

    help = "Sweep away what visitors of the demo left a day ago, and check the demo household"

    def handle(self, *args: Any, **options: Any) -> None:
        gone, plan = sweep_demo(), loads(DEMO_FILE.read_bytes())
        self.stdout.write(f"demo ready: {plan.name}, {len(plan.spaces)} spaces; {gone} old visitors swept away")
