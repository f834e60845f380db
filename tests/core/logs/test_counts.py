"""Pests counted again and again, and plugs that are switched."""

import datetime as dt

from canopy.logs.counts import rises
from canopy.logs.entries import Entry
from canopy.logs.switching import FEEDS, caution_of, comes_on_by_itself
from canopy.plan.document import Quiet

NOON = dt.datetime(2026, 11, 1, 12, tzinfo=dt.UTC)


def counted(day, count, what="thrips", looked_at=2, on="trap", **more):
    data = {"what": what, "count": count, "on": on, "looked_at": looked_at}
    at = NOON + dt.timedelta(days=day)
    return Entry(key=f"k-{day:04}-{what}-{on}", space_id="tent", kind="pests", at=at, data=data, **more)


def test_a_rise_is_told_by_the_trap_against_the_count_before():
    at, more = rises([counted(4, 3), counted(0, 2), counted(8, 9)])
    assert more.tolist() == [0.5, 3.0]
    assert [dt.datetime.fromtimestamp(int(second), dt.UTC).day for second in at] == [5, 9]


def test_pests_are_told_apart_and_struck_counts_and_leaves_do_not_count():
    entries = [counted(0, 2), counted(1, 50, what="gnats"), counted(2, 40, struck=True), counted(3, 2)]
    entries += [counted(3, 30, on="leaves"), counted(0, 0, on="leaves")]
    assert rises(entries)[1].tolist() == [0.0]
    both = [counted(0, 2), counted(0, 8, what="gnats"), counted(5, 4), counted(5, 20, what="gnats")]
    assert rises(both)[1].tolist() == [6.0]
    assert rises([])[0].size == 0


def test_nothing_that_burns_or_takes_the_air_comes_on_by_itself():
    assert {feeds for feeds in FEEDS if not comes_on_by_itself(feeds)} == {"heater", "co2"}
    assert "closed room" in caution_of("co2", on=True)
    assert "stays on until somebody" in caution_of("heater", on=True)
    assert all(caution_of(feeds, on=on) for feeds in FEEDS for on in (True, False))


def test_quiet_hours_go_over_midnight():
    quiet = Quiet(start="22:30", hours=8)
    held = [quiet.holds(60 * hour + minute) for hour, minute in ((22, 29), (22, 30), (0, 0), (6, 29), (6, 30), (12, 0))]
    assert held == [False, True, True, True, False, False]
