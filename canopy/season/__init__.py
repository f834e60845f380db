"""Season: stages on dates, growth between them, and how a space stands on any day."""

from canopy.season.calendar import Harvest, StageSpan, harvest, span_on, spans
from canopy.season.growth import Form, form_on, mass_left, pace, slowdown
from canopy.season.sowing import (
    Sowing,
    begin_with,
    container_values,
    copy_planting,
    ground_of,
    let_follow_days,
    move_on,
    sow,
    stands_for,
    undated_kinds,
    usual_container,
)
from canopy.season.standing import Cast, Growing, Standing, cast_of, day_to_show, standing_of

__all__ = [
    "Cast",
    "Form",
    "Growing",
    "Harvest",
    "Sowing",
    "StageSpan",
    "Standing",
    "begin_with",
    "cast_of",
    "container_values",
    "copy_planting",
    "day_to_show",
    "form_on",
    "ground_of",
    "harvest",
    "let_follow_days",
    "mass_left",
    "move_on",
    "pace",
    "slowdown",
    "sow",
    "span_on",
    "spans",
    "standing_of",
    "stands_for",
    "undated_kinds",
    "usual_container",
]
