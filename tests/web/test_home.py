"""The household page: what is judged already at once, the rest card by card, danger on top."""

from __future__ import annotations

import pytest
from django.urls import reverse

from canopy.evaluate.kept import forget
from canopy.plan.changes import Change
from canopy_web.household import views
from canopy_web.planning import actions

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def household(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


def test_what_is_not_judged_yet_is_asked_for_card_by_card(mine, household, monkeypatch):
    forget()
    monkeypatch.setattr(views, "_AT_ONCE_S", -1.0)
    page = mine.get("/").text
    ids = [space.id for space in views.to_plan(household).spaces]
    urls = [reverse("household:card", args=[household.pk, key]) for key in ids]
    assert [url for url in urls if url in page] == urls
    assert page.count("Being judged") == len(ids)
    # Watts, cost and the drawing need no judgement.
    assert "W with all on" in page
    assert page.count('class="figure"') == len(ids)
    card = mine.get(urls[1], headers=HTMX).text
    assert "Light on the plants" in card
    # Judged once, it stands in the next page at once.
    page = mine.get("/").text
    assert page.count("Being judged") == len(ids) - 1


def test_a_card_of_somebody_else_or_of_no_space_is_not_found(mine, household, django_user_model, client):
    assert mine.get(reverse("household:card", args=[household.pk, "nowhere"])).status_code == 404
    client.force_login(django_user_model.objects.create_user("stranger"))
    assert client.get(reverse("household:card", args=[household.pk, "berry-tent"])).status_code == 404


def test_an_overloaded_circuit_is_said_once_and_first(mine, household, demo_plan):
    load = {"id": "oven", "name": "Oven", "power_w": 3900, "schedule": {"kind": "daily", "hours": 5}}
    hall = demo_plan.circuits[0]
    loads = [*(item.model_dump(mode="json") for item in hall.other_loads), load]
    change = Change(collection="circuits", part_id=hall.id, values={"other_loads": loads})
    actions.change_household(household, [change], "Oven")
    page = mine.get("/").text
    assert page.count("Overloaded") == 1
    assert page.index("Overloaded") < page.index("<h1")
    assert "never fit a larger breaker" in page


def test_an_edit_of_one_space_leaves_the_others_reports_kept(mine, household, monkeypatch):
    for space in views.to_plan(household).spaces:
        mine.get(reverse("household:card", args=[household.pk, space.id]))
    page = mine.get("/").text
    assert "Being judged" not in page
    tent = views.to_plan(household).spaces[0]
    dim = Change(collection="fixtures", part_id=tent.fixtures[0].id, values={"dim": 0.31})
    actions.change_space(household, tent.id, [dim], "Dimmed")
    monkeypatch.setattr(views, "_AT_ONCE_S", -1.0)
    # Its own card alone waits, for the climate to be followed.
    assert mine.get("/").text.count("Being judged") == 1
