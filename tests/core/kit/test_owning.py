"""What one may own goes by the names that lines of a kit have."""

import pytest

from canopy.kit import kit_of
from canopy.kit.owning import ownable
from canopy.plan import dumps, loads
from canopy.plan.stock import alike
from tests.core.kit.test_kit_and_build import _report

KINDS = {"lamp", "fan", "case-fan", "filter", "stirrer", "device"}


def test_every_thing_has_a_name_of_its_own():
    things = ownable().values()
    assert len({alike(item.kind, item.name) for item in things}) == len(things)
    for item in things:
        assert item.item(2).number == 2
        assert (item.lamp is not None) == (item.kind == "lamp")


@pytest.mark.parametrize("space_id", ["berry-tent", "hall-closet"])
def test_what_is_written_down_is_not_bought(demo_plan, space_id):
    owned = tuple(item.item(50) for item in ownable().values())
    plan = loads(dumps(demo_plan.model_copy(update={"stock": owned})))
    kit = kit_of([_report(plan, space_id)])
    lines = [line for line in kit.lines if line.like.partition("|")[0] in KINDS]
    assert len(lines) >= 3
    assert [line.name for line in lines if line.to_get > 0] == []
