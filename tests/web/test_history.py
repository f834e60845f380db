"""The chain of states: nothing lost, nothing half done."""

import datetime as dt
import stat

import pytest
from django.contrib.auth import get_user_model
from django.core.management import call_command

from canopy.errors import PlanError
from canopy.plan.changes import Change
from canopy.plan.edit import change_plan
from canopy_web.logbook.models import LightSurvey
from canopy_web.planning import actions
from canopy_web.planning.folding import fold
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import from_plan, state_to_plan, to_plan

pytestmark = pytest.mark.django_db


def _name(row, name):
    return actions.change_household(row, [Change(values={"name": name})], f"Named {name}")


def test_a_state_keeps_the_whole_document_small(row, demo_plan):
    raw = from_plan(demo_plan)
    assert len(raw) < 10_000
    state = PlanState(plan=row, document=raw)
    assert state_to_plan(state) == demo_plan


def test_every_act_adds_one_state_with_its_label(row):
    _name(row, "One")
    fresh = _name(row, "Two")
    labels = list(PlanState.objects.filter(plan=row).values_list("label", flat=True))
    assert labels == ["New plan", "Named One", "Named Two"]
    assert fresh.head.parent.label == "Named One"
    assert str(fresh) == "Two"
    assert str(fresh.head) == "Named Two"


def test_an_act_that_changes_nothing_adds_nothing(row):
    actions.change(row, "Nothing", lambda plan: plan)
    assert PlanState.objects.count() == 1


def test_an_act_that_fails_leaves_everything_as_it_was(row, small_plan):
    with pytest.raises(PlanError):
        actions.change_space(row, "box", [Change(values={"size.width_m": 0.15})], "Too small")
    assert PlanState.objects.count() == 1
    assert to_plan(GrowPlan.objects.get(pk=row.pk)) == small_plan


def test_a_stale_page_does_not_undo_what_another_changed(row):
    stale = GrowPlan.objects.get(pk=row.pk)
    _name(row, "Renamed")
    actions.confirm_assumption(stale, "box", "room")
    plan = to_plan(GrowPlan.objects.get(pk=row.pk))
    assert plan.name == "Renamed"
    assert "room" not in plan.spaces[0].assumed


def test_redo_follows_the_latest_branch_and_the_other_is_kept(row):
    _name(row, "Left")
    assert actions.undo(row) == "Named Left"
    _name(row, "Right")
    assert actions.undo(row) == "Named Right"
    assert actions.redo(row) == "Named Right"
    assert actions.redo(row) is None
    assert GrowPlan.objects.get(pk=row.pk).name == "Right"
    assert PlanState.objects.filter(label="Named Left").exists()


def test_undo_stops_at_the_first_state(row):
    assert actions.undo(row) is None
    assert GrowPlan.objects.get(pk=row.pk).head.label == "New plan"


def test_long_labels_are_cut_not_refused(row):
    actions.change(row, "x" * 500, lambda plan: change_plan(plan, {"name": "Long"}))
    assert len(PlanState.objects.latest("pk").label) == 200


def test_a_plan_goes_with_its_owner_and_all_its_states(row, grower):
    _name(row, "Gone")
    grower.delete()
    assert not PlanState.objects.exists()


def test_the_demo_command_can_be_run_again(capsys):
    call_command("load_demo")
    call_command("load_demo")
    assert not get_user_model().objects.exists()
    assert capsys.readouterr().out.count("demo ready: Larkspur Lane") == 2


def test_the_secret_key_is_this_installation_s_own(settings):
    path = settings.DATA / "secret-key"
    assert path.read_text().strip() == settings.SECRET_KEY
    assert len(settings.SECRET_KEY) > 60
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_only_the_loopback_is_served_unless_told_otherwise(client):
    assert client.get("/account/sign-in/", headers={"host": "evil.invalid"}).status_code == 400
    assert client.get("/account/sign-in/", headers={"host": "127.0.0.1:8000"}).status_code == 200


@pytest.fixture
def long_ago(row):
    """A plan with three sittings of five changes each, and what came of it."""
    begin = dt.datetime(2026, 3, 1, 9, tzinfo=dt.UTC)
    for sitting in range(3):
        for change in range(5):
            _name(row, f"House {sitting}.{change}")
            at = begin + dt.timedelta(days=sitting, minutes=4 * change)
            PlanState.objects.filter(pk=PlanState.objects.latest("pk").pk).update(created=at)
    PlanState.objects.filter(plan=row, parent=None).update(created=begin - dt.timedelta(days=1))
    row.refresh_from_db()
    return row


def _labels(row):
    return list(row.states.order_by("pk").values_list("label", flat=True))


def test_of_each_sitting_long_past_the_last_state_stays_and_undo_leads_through_them(long_ago):
    assert fold(long_ago, latest=5) == 8
    assert _labels(long_ago)[:3] == ["New plan", "Named House 0.4 and 4 more", "Named House 1.4 and 4 more"]
    assert len(_labels(long_ago)) == 8
    # The present is untouched, and one gets back to the very first state.
    assert to_plan(long_ago).name == "House 2.4"
    undone = []
    while (label := actions.undo(long_ago)) is not None:
        undone.append(label)
    assert undone[-2:] == ["Named House 1.4 and 4 more", "Named House 0.4 and 4 more"]
    long_ago.refresh_from_db()
    assert to_plan(long_ago).name != "House 0.0"
    assert fold(long_ago, latest=5) == 0


def test_a_state_that_a_fact_points_at_and_one_that_branches_are_never_folded(long_ago):
    states = list(long_ago.states.order_by("pk"))
    LightSurvey.objects.create(plan=long_ago, space_id="s", state=states[2], taken_on=dt.date(2026, 3, 1))
    PlanState.objects.create(plan=long_ago, parent=states[7], label="Undone since", document=states[7].document)
    fold(long_ago, latest=5)
    left = set(long_ago.states.values_list("pk", flat=True))
    assert {states[2].pk, states[7].pk} <= left
    assert LightSurvey.objects.get().state_id == states[2].pk


def test_history_is_folded_by_itself_once_it_is_long(row, monkeypatch):
    monkeypatch.setattr(actions, "FROM", 12)
    monkeypatch.setattr(actions, "fold", lambda plan: fold(plan, latest=6))
    for change in range(30):
        _name(row, f"House {change}")
    assert row.states.count() <= 13
    assert to_plan(GrowPlan.objects.get(pk=row.pk)).name == "House 29"
