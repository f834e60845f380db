"""One clock rule: every share against a day walked minute by minute."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from canopy.schedule import (
    DAY_MIN,
    Always,
    ByHand,
    Cycle,
    Daily,
    HandTime,
    Never,
    Schedule,
    Span,
    WithLamps,
    by_hand,
    dark,
    day_hours,
    day_share,
    is_steady,
    minute_of,
    share_of,
    share_while,
    shares_of,
    spans_of,
    unbroken_h,
)

LIT = spans_of(Daily(start="06:00", hours=16))
OVER_MIDNIGHT = spans_of(Daily(start="18:00", hours=16))


def clock(minute: int) -> str:
    return f"{minute // 60:02d}:{minute % 60:02d}"


def is_lit(lit: tuple[Span, ...], minute: int) -> bool:
    return any(span.start_min <= minute < span.end_min for span in lit)


def walked(item: Schedule, lit: tuple[Span, ...], days: int = 1) -> list[float]:
    """What runs in each minute of some days, told by walking through them: no spans, no closed form."""
    out, since = [], None
    # A day ahead, so that what passes midnight is under way when the first day begins.
    for t in range(-1440, 1440 * days):
        of_day = t % 1440
        if isinstance(item, Always):
            level = 1.0
        elif isinstance(item, Never):
            level = 0.0
        elif isinstance(item, WithLamps):
            level = float(is_lit(lit, of_day) == (item.when == "lit"))
        elif isinstance(item, Daily):
            level = _daily_level(item, of_day)
        elif isinstance(item, ByHand):
            level = sum(_hand_level(time, of_day) for time in item.times)
        elif item.start is None and item.when is None:
            level = float(t % item.every_min < item.on_min)
        else:
            begins = item.start is not None and of_day == minute_of(item.start)
            hours = item.start is None or (of_day - minute_of(item.start)) % 1440 < 60 * item.hours
            active = hours and (item.when is None or is_lit(lit, of_day) == (item.when == "lit"))
            always = item.start is None and (
                (not lit and item.when == "dark") or (is_always(lit) and item.when == "lit")
            )
            since = 0 if active and (since is None or begins or (always and of_day == 0)) else since
            since = since if active else None
            level = float(active and since % item.every_min < item.on_min)
            since = None if since is None else since + 1
        if t >= 0:
            out.append(level)
    return out


def is_always(lit: tuple[Span, ...]) -> bool:
    return sum(span.end_min - span.start_min for span in lit) >= 1440


def _daily_level(item: Daily, minute: int) -> float:
    if item.start is None:
        return item.hours / 24
    past, whole = (minute - minute_of(item.start)) % 1440 + 0.5, 60 * item.hours
    if past > whole:
        return 0.0
    up = past / item.ramp_up_min if item.ramp_up_min else 1.0
    down = (whole - past) / item.ramp_down_min if item.ramp_down_min else 1.0
    return min(1.0, up, down)


def _hand_level(time: HandTime, minute: int) -> float:
    if time.at is None:
        return time.minutes / 1440
    return float((minute - minute_of(time.at)) % 1440 < time.minutes)


@st.composite
def schedules(draw):
    kind = draw(st.sampled_from(["always", "never", "daily", "cycle", "with-lamps", "by-hand"]))
    start = draw(st.none() | st.integers(0, 1439).map(clock))
    if kind == "daily":
        hours = draw(st.integers(1, 24))
        up = draw(st.integers(0, min(240, 60 * hours)))
        down = draw(st.integers(0, min(240, 60 * hours - up)))
        return Daily(start=start, hours=hours, ramp_up_min=up, ramp_down_min=down)
    if kind == "cycle":
        every = draw(st.integers(1, 400))
        hours = None if start is None else draw(st.integers(1, 24))
        when = draw(st.sampled_from([None, "lit", "dark"]))
        return Cycle(on_min=draw(st.integers(1, every)), every_min=every, start=start, hours=hours, when=when)
    if kind == "with-lamps":
        return WithLamps(when=draw(st.sampled_from(["lit", "dark"])))
    if kind == "by-hand":
        time = st.builds(HandTime, at=st.none() | st.integers(0, 1439).map(clock), minutes=st.integers(1, 120))
        return ByHand(times=tuple(draw(st.lists(time, max_size=6))))
    return Always() if kind == "always" else Never()


lamps = st.builds(
    lambda start, hours: spans_of(Daily(start=clock(start), hours=hours)) if hours else (),
    st.integers(0, 1439),
    st.integers(0, 24),
)


@settings(derandomize=True, max_examples=80, deadline=None)
@given(schedules(), lamps, st.integers(0, 2000), st.integers(1, 2000))
def test_a_share_is_what_a_walk_through_the_days_counts(item, lit, start, length):
    minutes = walked(item, lit, days=3)
    want = sum(minutes[start : start + length]) / length
    assert share_of(item, start, start + length, lit) == pytest.approx(want, abs=1e-9)


@settings(derandomize=True, max_examples=50, deadline=None)
@given(schedules(), lamps)
def test_day_and_night_together_are_the_day(item, lit):
    night = dark(lit)
    lit_min = sum(span.end_min - span.start_min for span in lit)
    parts = lit_min * share_while(item, lit, lit) if lit_min else 0.0
    parts += (DAY_MIN - lit_min) * share_while(item, night, lit) if night else 0.0
    assert parts / DAY_MIN == pytest.approx(day_share(item, lit), abs=1e-9)


@settings(derandomize=True, max_examples=60, deadline=None)
@given(schedules())
def test_a_schedule_comes_back_from_its_file(item):
    adapter = TypeAdapter(Schedule)
    assert adapter.validate_json(adapter.dump_json(item)) == item


def test_ramps_take_half_their_length():
    item = Daily(start="06:00", hours=12, ramp_up_min=30, ramp_down_min=60)
    assert day_hours(item) == pytest.approx(12 - 0.25 - 0.5)
    # Half way up after a quarter of an hour; the first half of the ramp carries a quarter of 15 minutes.
    assert share_of(item, 360, 375) == pytest.approx(0.25)
    assert share_of(item, 375, 390) == pytest.approx(0.75)
    assert share_of(item, 1020, 1080) == pytest.approx(0.5)


def test_hours_pass_midnight():
    item = Daily(start="20:00", hours=8)
    assert share_of(item, 0, 240) == 1.0
    assert share_of(item, 240, 1200) == 0.0
    assert share_of(item, 1140, 1500) == pytest.approx(5 / 6)


def test_a_free_cycle_drifts_over_midnight_and_one_within_hours_does_not():
    free = Cycle(on_min=100, every_min=500)
    # Runs begin at 0, 500, 1000, 1500 (60 min into the second day), 2000, 2500 …
    assert share_of(free, 1440, 1500) == 0.0
    assert share_of(free, 1500, 1600) == 1.0
    assert day_share(free) == pytest.approx(0.2)
    kept = Cycle(on_min=15, every_min=60, start="22:00", hours=4)
    assert day_hours(kept) == pytest.approx(1.0)
    assert share_of(kept, 1320, 1335) == share_of(kept, 1440, 1455) == share_of(kept, 2880, 2895) == 1.0


def test_a_cycle_with_the_lamps_begins_when_they_come_on():
    item = Cycle(on_min=15, every_min=120, when="lit")
    assert share_of(item, 1080, 1095, OVER_MIDNIGHT) == 1.0
    assert share_of(item, 1440 + 120, 1440 + 135, OVER_MIDNIGHT) == 1.0
    assert share_of(item, 600, 1080, OVER_MIDNIGHT) == 0.0
    assert day_hours(item, OVER_MIDNIGHT) == pytest.approx(2.0)
    assert day_hours(Cycle(on_min=15, every_min=60, when="dark"), LIT) == pytest.approx(2.0)


def test_a_cycle_within_hours_does_not_begin_anew_at_midnight_where_the_lamps_do_not_change():
    item = Cycle(on_min=1, every_min=2, start="19:01", hours=5, when="dark")
    # 299 minutes after 19:01 it is midnight: an odd number, so that minute is one of rest.
    assert share_of(item, 0, 1) == 0.0
    assert share_of(item, 1439, 1440) == 1.0


def test_with_the_lamps_follows_them():
    assert day_hours(WithLamps(), LIT) == 16.0
    assert day_hours(WithLamps(when="dark"), LIT) == 8.0
    assert share_while(WithLamps(), LIT, LIT) == 1.0
    assert share_while(WithLamps(), dark(LIT), LIT) == 0.0
    assert day_hours(WithLamps()) == 0.0


def test_times_by_hand_count_by_their_minutes():
    item = ByHand(times=(HandTime(at="08:00", minutes=10), HandTime(minutes=20)))
    assert day_hours(item) == pytest.approx(0.5)
    assert share_of(item, 480, 490) == pytest.approx(1 + 20 / 1440)
    assert by_hand(0, 10) == Never()
    assert day_hours(by_hand(6, 12)) == pytest.approx(1.2)
    assert day_hours(by_hand(48, 700)) == pytest.approx(24.0)


def test_what_runs_for_hours_on_end_is_told_from_what_comes_and_goes():
    assert [is_steady(item) for item in (Always(), Daily(hours=3), WithLamps())] == [True] * 3
    assert [is_steady(item) for item in (Cycle(on_min=1, every_min=2), by_hand(1, 1))] == [False] * 2


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"kind": "daily", "hours": 1, "ramp_up_min": 40, "ramp_down_min": 30}, "its ramps last 70 minutes"),
        ({"kind": "cycle", "on_min": 20, "every_min": 10}, "cannot run 20 of every 10 minutes"),
        ({"kind": "cycle", "on_min": 1, "every_min": 10, "start": "06:00"}, "needs both"),
        ({"kind": "by-hand", "times": [{"minutes": 500}] * 3}, "longer than a day"),
        ({"kind": "daily", "hours": 25}, "less than or equal to 24"),
        ({"kind": "daily", "hours": 3, "start": "24:00"}, "pattern"),
        ({"kind": "weekly"}, "weekly"),
    ],
)
def test_a_schedule_that_cannot_be_is_refused_in_words(data, words):
    with pytest.raises(ValidationError, match=words):
        TypeAdapter(Schedule).validate_python(data)


def test_an_interval_must_be_one():
    with pytest.raises(ValueError, match="is not one"):
        share_of(Always(), 10, 10)


@pytest.mark.parametrize(
    ("item", "hours"),
    [
        (Always(), 24.0),
        (Never(), 0.0),
        (Daily(start="20:00", hours=10), 10.0),
        (Daily(start="06:00", hours=2.5), 2.5),
        (Cycle(on_min=10, every_min=60), 1 / 6),
        (Cycle(on_min=240, every_min=360), 4.0),
        (Cycle(on_min=60, every_min=60), 24.0),
        (by_hand(3, 20), 1 / 3),
        (WithLamps(when="dark"), 8.0),
    ],
)
def test_how_long_it_runs_at_a_stretch(item, hours):
    lit = spans_of(Daily(start="06:00", hours=16))
    assert unbroken_h(item, lit) == pytest.approx(hours)


@given(
    item=st.sampled_from(
        [
            Always(),
            Never(),
            Daily(start="22:30", hours=5.5, ramp_up_min=30, ramp_down_min=45),
            Daily(hours=7),
            Cycle(on_min=7, every_min=190),
            Cycle(on_min=0.25, every_min=17, when="dark"),
            Cycle(on_min=20, every_min=60, start="21:10", hours=6),
            WithLamps(when="dark"),
            ByHand(times=(HandTime(at="23:50", minutes=25), HandTime(minutes=30))),
        ]
    ),
    step=st.sampled_from([1 / 6, 1 / 3, 1.0, 7.0]),
    over=st.booleans(),
)
def test_shares_of_all_steps_are_those_of_each(item, step, over):
    lit = OVER_MIDNIGHT if over else LIT
    steps = 60
    first = shares_of(item, steps + 1400, step, lit)
    for k in (0, 1, 17, 59, 700, 1459):
        assert first[k] == pytest.approx(min(1.0, share_of(item, k * step, (k + 1) * step, lit)), abs=1e-5)
