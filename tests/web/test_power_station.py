"""The Power station: outlets and what is plugged in, tracing by breakers, and the day on every circuit."""

import json
import re

import pytest
from django.urls import reverse

from canopy.evaluate import evaluate_space
from canopy.evaluate.power.loads import household_tree
from canopy.margin import worst
from canopy.power import coinciding_w
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    """The demo household as the person's own."""
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def power(house):
    return f"/plans/{house.pk}/spaces/berry-tent/power/"


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _post(client, url, **data):
    return client.post(url, data, headers=HTMX)


@pytest.fixture
def strip(mine, house, power):
    """An outlet of the hall's circuit with a strip in it."""
    _post(mine, f"{power}outlets/add/", circuit="hall")
    (outlet,) = _plan(house).outlets
    _post(mine, f"{power}carriers/add/", kind="strip", into=outlet.id)
    (carrier,) = _plan(house).carriers
    return carrier


def test_an_outlet_and_a_strip_are_added_and_changed(mine, house, power, strip):
    plan = _plan(house)
    assert plan.outlets[0].circuit_id == "hall"
    assert strip.into == plan.outlets[0].id
    prefix = f"carrier-{strip.id}-"
    data = {
        "name": "Strip behind the tent",
        "into": strip.into,
        "limit_w": "2300",
        "heaters": "False",
        "length_m": "1.5 m",
    }
    reply = _post(
        mine, f"{power}carriers/{strip.id}/?tab=plugs", **{prefix + key: value for key, value in data.items()}
    )
    assert "Strip behind the tent" in reply.content.decode()
    changed = _plan(house).carriers[0]
    assert (changed.name, changed.limit_w, changed.heaters, changed.length_m) == (
        "Strip behind the tent",
        2300,
        False,
        1.5,
    )
    outlet = plan.outlets[0].id
    fields = {"name": "By the door", "rcd": "True", "height_m": "30 cm", "rated_a": "13"}
    _post(mine, f"{power}outlets/{outlet}/", **{f"outlet-{outlet}-{key}": value for key, value in fields.items()})
    item = _plan(house).outlets[0]
    assert (item.name, item.rcd, item.height_m, item.rated_a) == ("By the door", True, 0.3, 13)


def test_a_wrong_figure_stays_in_its_field_and_nothing_is_stored(mine, house, power, strip):
    prefix = f"carrier-{strip.id}-"
    data = {"name": strip.name, "into": strip.into, "limit_w": "much"}
    page = _post(mine, f"{power}carriers/{strip.id}/?tab=plugs", **{prefix + key: value for key, value in data.items()})
    text = page.content.decode()
    assert 'value="much"' in text
    assert _plan(house).carriers[0].limit_w is None


def test_a_lamp_is_plugged_into_the_strip_pinned_and_let_go(mine, house, power, strip):
    lamp = _plan(house).space("berry-tent").fixtures[0].id
    _post(mine, f"{power}plug/", part=lamp, into=strip.id)
    found = _plan(house).space("berry-tent").fixtures[0]
    assert (found.plug, found.pinned) == (strip.id, False)
    _post(mine, f"{power}plug/", part=lamp, pin="yes")
    found = _plan(house).space("berry-tent").fixtures[0]
    assert (found.plug, found.pinned) == (strip.id, True)
    page = mine.get(f"{power}?tab=plugs").content.decode()
    assert re.search(rf'data-node="{strip.id}".*?data-part="{lamp}"', page, re.S)
    _post(mine, f"{power}plug/", part=lamp, into="")
    assert _plan(house).space("berry-tent").fixtures[0].plug is None


def test_a_strip_taken_away_hands_on_what_hung_on_it(mine, house, power, strip):
    lamp = _plan(house).space("berry-tent").fixtures[0].id
    _post(mine, f"{power}plug/", part=lamp, into=strip.id)
    _post(mine, f"{power}unplug/carriers/{strip.id}/")
    plan = _plan(house)
    assert plan.carriers == ()
    assert plan.space("berry-tent").fixtures[0].plug == plan.outlets[0].id
    _post(mine, f"{power}unplug/outlets/{plan.outlets[0].id}/")
    plan = _plan(house)
    assert plan.outlets == ()
    assert plan.space("berry-tent").fixtures[0].plug is None


def test_one_cannot_be_plugged_into_itself_or_nothing(mine, house, power, strip):
    before = _plan(house)
    _post(mine, f"{power}plug/", part=before.space("berry-tent").fixtures[0].id, into="no-such")
    assert _post(mine, f"{power}carriers/add/", kind="rope", into=strip.id).status_code == 404
    assert _post(mine, f"{power}unplug/spaces/berry-tent/").status_code == 404
    assert _post(mine, f"{power}outlets/add/", circuit="no-such").status_code == 404
    assert _plan(house) == before


def test_what_went_dark_hangs_on_the_breaker_that_was_off(mine, house, power):
    plan = _plan(house)
    fixtures = plan.space("berry-tent").fixtures
    dark = [f"berry-tent/{fixtures[0].id}"]
    page = _post(mine, f"{power}trace/", circuit="living", dark=dark).content.decode()
    assert "Traced 1 plug to" in page
    plan = _plan(house)
    plug = plan.space("berry-tent").fixtures[0].plug
    assert plug is not None
    outlet = next(item for item in plan.outlets if item.id == plug)
    assert outlet.circuit_id == "living"
    nothing = _post(mine, f"{power}trace/", circuit="living").content.decode()
    assert "Nothing was ticked" in nothing


def test_a_circuit_wears_the_worst_of_its_margins(mine, house, power):
    plan = _plan(house)
    report = evaluate_space(plan, plan.space("berry-tent"))
    found = worst([m for m in report.margins if m.id in ("power.circuit", "power.outlet", "power.surge.hall")])
    assert found == "over"
    page = mine.get(f"{power}?tab=plugs").content.decode()
    head = re.search(r'data-node="hall".*?<b>', page, re.S)[0]
    assert f"v-{found}" in head


def test_another_persons_plugs_are_not_shown(client, other, power):
    client.force_login(other)
    assert client.get(f"{power}?tab=plugs").status_code == 404
    assert _post(client, f"{power}outlets/add/", circuit="hall").status_code == 404


def test_the_day_on_the_circuit_tells_the_margin_s_figure(mine, house, power):
    page = mine.get(f"{power}?tab=hours").content.decode()
    most = round(float(coinciding_w([h.load for h in household_tree(_plan(house)).under("hall")]).max()))
    assert f"up to {most} W may be on" in re.sub(r"\s+", " ", page)
    # What may start at any time is told, and in no band of the clock's.
    scrub = json.loads(re.search(r'id="scrub-data"[^>]*>(.*?)</script>', page, re.S)[1])
    (hall,) = scrub
    assert len(hall["may"]) == 288
    assert not any("dryer" in load["name"].lower() for load in hall["loads"])
    assert re.search(r"Tumble dryer.*?at any time", page, re.S)
    assert max(sum(column) for column in zip(*(load["watts"] for load in hall["loads"]), strict=True)) < max(
        hall["may"]
    )


def test_the_coldest_day_is_kept_in_the_address_and_nonsense_is_a_usual_day(mine, power):
    page = mine.get(f"{power}?tab=hours&season=coldest").content.decode()
    assert re.search(r'value="coldest"\s+selected', page)
    page = mine.get(f"{power}?tab=hours&season=nonsense").content.decode()
    assert re.search(r'value="day"\s+selected', page)


def test_the_timer_sheet_tells_each_lamp_s_hours(mine, power):
    page = re.sub(r"\s+", " ", mine.get(f"{power}?tab=timers").content.decode())
    assert "lamp 2, LED board, 150 W class" in page
    assert page.count("timer: on 06:00, off 20:30") == 2
    assert "Hall closet" not in page[page.index("What to set") : page.index("By day is while")]


def test_a_chained_strip_is_mended_by_one_click(mine, house, power, strip):
    _post(mine, f"{power}carriers/add/", kind="strip", into=strip.id)
    second = _plan(house).carriers[1]
    lamp = _plan(house).space("berry-tent").fixtures[0].id
    _post(mine, f"{power}plug/", part=lamp, into=second.id)
    page = mine.get(f"{power}remedy/power.plug.{second.id}/", headers=HTMX).content.decode()
    assert "straight into Outlet 1" in page
    _post(mine, f"{power}remedy/power.plug.{second.id}/", key="first")
    assert _plan(house).carriers[1].into == strip.into
    _post(mine, f"{power}undo/")
    assert _plan(house).carriers[1].into == strip.id


def test_times_are_staggered_and_the_circuit_is_legal(mine, house, power):
    page = mine.get(f"{power}?tab=settle").content.decode()
    assert "overloaded" in page
    shown = mine.get(f"{power}stagger/?most_h=0", headers=HTMX).content.decode()
    assert "Run Tumble dryer from" in shown
    assert "Still over by" in shown
    before = _plan(house)
    assert before.circuits[0].other_loads[1].any_time
    after = _post(mine, f"{power}stagger/", most_h="0").content.decode()
    assert "overloaded" not in after
    loads = {item.id: item for item in _plan(house).circuits[0].other_loads}
    assert loads["load-2"].schedule.start is not None
    assert _plan(house).spaces == before.spaces
    assert actions.undo(GrowPlan.objects.select_related("head").get(pk=house.pk))
    assert _plan(house) == before


def test_things_are_spread_over_circuits_across_spaces(mine, house, power):
    shown = mine.get(f"{power}spread/", headers=HTMX).content.decode()
    assert "into other circuits" in shown
    _post(mine, f"{power}spread/")
    plan = _plan(house)
    tree = household_tree(plan)
    moved = {(h.space_id, h.load.part_id) for h in tree.under("living")} - {
        (h.space_id, h.load.part_id) for h in household_tree(to_plan(house)).under("living")
    }
    assert {space for space, _ in moved} <= {"berry-tent", "hall-closet"}
    assert moved


def test_a_load_of_the_household_says_how_it_runs(mine, house):
    url = reverse("household:household", args=[house.pk])

    def send(**values):
        shown = {"name": "Tumble dryer", "power_w": "2150 W", "runs": "any", "start": "", "hours_per_day": "3 h"}
        data = {f"hall-load-2-{key}": text for key, text in {**shown, **values}.items()}
        page = _post(mine, url, what="load", circuit="hall", load="load-2", **data).content.decode()
        return page, _plan(house).circuits[0].other_loads[1]

    _, load = send(runs="at", start="13:00")
    assert (load.schedule.start, load.schedule.hours, load.any_time) == ("13:00", 3, False)
    page, load = send(runs="at", start="25:00")
    assert "type a time as 18:30" in page
    assert 'value="25:00"' in page
    assert load.schedule.start == "13:00"
    _, load = send(runs="always")
    assert load.schedule.kind == "always"
    _, load = send(runs="itself", hours_per_day="10 h")
    assert (load.schedule.start, load.schedule.hours, load.any_time) == (None, 10, False)
    _, load = send(runs="any", hours_per_day="2 h")
    assert (load.schedule.hours, load.any_time) == (2, True)


def test_a_tariff_by_hours_is_typed_and_one_with_gaps_refused(mine, house, power):
    url = reverse("household:household", args=[house.pk])
    shown = {"name": "Larkspur Lane", "currency": "EUR", "price_per_kwh": "0.31", "standing_per_day": "0"}

    def send(rates, **values):
        data = {f"household-{key}": text for key, text in {**shown, "rates": rates, **values}.items()}
        return _post(mine, url, what="household", **data).content.decode()

    page = send("0.40 07:00-22:00")
    assert "There is no price on Mon from 00:00 to 07:00 in Jan" in page
    assert "0.40 07:00-22:00" in page
    assert _plan(house).tariff.rates == ()
    page = send("0.40 07:00-22:00\r\n0.2 22:00-07:00", standing_per_day="0.5")
    tariff = _plan(house).tariff
    assert [rate.price_per_kwh for rate in tariff.rates] == [0.4, 0.2]
    assert tariff.standing_per_day == 0.5
    states = house.states.count()
    send("0.4 07:00-22:00\r\n0.2 22:00-07:00", standing_per_day="0.5")
    assert house.states.count() == states
    page = mine.get(f"{power}?tab=cost").content.decode()
    assert "Standing charge" in page
    assert "priced at the hours" in page


def test_a_variant_is_kept_compared_and_put_back(mine, house, power):
    page = _post(mine, f"{power}variant/?tab=cost", **{"variant-name": "", "variant-price": "x"}).content.decode()
    assert "This field is required" in page
    before = _plan(house)
    _post(mine, f"{power}variant/", **{"variant-name": "As bought", "variant-price": "420"})
    assert _plan(house) == before
    (variant,) = house.variants.all()
    mine.post(f"{power.replace('/power/', '/light/')}part/fixtures/lamp-1/", {"lamp-1-dim": "50 %"}, headers=HTMX)
    changed = _plan(house)
    assert changed != before
    page = mine.get(f"{power}?tab=cost&against=variant-{variant.pk}").content.decode()
    assert "As it is now saves" in re.sub(r"\s+", " ", page)
    assert "420" in page
    page = mine.get(f"{power}?tab=cost&against=space-hall-closet&one_price=900&two_price=100").content.decode()
    assert re.search(r"has paid for itself after|does not pay for itself", page)
    _post(mine, f"{power}variant/{variant.pk}/", use="yes")
    assert _plan(house).space("berry-tent") == before.space("berry-tent")
    _post(mine, f"{power}variant/{variant.pk}/")
    assert not house.variants.exists()


def test_an_expected_harvest_prices_its_unit(mine, house, power):
    _post(
        mine,
        f"{power}yield/berries/?tab=cost",
        **{"yield-berries-yield_amount": "3,5", "yield-berries-yield_unit": "kg"},
    )
    planting = next(item for item in _plan(house).plantings if item.id == "berries")
    assert planting.yield_amount == 3.5
    assert "EUR/kg" in mine.get(f"{power}?tab=cost").content.decode()
