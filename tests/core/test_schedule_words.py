"""Schedules in people's words: read, said again, refused with what would be accepted."""

import pytest

from canopy.errors import QuantityError
from canopy.schedule import Always, Cycle, Daily, Never, WithLamps
from canopy.schedule_words import read_schedule, say_schedule


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("always", Always()),
        ("All day", Always()),
        ("off", Never()),
        ("with the lamps", WithLamps(when="lit")),
        ("lights on", WithLamps(when="lit")),
        ("nights only", WithLamps(when="dark")),
        ("while the lamps are off", WithLamps(when="dark")),
        ("7 min every 3 h", Cycle(on_min=7, every_min=180)),
        ("2 min every hour", Cycle(on_min=2, every_min=60)),
        ("15 s every 10 min", Cycle(on_min=0.25, every_min=10)),
        ("2 min every hour by night", Cycle(on_min=2, every_min=60, when="dark")),
        ("7 min every 3 h, with the lamps", Cycle(on_min=7, every_min=180, when="lit")),
        ("5 min every 1 h from 8:00 to 20:00", Cycle(on_min=5, every_min=60, start="08:00", hours=12)),
        ("20 min at lights-out", Cycle(on_min=20, every_min=1440, when="dark")),
        ("6 h a day", Daily(hours=6)),
        ("22:00 for 6 h", Daily(start="22:00", hours=6)),
        ("from 22:00 to 6:30", Daily(start="22:00", hours=8.5)),
        ("22.00–06.00", Daily(start="22:00", hours=8)),
    ],
)
def test_what_is_said_is_meant_and_said_again(text, meant):
    assert read_schedule(text) == meant
    assert read_schedule(say_schedule(meant)) == meant


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("7 min every 30 h", "longer than its day"),
        ("90 min every hour", "cannot run"),
        ("0 min every hour", "would not run at all"),
        ("30 h a day", "24 hours"),
        ("now and then", "type “always”"),
        ("5 min every hour on sundays", "not understood"),
        ("25:00 for 3 h", "not understood"),
    ],
)
def test_what_cannot_be_says_what_could(text, words):
    with pytest.raises(QuantityError, match=words):
        read_schedule(text)
