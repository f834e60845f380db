"""Season: stages on dates, growth between them, and how a space stands on any day."""

from canopy.season.calendar import Harvest, StageSpan, harvest, span_on, spans
from canopy.season.growth import Form, form_on, slowdown
from canopy.season.standing import Cast, Growing, Standing, cast_of, standing_of

__all__ = [
    "Cast", "Form", "Growing", "Harvest", "StageSpan", "Standing", "cast_of", "form_on", "harvest", "slowdown", "span_on",
    "spans", "standing_of",
]  # fmt: skip
