"""The Space station: shelves, columns, windows, openings, floor, load; and photographs."""

import datetime as dt
import io
import re

import pytest
from django.utils import timezone
from PIL import Image

from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import LONGEST, MAX_BYTES, PictureError, read_picture
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


def _space(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).spaces[0]


def _row(mine, base, part_id, /, **typed):
    page = mine.get(f"{base}space/").text
    found = dict(re.findall(rf'name="({part_id}-[\w.]+)" value="([^"]*)"', page))
    for name, options in re.findall(rf'<select[^>]*name="({part_id}-[\w.]+)"[^>]*>(.*?)</select>', page):
        found[name] = re.search(r'value="([^"]*)" selected', options)[1]
    return found | {f"{part_id}-{key}": value for key, value in typed.items()} | {"station": "space"}


def _edit(mine, base, kind, part_id, /, **typed):
    return mine.post(f"{base}space/part/{kind}/{part_id}/", _row(mine, base, part_id, **typed), headers=HTMX).text


def test_shelves_columns_and_hung_things(mine, base, row):
    for kind in ("shelves", "columns", "hung"):
        mine.post(f"{base}space/part/{kind}/add/", headers=HTMX)
    _edit(mine, base, "shelves", "shelf-1", z_m="50 cm", kind="wire", top="wood-light", load_limit_kg="20 kg")
    shelf = _space(row).shelves[0]
    assert (shelf.z_m, shelf.kind, shelf.top.material_id, shelf.load_limit_kg) == (0.5, "wire", "wood-light", 20)
    assert "This shelf reaches to 300 cm" in _edit(mine, base, "shelves", "shelf-1", z_m="3 m")
    column, rail = _space(row).columns[0].id, _space(row).hung[0].id
    _edit(mine, base, "columns", column, diameter_m="16 cm")
    _edit(mine, base, "hung", rail, name="Rail", weight_kg="3 lb")
    space = _space(row)
    assert space.columns[0].diameter_m == 0.16
    assert space.hung[0].weight_kg == pytest.approx(1.36, abs=0.01)
    text = mine.get(f"{base}space/").text
    assert "furniture shelf wire" in text
    assert "furniture column" in text
    mine.post(f"{base}space/part/shelves/shelf-1/remove/", headers=HTMX)
    assert _space(row).shelves == ()
    assert mine.post(f"{base}space/part/walls/add/").status_code == 404


def test_windows_by_figure_or_by_month(mine, base, row):
    mine.post(f"{base}space/part/daylight/add/", headers=HTMX)
    text = _edit(mine, base, "daylight", "window-1", month_6="6")
    assert _space(row).daylight[0].by_month == (3, 3, 3, 3, 3, 6, 3, 3, 3, 3, 3, 3)
    assert "furniture window" in text
    assert 'aria-label="Month that is shown"' in text
    text = _edit(mine, base, "daylight", "window-1", month_6="99")
    assert "less than or equal to 70" in text
    assert 'value="99"' in text
    _edit(mine, base, "daylight", "window-1", **{f"month_{n}": "" for n in range(1, 13)})
    assert _space(row).daylight[0].by_month == ()


def test_a_window_s_months_are_estimated(mine, base, row):
    mine.post(f"{base}space/part/daylight/add/", headers=HTMX)
    asked = {"window": "window-1", "facing": "N", "sky": "mixed", "panes": "2", "open_share": "100 %"}
    mine.post(f"{base}space/window/estimate/", asked, headers=HTMX)
    north = _space(row).daylight[0].by_month
    assert north[11] < 3 < north[5]
    mine.post(f"{base}space/window/estimate/", {**asked, "facing": "S", "open_share": "50 %"}, headers=HTMX)
    south = _space(row).daylight[0].by_month
    assert north[11] * 0.8 < south[11] < south[5]
    wrong = mine.post(f"{base}space/window/estimate/", {**asked, "open_share": "300 %"}, headers=HTMX).text
    assert "give 2 % to 100 %" in wrong.replace("\xa0", " ")
    assert _space(row).daylight[0].by_month == south


def test_an_opening_becomes_a_mesh_window_and_is_shut(mine, base, row):
    mine.post(f"{base}space/part/openings/add/", headers=HTMX)
    hole = _space(row).openings[-1].id
    _edit(mine, base, "openings", hole, shape="mesh", open="on")
    mesh = next(o for o in _space(row).openings if o.id == hole)
    assert (mesh.shape, mesh.width_m, mesh.clear_share) == ("mesh", mesh.height_m, 0.6)
    assert mesh.free_area_m2 == pytest.approx(0.6 * mesh.width_m**2)
    _edit(mine, base, "openings", hole, width_m="20 cm")
    shut = next(o for o in _space(row).openings if o.id == hole)
    assert (shut.width_m, shut.open, shut.passes_air) == (0.2, False, False)


def test_floor_net_load_and_door(mine, base, row):
    mine.post(
        f"{base}space/ground/",
        {
            "ground-stands_on": "shelf",
            "ground-below_c": "8 C",
            "ground-insulation_m": "2 cm",
            "ground-stand_off_m": "0 cm",
            "ground-lip_m": "3",
        },
        headers=HTMX,
    )
    mine.post(f"{base}space/bearing/", {"bearing-load_limit_kg": "30", "bearing-net_m": "70 cm"}, headers=HTMX)
    space = _space(row)
    assert (space.ground.stands_on, space.ground.below_c, space.ground.lip_m) == ("shelf", 8, 0.03)
    assert (space.load_limit_kg, space.net.z_m, space.air.hung) == (30, 0.7, False)
    mine.post(
        f"{base}space/bearing/",
        {"bearing-load_limit_kg": "30 kg", "bearing-net_m": "", "bearing-fan_hung": "on"},
        headers=HTMX,
    )
    assert _space(row).net is None
    states = PlanState.objects.count()
    text = mine.post(
        f"{base}space/bearing/",
        {"bearing-net_m": "5 m", "bearing-load_limit_kg": "30 kg"},
        headers=HTMX,
    ).text
    assert "The net hangs above the space" in text
    assert PlanState.objects.count() == states
    before = mine.get(f"{base}light/").text
    mine.post(f"{base}space/size/", _space_form(mine, base) | {"space-door_open": "on"}, headers=HTMX)
    assert _space(row).door_open
    assert mine.get(f"{base}light/").text != before


def _space_form(mine, base):
    return _row(mine, base, "space")


def _picture(size=(900, 700), kind="JPEG", **more):
    out = io.BytesIO()
    Image.new("RGB", size, (120, 140, 90)).save(out, kind, **more)
    out.seek(0)
    out.name = "shot.jpg"
    return out


def test_a_photograph_is_kept_without_the_camera_s_notes(mine, base, row):
    notes = Image.Exif()
    notes[0x010F] = "Some maker"
    notes.get_ifd(0x8825)[1] = "N"
    answer = mine.post(
        f"{base}space/photos/add/", {"photo": _picture(exif=notes), "caption": "Half built"}, follow=True
    )
    assert "Half built" in answer.text
    photo = SpacePhoto.objects.get()
    kept = Image.open(io.BytesIO(bytes(photo.image)))
    assert kept.size == (photo.width, photo.height) == (900, 700)
    assert not kept.getexif()
    assert b"Some maker" not in bytes(photo.image)
    url = f"{base}space/photos/{photo.pk}/"
    assert mine.get(url)["Content-Type"] == "image/jpeg"
    assert len(mine.get(f"{url}?small").content) < len(mine.get(url).content)
    mine.post(f"{url}remove/")
    assert not SpacePhoto.objects.exists()


def test_a_large_picture_is_made_smaller_and_a_turned_one_upright():
    notes = Image.Exif()
    notes[0x0112] = 6
    file = _picture((3000, 2000), exif=notes)
    found = read_picture(file, file.getbuffer().nbytes)
    assert (found.width, found.height) == (LONGEST * 2 // 3, LONGEST)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"not a picture at all", "not a picture we can read"),
        (b"", "not a picture we can read"),
        (b"GIF89a" + b"\0" * 200, "PNG or WebP"),
        (b"\xff\xd8\xff\xe0" + b"\0" * 50, "not a picture we can read"),
    ],
)
def test_what_is_no_picture_is_refused_in_words(mine, base, content, words):
    file = io.BytesIO(content)
    file.name = "shot.jpg"
    text = mine.post(f"{base}space/photos/add/", {"photo": file}).text
    assert words in text or "Choose a picture first" in text or "submitted file is empty" in text
    assert not SpacePhoto.objects.exists()


def test_a_picture_of_a_hundred_megapixels_is_refused_before_it_is_decoded():
    # One bit a pixel: 110 megapixels in a few kilobytes.
    out = io.BytesIO()
    Image.new("1", (11_000, 10_000)).save(out, "PNG")
    with pytest.raises(PictureError, match="110 megapixels; at most 40"):
        read_picture(io.BytesIO(out.getvalue()), len(out.getvalue()))
    with pytest.raises(PictureError, match="20 MB; at most 15 MB"):
        read_picture(_picture(), 20_000_000)
    assert MAX_BYTES == 15_000_000


def test_another_person_s_photograph_is_not_there(client, other, mine, base, row):
    mine.post(f"{base}space/photos/add/", {"photo": _picture()})
    photo = SpacePhoto.objects.get()
    client.force_login(other)
    url = f"{base}space/photos/{photo.pk}/"
    assert client.get(url).status_code == 404
    assert client.post(f"{url}remove/").status_code == 404
    assert "Choose a picture first" in _as(mine, client, row, base)


def _as(mine, client, row, base):
    client.force_login(row.owner)
    return client.post(f"{base}space/photos/add/", {}).text


def _noted(day):
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = f"{day:%Y:%m:%d} 12:30:00"
    exif[0x0132] = "2001:01:01 00:00:00"
    return exif


@pytest.mark.parametrize(
    ("noted", "typed", "day"),
    [
        (dt.date(2025, 11, 3), "", dt.date(2025, 11, 3)),
        (dt.date(2025, 11, 3), "2025-10-01", dt.date(2025, 10, 1)),
        (None, "2024-02-29", dt.date(2024, 2, 29)),
        (dt.date(1970, 1, 1), "", None),
        (None, "", None),
    ],
)
def test_a_photograph_counts_for_the_day_it_was_taken(mine, base, row, noted, typed, day):
    more = {"exif": _noted(noted)} if noted else {}
    mine.post(f"{base}space/photos/add/", {"photo": _picture(**more), "caption": "Then", "day": typed})
    photo = SpacePhoto.objects.get()
    assert photo.day == (day or timezone.localdate())


def test_its_day_can_be_changed_and_orders_the_photographs(mine, base, row):
    for caption, day in (("old", "2024-05-01"), ("new", "2025-05-01")):
        mine.post(f"{base}space/photos/add/", {"photo": _picture(), "caption": caption, "day": day})
    assert [photo.caption for photo in SpacePhoto.objects.all()] == ["new", "old"]
    old = SpacePhoto.objects.get(caption="old")
    mine.post(f"{base}space/photos/{old.pk}/day/", {"day": "2026-01-31"}, headers=HTMX)
    assert [photo.caption for photo in SpacePhoto.objects.all()] == ["old", "new"]
    text = mine.post(f"{base}space/photos/{old.pk}/day/", {"day": "2026-02-31"}, headers=HTMX).text
    assert "Type the day as 2026-03-14" in text
    assert SpacePhoto.objects.get(pk=old.pk).day == dt.date(2026, 1, 31)
    text = mine.post(f"{base}space/photos/add/", {"photo": _picture(), "day": "soon"}).text
    assert "Type the day as 2026-03-14" in text
    assert SpacePhoto.objects.count() == 2
