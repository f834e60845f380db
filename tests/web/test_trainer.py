"""The trainer's pages: the list with one's best, a course by moves, and what is told and kept."""

import json

import pytest
from django.test import Client
from django.urls import reverse

from canopy.trainer import scenarios
from canopy_web.trainer.models import BestResult

pytestmark = pytest.mark.django_db
GOOD = [{"at_h": 0.0, "knob": "fan", "value": 0.3}, {"at_h": 0.0, "knob": "mist", "value": 60}]


def _post(mine, name, moves, scenario="dry-cabinet"):
    address = reverse(f"trainer:{name}", args=[scenario])
    return mine.post(address, json.dumps({"moves": moves}), content_type="application/json")


@pytest.mark.parametrize("scenario", scenarios().values(), ids=lambda item: item.id)
def test_each_scenario_has_its_page_with_all_its_knobs(mine, scenario):
    page = mine.get(reverse("trainer:play", args=[scenario.id])).content.decode()
    assert all(f'data-knob="{knob.id}"' in page for knob in scenario.knobs)
    assert page.count('class="course"') == len(scenario.goals)
    assert page.count("data-begins") == len(scenario.knobs)


def test_a_course_is_simulated_to_its_end(mine):
    found = _post(mine, "run", GOOD).json()
    assert len(found["hours"]) == len(found["goals"][0]["values"]) == len(found["lit"]) == 300
    assert found["goals"][0]["values"][-1] == pytest.approx(60, abs=4)
    assert found["goals"][0]["credit"][-1] == 1


def test_the_best_result_is_kept_and_told(mine, grower):
    assert "An even hand reaches" in _post(mine, "finish", []).content.decode()
    first = BestResult.objects.get(user=grower)
    told = _post(mine, "finish", GOOD).content.decode()
    assert "your best" in told
    assert "07:00 Fan: 30 %" in told
    row = BestResult.objects.get(user=grower)
    assert row.score > first.score
    assert row.moves == GOOD
    _post(mine, "finish", [])
    assert BestResult.objects.get(user=grower).score == row.score
    assert BestResult.objects.get(user=grower).times == 3
    assert f"{row.score:.0f}" in mine.get(reverse("trainer:list")).content.decode()


def test_in_us_units_a_course_is_in_fahrenheit(mine):
    mine.post(reverse("accounts:preferences"), {"units": "us", "next": "/"})
    found = _post(mine, "run", GOOD).json()
    assert 65 < found["goals"][1]["values"][-1] < 85
    assert "°F" in mine.get(reverse("trainer:play", args=["dry-cabinet"])).content.decode()


@pytest.mark.parametrize(
    "body", ["", "[]", '{"moves": 3}', '{"moves": [{"at_h": 1}]}', '{"moves": [{"at_h": 1, "knob": "x", "value": 1}]}']
)
def test_moves_that_cannot_be_read_are_refused(mine, body):
    for name in ("run", "finish"):
        address = reverse(f"trainer:{name}", args=["dry-cabinet"])
        assert mine.post(address, body, content_type="application/json").status_code == 400
    assert not BestResult.objects.exists()


def test_what_is_not_there_is_not_found_and_nobody_plays_unsigned(mine):
    assert mine.get(reverse("trainer:play", args=["flood"])).status_code == 404
    assert Client().get(reverse("trainer:list")).status_code == 302
