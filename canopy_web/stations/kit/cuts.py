"""The cut list as it is drawn, and the sizes in which one buys what is cut."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.kit.cuts import cuts_of
from canopy.kit.sheets import Sheet
from canopy.margin import Amount
from canopy.plan.changes import Change
from canopy.quantities import DIAMETER, LENGTH
from canopy_web.forms.fields import QuantityField
from canopy_web.forms.part import PartForm
from canopy_web.planning import actions
from canopy_web.workspace.reply import attempt_row
from canopy_web.workspace.where import Where, at_space

_WIDE_PX = 300.0
# A piece flatter than this on the drawing carries no number of its own.
_LABEL_PX = 14.0


class SizesForm(PartForm):
    """The sizes in which one buys what is cut."""

    bar_m = QuantityField(LENGTH, 0.2, 12, label="bars")
    board_long_m = QuantityField(LENGTH, 0.2, 6, label="boards, long")
    board_wide_m = QuantityField(LENGTH, 0.05, 3, label="boards, wide")
    roll_wide_m = QuantityField(LENGTH, 0.1, 6, label="film, wide")
    foam_long_m = QuantityField(LENGTH, 0.2, 6, label="insulation, long")
    foam_wide_m = QuantityField(LENGTH, 0.1, 3, label="insulation, wide")
    kerf_m = QuantityField(DIAMETER, 0, 0.01, label="a saw takes")


def sizes_form(where: Where, data: Any = None) -> SizesForm:
    """The form of the sizes, as they are or as they were sent."""
    record = where.drawn.bought_in.model_dump(mode="json")
    return SizesForm(record, data, system=where.system, prefix="sizes")


@require_POST
@at_space
def edit_sizes(request: HttpRequest, where: Where) -> HttpResponse:
    """Say in which sizes one buys bars, boards, film and insulation."""
    form = sizes_form(where, request.POST)

    def act() -> Where:
        acts = [Change(at=("bought_in",), values=form.changes(), was=form.seen())]
        return where.again(actions.change_household(where.row, acts, "Changed the sizes that are bought"))

    return attempt_row(request, where, form, "sizes", act)


def cut_sheets(where: Where) -> dict[str, Any]:
    """Lay out the cut list as it is drawn: bars as strips, boards, insulation and film as sheets."""
    sizes = where.plan.bought_in
    found = cuts_of(where.space, sizes)

    def text(value_mm: float) -> str:
        return f"{value_mm:.0f} mm" if where.system != "us" else Amount(value=value_mm / 1000, unit="length").text("us")

    def drawn(name: str, sheet: Sheet) -> dict[str, Any]:
        scale = _WIDE_PX / max(sheet.wide_mm, sheet.long_mm)
        return {
            "name": name,
            "size": f"{text(sheet.wide_mm)} × {text(sheet.long_mm)}",
            "used": f"{100 * sheet.used_share:.0f} %",
            "box": (sheet.long_mm * scale, sheet.wide_mm * scale),
            "pieces": [
                {
                    "name": item.piece.name,
                    "size": f"{text(item.piece.long_mm)} × {text(item.piece.wide_mm)}",
                    "x": item.along_mm * scale,
                    "y": item.across_mm * scale,
                    "w": item.piece.long_mm * scale,
                    "h": item.piece.wide_mm * scale,
                    "tall": item.piece.wide_mm * scale >= _LABEL_PX,
                    "number": number,
                }
                for number, item in enumerate(sheet.placed, 1)
            ],
        }

    sheets = [drawn(f"Board {number}", sheet) for number, sheet in enumerate(found.boards, 1)]
    sheets += [drawn(f"Insulation {number}", sheet) for number, sheet in enumerate(found.foam, 1)]
    sheets += [drawn(f"{name}, off the roll", sheet) for name, sheet in found.film]
    stock = text(1000 * sizes.bar_m)
    return {
        "empty": found.empty,
        "wrong": found.wrong,
        "bars": [
            (number, stock, " + ".join(text(piece) for piece in bar.pieces_mm), text(bar.left_mm))
            for number, bar in enumerate(found.bars, 1)
        ],
        "sheets": sheets,
        "glass": [(piece.name, f"{text(piece.long_mm)} × {text(piece.wide_mm)}") for piece in found.glass],
    }
