"""A row that is sent as a whole: what is refused of it keeps its text, and the rest is taken."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from django.db import transaction

from canopy.errors import EvaluationError, PlanConflictError, PlanError
from canopy_web.forms.part import PartForm

Answer = TypeVar("Answer")
# Each field that the plan refuses is set aside in its turn.
_ROUNDS = 6


def take_row(form: PartForm, act: Callable[[], Answer]) -> Answer | None:
    """Do an act with those fields of a form that hold, in one transaction; None when none does, or they hang together.

    The form says afterwards what was refused, field by field.
    """
    form.full_clean()
    for _ in range(_ROUNDS):
        if form.errors and not form.others_hold:
            return None
        try:
            with transaction.atomic():
                return act()
        except PlanConflictError as error:
            form.clash(error)
        except PlanError as error:
            form.take(error)
        except EvaluationError as error:
            form.add_error(None, f"{error}.")
    return None
