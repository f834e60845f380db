"""What is said of a space that could not be computed: that, and nothing else."""

from __future__ import annotations

from canopy.errors import EvaluationError
from canopy.margin import Margin, Working, sentence


def unjudged_margin(error: EvaluationError) -> Margin:
    """Say that a space could not be computed.

    Parameters
    ----------
    error : why not

    Returns
    -------
    Margin : "unknown"; nothing of the space counts as judged
    """
    return Margin(
        id="space.unjudged",
        station="space",
        title="Not judged",
        verdict="unknown",
        need=sentence("figures that can be computed"),
        there=sentence("none"),
        why=sentence(
            "This space could not be computed, so nothing of it is judged. Undo the last change, or bring its parts "
            "back to usual figures below."
        ),
        working=Working(formula="—", steps=(), source=str(error).replace("{", "(").replace("}", ")"), certainty="—"),
    )
