import pytest

from canopy.library import crops
from canopy_web.drawing.ranges import WIDTH, range_charts

pytestmark = pytest.mark.django_db


def test_the_list_holds_every_crop_and_narrows_as_one_types(mine):
    whole = mine.get("/library/crops/").text
    assert all(f"/library/crops/{key}/" in whole for key in crops())
    part = mine.get("/library/crops/", {"q": "fern"}, headers={"HX-Request": "true"}).text
    assert "<html" not in part
    assert "Filmy fern" in part
    assert "Cushion moss" in part  # by its group
    assert "Tatsoi" not in part
    assert "1 crop." in mine.get("/library/crops/", {"q": "fragaria vesca"}).text
    assert "No crop by that name" in mine.get("/library/crops/", {"q": "unobtainium"}).text
    assert "&lt;b&gt;" in mine.get("/library/crops/", {"q": "<b>"}).text


@pytest.mark.parametrize("crop_id", list(crops()))
def test_each_crop_s_page_shows_every_stage_and_source(mine, crop_id):
    text = mine.get(f"/library/crops/{crop_id}/").text
    crop = crops()[crop_id]
    for stage in crop.stages:
        assert text.count(f'<th scope="row">{stage.kind.replace("-", " ")}</th>') >= 8
    assert "Where the figures come from" in text
    assert any(grade in text for grade in ("measured", "extension", "practice"))


def test_an_unknown_crop_is_not_there(mine):
    assert mine.get("/library/crops/tatsoy/").status_code == 404


def test_the_library_is_for_people_signed_in(client):
    assert client.get("/library/crops/").url.startswith("/account/sign-in/")


@pytest.mark.parametrize("crop", crops().values(), ids=lambda crop: crop.id)
def test_bars_lie_on_their_scale_in_proportion(crop):
    for chart in range_charts(crop, "metric"):
        for bar in chart.bars:
            assert 0 <= bar.x <= bar.x + bar.w <= WIDTH + 0.11 + 2.0
            assert bar.limit is None or bar.x + bar.w <= bar.limit + 2.1
    ppfd = next(chart for chart in range_charts(crop, "metric") if chart.title.startswith("PPFD"))
    per = WIDTH / float(ppfd.high.replace("\u202f", ""))
    for bar, stage in zip(ppfd.bars, crop.stages, strict=True):
        assert bar.x == pytest.approx(stage.ppfd_umol_m2_s.low * per, abs=0.1)
        assert bar.limit == pytest.approx(stage.ppfd_limit_umol_m2_s * per, abs=0.1)


def test_temperatures_come_in_a_person_s_units():
    charts = {chart.title: chart for chart in range_charts(crops()["tatsoi"], "us")}
    assert "Air by day, °F" in charts
    assert charts["Air by day, °F"].bars[0].text.replace("\u00a0", " ") == "61–72 °F"
