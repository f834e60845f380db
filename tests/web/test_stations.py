"""Stations are rooms: what a new one needs, and what the frame knows of those there are."""

from __future__ import annotations

import importlib
import shutil
import sys
import types

import pytest
from django.template import engines
from django.test import override_settings
from django.urls import clear_url_caches, include, path

import canopy_web.stations
from canopy_web.planning.store import to_plan
from canopy_web.stations.registry import HOUSE
from canopy_web.stations.urls import mounted
from canopy_web.workspace.station import House

RECORD = '''
"""An empty example of a station."""

from canopy_web.workspace.station import Station, Tab


def example_tab(where, report, bad):
    """Fill the only tab."""
    return {"greeting": f"Nothing stands on the example of {where.space.name}."}


EXAMPLE = Station(
    key="example",
    name="Example",
    urls="canopy_web.stations.example.urls",
    tabs=(Tab(key="example", name="Example", template="example/_example.html", fill=example_tab),),
)
'''


@pytest.fixture
def house_with_an_example(tmp_path, settings):
    """The application with one folder more under stations/, and one line more in the registry."""
    room = tmp_path / "example"
    room.mkdir()
    (room / "__init__.py").write_text("")
    (room / "station.py").write_text(RECORD)
    (room / "urls.py").write_text("urlpatterns = []\n")
    (room / "_example.html").write_text("<p>{{ greeting }}</p>\n")
    canopy_web.stations.__path__.append(str(tmp_path))
    station = importlib.import_module("canopy_web.stations.example.station").EXAMPLE
    house = House(stations=(*HOUSE.stations, station))
    addresses = types.ModuleType("addresses_with_an_example")
    addresses.urlpatterns = [
        path("account/", include("canopy_web.accounts.urls")),
        path("library/", include("canopy_web.library.urls")),
        path("trainer/", include("canopy_web.trainer.urls")),
        path("", include("canopy_web.household.urls")),
        path("plans/<int:plan_pk>/spaces/<slug:space_id>/", include([mounted(s, house) for s in house.stations])),
    ]
    sys.modules[addresses.__name__] = addresses
    templates = [{**settings.TEMPLATES[0], "DIRS": [*settings.TEMPLATES[0]["DIRS"], tmp_path]}]
    with override_settings(ROOT_URLCONF=addresses.__name__, TEMPLATES=templates):
        clear_url_caches()
        yield house
    clear_url_caches()
    canopy_web.stations.__path__.remove(str(tmp_path))
    for name in (addresses.__name__, "canopy_web.stations.example.station", "canopy_web.stations.example.urls"):
        sys.modules.pop(name, None)
    sys.modules.pop("canopy_web.stations.example", None)
    shutil.rmtree(room)
    engines._templates = None


def test_a_station_is_one_folder_and_one_line(house_with_an_example, mine, row):
    page = mine.get(f"/plans/{row.pk}/spaces/box/example/").content.decode()
    assert "Nothing stands on the example of Box." in page
    assert 'aria-current="step"' in page
    for station in house_with_an_example.stations:
        other = mine.get(f"/plans/{row.pk}/spaces/box/{station.key}/")
        assert other.status_code == 200
        assert f"/plans/{row.pk}/spaces/box/example/" in other.content.decode(), station.name


def test_a_new_station_has_the_frame_s_acts(house_with_an_example, mine, row, small_plan):
    lamp = small_plan.space("box").fixtures[0]
    base = f"/plans/{row.pk}/spaces/box/example/"
    assert mine.post(f"{base}part/fixtures/{lamp.id}/move/", {"z_m": "1.1"}).status_code in (200, 302)
    row.refresh_from_db()
    assert mine.post(f"{base}undo/").status_code in (200, 302)


def test_a_station_that_judges_nothing_is_not_called_good(house_with_an_example, mine, row):
    page = mine.get(f"/plans/{row.pk}/spaces/box/example/").content.decode()
    entry = page[page.index('aria-current="step"') :][:700]
    assert "v-unknown" in entry
    assert "v-good" not in entry


def test_stations_bring_each_kind_of_part_once():
    kinds = [kind.collection for station in HOUSE.stations for kind in station.parts]
    assert len(kinds) == len(set(kinds))
    assert len({station.key for station in HOUSE.stations}) == len(HOUSE.stations)
    for station in HOUSE.stations:
        assert len({tab.key for tab in station.tabs}) == len(station.tabs)
        for kind in station.parts:
            assert HOUSE.part_kind(kind.collection) is kind


def test_what_may_be_taken_for_granted_has_words_at_some_station(small_plan):
    space = small_plan.space("box")
    named = {key for station in HOUSE.stations for key in station.assumed}
    assert set(space.assumed) <= named


@pytest.mark.parametrize(
    "collection",
    ["plants", "fixtures", "openings", "devices", "shelves", "columns", "hung", "daylight", "airways", "stirrers"],
)
def test_every_list_of_a_space_has_a_station_that_brings_it(collection):
    assert HOUSE.part_kind(collection) is not None


def test_a_way_of_air_is_taken_out_and_comes_back(mine, row, small_plan):
    (way,) = small_plan.space("box").airways
    base = f"/plans/{row.pk}/spaces/box/air/"
    assert mine.post(f"{base}part/airways/{way.id}/remove/").status_code in (200, 302)
    row.refresh_from_db()
    assert to_plan(row).space("box").airways == ()
    mine.post(f"{base}undo/")
    row.refresh_from_db()
    assert to_plan(row).space("box").airways == (way,)
