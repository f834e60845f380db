"""Pictures of a space: a series, measured by marked corners, followed by the plan; refused where they tell nothing."""

import datetime as dt
import io
import json
import re
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from django.utils import timezone
from PIL import Image

from canopy.plan.edit import shifted
from canopy.season import cast_of, standing_of
from canopy.standins.camera import lamp, photograph, scene
from canopy_web.household.archive.packing import pack
from canopy_web.household.archive.unpacking import unpack
from canopy_web.photos.actions import take_measure
from canopy_web.photos.living import hang_up
from canopy_web.photos.models import PictureMeasure, SpacePhoto
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.standins.names import PICTURED_DAYS, PICTURED_WIDER
from canopy_web.standins.pictures import write_pictures
from canopy_web.standins.world import World

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}
DAY, WIDE, TALL = dt.date(2026, 3, 14), 900, 750
CORNERS = ((170, 90), (720, 85), (800, 640), (110, 650))
SHARES = [[x / WIDE, y / TALL] for x, y in CORNERS]


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan.model_copy(update={"date": DAY}))


@pytest.fixture
def review(house):
    return f"/plans/{house.pk}/spaces/berry-tent/review/"


@pytest.fixture(scope="module")
def shown(demo_plan):
    """The berry tent from above: each plant where it stands, a fifth wider than planned; and what leaves cover."""
    tent = demo_plan.space("berry-tent")
    here = standing_of(tent, DAY, cast_of(demo_plan))
    plants = [(p.x_m, p.y_m, 1.2 * p.spread_m) for p in here.plants]
    rng = np.random.default_rng(4)
    what = scene(0, rng, size_m=(tent.size.width_m, tent.size.depth_m), plants=plants, px_m=0.002)
    picture, _ = photograph(what, lamp("white-led-4000"), rng, size=(WIDE, TALL), corners=CORNERS)
    return jpeg(picture), what.cover


def jpeg(picture, lens=None):
    out = io.BytesIO()
    notes = Image.Exif()
    if lens:
        notes.get_ifd(0x8769)[0xA405] = lens
    Image.fromarray(picture).save(out, "JPEG", quality=90, exif=notes)
    return out.getvalue()


def send(mine, review, content, **more):
    file = io.BytesIO(content)
    file.name = "tent.jpg"
    return mine.post(
        f"{review}pictures/add/?tab=pictures", {"picture": file, "day": DAY.isoformat(), **more}, headers=HTMX
    )


def read(mine, review, pk, **more):
    data = {"corners": json.dumps(SHARES), **more}
    return mine.post(f"{review}pictures/{pk}/read/?tab=pictures", data, headers=HTMX)


@pytest.fixture
def kept(mine, review, shown):
    answer = send(mine, review, shown[0])
    assert "The picture is kept." in answer.content.decode()
    return SpacePhoto.objects.get()


def plan_of(house):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk))


def test_a_picture_is_measured_and_shown_in_the_series(mine, review, kept, shown):
    asked = mine.get(f"{review}pictures/{kept.pk}/mark/?tab=pictures").content.decode()
    assert asked.count("data-corner") == 4
    told = read(mine, review, kept.pk).content.decode()
    measure = PictureMeasure.objects.get()
    assert measure.reading["cover"] == pytest.approx(shown[1], abs=0.02)
    assert f"leaves cover {100 * measure.reading['cover']:.0f} ±" in told
    assert 'hx-swap-oob="true"' in told
    page = mine.get(f"{review}?tab=pictures").content.decode()
    assert f"pictures/{kept.pk}/laid/" in page
    assert re.search(r"day \d+ of", page)
    flat = mine.get(f"{review}pictures/{kept.pk}/laid/")
    mask = mine.get(f"{review}pictures/{kept.pk}/laid/?leaves")
    assert Image.open(io.BytesIO(flat.content)).size == Image.open(io.BytesIO(mask.content)).size == (800, 631)
    # Where a leaf is, nothing lies over it; elsewhere a veil does.
    alpha = np.asarray(Image.open(io.BytesIO(mask.content)).convert("RGBA"))[..., 3]
    assert (alpha == 150).mean() == pytest.approx(1 - shown[1], abs=0.03)


def test_the_plan_follows_spreads_and_leaf_area_on_a_click(mine, house, review, kept):
    read(mine, review, kept.pk)
    before = plan_of(house)
    here = standing_of(before.space("berry-tent"), DAY, cast_of(before))
    follow = f"{review}pictures/{kept.pk}/follow/?tab=pictures"
    offered = mine.get(follow, {"what": "spreads"}, headers=HTMX).content.decode()
    assert re.search(r"hx-post=.[^ ]*/follow/[^ ]* hx-vals=.{&quot;what&quot;: &quot;spreads", offered)
    assert "Follow the spread of" in offered
    assert plan_of(house) == before
    mine.post(follow, {"what": "spreads"}, headers=HTMX)
    after = plan_of(house)
    now = standing_of(after.space("berry-tent"), DAY, cast_of(after)).by_id
    wider = [now[p.id].spread_m / p.spread_m for p in here.plants]
    assert np.median(wider) == pytest.approx(1.2, abs=0.06)
    again = mine.get(follow, {"what": "spreads"}, headers=HTMX).content.decode()
    assert "follows this picture already" in again
    planting = here.plants[0].plant.planting_id
    mine.post(follow, {"what": planting}, headers=HTMX)
    (learnt,) = plan_of(house).space("berry-tent").learnt
    assert (learnt.subject, learnt.target, learnt.basis, learnt.found_on) == ("leaf-area", planting, "picture", DAY)
    shown = mine.get(f"{review}?tab=learn").content.decode()
    assert "leaf area over its ground" in shown
    assert "a picture from above" in shown
    mine.post(f"/plans/{house.pk}/spaces/berry-tent/review/undo/", headers=HTMX)
    assert plan_of(house).space("berry-tent").learnt == ()
    assert PictureMeasure.objects.count() == 1


def test_the_next_picture_begins_with_the_corners_of_the_last(mine, review, kept, shown):
    read(mine, review, kept.pk, **{"marks-leaves_m": "", "shift": "0.2"})
    send(mine, review, shown[0])
    fresh = SpacePhoto.objects.exclude(pk=kept.pk).get()
    page = mine.get(f"{review}pictures/{fresh.pk}/mark/?tab=pictures").content.decode()
    assert f'data-x="{SHARES[0][0]:.4f}"'.rstrip('0"') in page
    assert "nearest in time" in page


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        (SHARES[::-1], "wrong way"),
        ([SHARES[0], SHARES[2], SHARES[1], SHARES[3]], "cross"),
        ([[0.4, 0.4], [0.5, 0.4], [0.5, 0.5], [0.4, 0.5]], "go nearer"),
        ([[0.05, 0.3], [0.95, 0.3], [0.95, 0.6], [0.05, 0.6]], "is it this space?"),
        ("", "Mark the four corners first."),
        ("[" * 50_000, "Mark the four corners first."),
        ([[0, 0], [1, 0], [1, 1]], "Mark the four corners first."),
        ([[0, 0], [2, 0], [1, 1], [0, 1]], "Mark the four corners first."),
    ],
)
def test_askew_or_another_floor_is_refused_where_one_is(mine, review, kept, corners, words):
    told = read(
        mine, review, kept.pk, corners=corners if isinstance(corners, str) else json.dumps(corners)
    ).content.decode()
    assert words in told
    assert 'role="alert"' in told
    assert not PictureMeasure.objects.exists()


def test_a_picture_of_something_else_is_refused(mine, review):
    grain = np.random.default_rng(1).integers(90, 170, (TALL // 15, WIDE // 15, 1), np.uint8)
    wall = np.kron(grain, np.ones((15, 15, 3), np.uint8))
    send(mine, review, jpeg(wall))
    told = read(mine, review, SpacePhoto.objects.get().pk).content.decode()
    assert "No part of the floor is greener than another" in told
    assert not PictureMeasure.objects.exists()


def test_pointing_and_the_slider_measure_anew(mine, review, kept):
    read(mine, review, kept.pk)
    plain = PictureMeasure.objects.get().reading["cover"]
    read(mine, review, kept.pk, shift="0.8")
    assert PictureMeasure.objects.get().reading["cover"] > plain
    told = read(mine, review, kept.pk, leaf=json.dumps([[0.5, 0.5]])).content.decode()
    assert "Point at a leaf and at the ground" in told
    assert PictureMeasure.objects.get().marks["shift"] == 0.8


def test_leaves_above_the_floor_need_a_lens_or_a_height(mine, review, shown):
    send(mine, review, jpeg(np.asarray(Image.open(io.BytesIO(shown[0]))), lens=26))
    photo = SpacePhoto.objects.get()
    assert photo.lens_mm == 26
    read(mine, review, photo.pk)
    flat = PictureMeasure.objects.get().reading["cover"]
    read(mine, review, photo.pk, **{"marks-leaves_m": "15"})
    # What stands nearer to the camera looks larger than it is.
    assert PictureMeasure.objects.get().reading["cover"] < 0.95 * flat
    bare = SpacePhoto.objects.get()
    SpacePhoto.objects.update(lens_mm=None)
    told = read(mine, review, bare.pk, **{"marks-leaves_m": "15"}).content.decode()
    assert "lens or height of the camera" in told
    assert 'value="15' in told


def test_what_was_measured_is_taken_back_and_the_picture_stays(mine, review, kept):
    read(mine, review, kept.pk)
    told = mine.post(f"{review}pictures/{kept.pk}/forget/?tab=pictures", headers=HTMX).content.decode()
    assert "the picture stays" in told
    assert not PictureMeasure.objects.exists()
    assert mine.get(f"{review}pictures/{kept.pk}/laid/").status_code == 404


def test_strangers_see_and_measure_nothing(client, django_user_model, review, kept):
    client.force_login(django_user_model.objects.create_user("stranger"))
    assert client.get(f"{review}pictures/{kept.pk}/mark/").status_code == 404
    assert read(client, review, kept.pk).status_code == 404
    assert client.get(f"{review}pictures/{kept.pk}/follow/", {"what": "spreads"}).status_code == 404


def test_a_picture_of_one_plant_and_bad_days(mine, house, review, shown):
    plant = plan_of(house).space("berry-tent").plants[2]
    send(mine, review, shown[0], plant=plant.id)
    assert SpacePhoto.objects.get().plant_id == plant.id
    assert "Type the day" in send(mine, review, shown[0], day="yesterday").content.decode()
    assert "Choose a picture" in mine.post(f"{review}pictures/add/?tab=pictures", {}, headers=HTMX).content.decode()
    assert SpacePhoto.objects.count() == 1
    page = mine.get(f"{review}?tab=pictures").content.decode()
    assert "plant 3" in page


def test_how_cover_goes_on_is_told_from_enough_pictures(mine, house, review, kept):
    read(mine, review, kept.pk)
    assert "once enough pictures are measured" in mine.get(f"{review}?tab=pictures").content.decode()
    one = PictureMeasure.objects.get()
    PictureMeasure.objects.all().delete()
    for week in range(4):
        photo = SpacePhoto.objects.get(pk=kept.pk)
        photo.pk, photo.day = None, DAY - dt.timedelta(days=7 * week)
        photo.save()
        reading = {**one.reading, "cover": 0.5 - 0.04 * week}
        reading["colour"] = {**one.reading["colour"], "hue_deg": 120.0 - 2 * week}
        PictureMeasure.objects.create(photo=photo, marks=one.marks, reading=reading, flat=b"", mask=b"")
    page = " ".join(mine.get(f"{review}?tab=pictures").content.decode().split())
    assert "points of cover a week" in page
    assert "they turn greener, by 2" in page


def test_measurements_go_with_the_archive(mine, house, kept, review, other):
    read(mine, review, kept.pk)
    told = PictureMeasure.objects.get().reading
    file = io.BytesIO()
    pack(house.owner, file)
    file.seek(0)
    assert unpack(other, file).photographs == 1
    taken = PictureMeasure.objects.exclude(photo=kept).get()
    assert taken.reading == told
    # What it said then is not told anew, whatever one would find today.
    taken.reading = {**told, "cover": 0.01}
    taken.save()
    mine.force_login(other)
    # Its pictures are drawn again from what was marked.
    there = f"/plans/{taken.photo.plan_id}/spaces/berry-tent/review/pictures/{taken.photo_id}/laid/"
    assert Image.open(io.BytesIO(mine.get(there).content)).size == (800, 631)
    taken.refresh_from_db()
    assert taken.mask
    assert taken.reading["cover"] == 0.01


@pytest.mark.parametrize("marks", [{"corners": [[0, 0]]}, {"corners": SHARES, "shift": 7}, 5])
def test_an_archive_with_spoilt_marks_is_refused(marks, kept):
    with pytest.raises(ValueError, match="validation error"):
        take_measure(kept, marks, {"cover": 0.5, "standard_error": 0.1, "how": "green"})


def test_the_demo_hangs_up_what_its_people_photographed(settings, tmp_path, grower, demo_plan):
    world = World(folder=tmp_path, zone=ZoneInfo("UTC"))
    write_pictures(world)
    settings.STANDINS, settings.DATA = (1, 2), tmp_path
    today = timezone.localdate()
    row = actions.create_plan(grower, shifted(demo_plan, today - demo_plan.date))
    assert hang_up(row) == len(PICTURED_DAYS)
    measured = PictureMeasure.objects.select_related("photo").order_by("photo__day")
    # The newest waits to be measured by whoever looks.
    assert measured.count() == len(PICTURED_DAYS) - 1
    covers = [item.reading["cover"] for item in measured]
    assert covers == sorted(covers)
    plan = to_plan(row)
    tent = plan.space("berry-tent")
    here = standing_of(tent, measured[0].photo.day, cast_of(plan))
    wider = [seen["spread_m"] / here.by_id[seen["id"]].spread_m for seen in measured[0].reading["plants"]]
    assert np.median(wider) == pytest.approx(PICTURED_WIDER, abs=0.06)
    stamps = {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.jpg")}
    write_pictures(world)
    assert stamps == {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.jpg")}


def test_without_stand_ins_there_are_none(settings, house):
    settings.STANDINS = None
    assert hang_up(house) == 0
