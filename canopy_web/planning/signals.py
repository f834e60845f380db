"""What others may want to know of plans."""

from django.dispatch import Signal

# A visitor's demo household was made; sent with its ``plan``, a GrowPlan.
demo_opened = Signal()
