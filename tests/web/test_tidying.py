"""Garbage is collected once nobody asks, never within a request where that can wait."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from typing import Any

import pytest

from canopy_web import tidying
from canopy_web.tidying import Tidied


def _until(told: Callable[[], bool]) -> None:
    end = time.monotonic() + 5
    while not told() and time.monotonic() < end:
        time.sleep(0.01)


@pytest.fixture
def collected(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What the collector was asked for, in order."""
    found: list[str] = []
    monkeypatch.setattr(tidying, "_QUIET_S", 0.05)
    monkeypatch.setattr(gc, "collect", lambda: found.append("collect"))
    monkeypatch.setattr(gc, "freeze", lambda: found.append("freeze"))
    return found


def _ask(served: Tidied, times: int = 1) -> None:
    for _ in range(times):
        served({}, lambda *_: None)


def test_the_first_answer_is_followed_by_a_collection_whose_rest_stays(collected: list[str]):
    served = Tidied(lambda environ, start: [b""])
    time.sleep(0.2)
    assert collected == []
    _ask(served)
    _until(lambda: len(collected) == 2)
    assert collected == ["collect", "freeze"]


def test_later_ones_wait_for_some_answers(collected: list[str]):
    served = Tidied(lambda environ, start: [b""])
    _ask(served)
    _until(lambda: len(collected) == 2)
    _ask(served, 5)
    time.sleep(0.3)
    assert len(collected) == 2
    _ask(served, 20)
    _until(lambda: len(collected) == 3)
    assert collected == ["collect", "freeze", "collect"]


def test_nothing_is_collected_while_somebody_waits(collected: list[str]):
    during: list[int] = []

    def slow(environ: dict[str, Any], start: Callable[..., Any]) -> list[bytes]:
        time.sleep(0.3)
        during.append(len(collected))
        return [b""]

    served = Tidied(slow)
    _ask(served)
    assert during == [0]
    _until(lambda: len(collected) == 2)
    assert collected == ["collect", "freeze"]


def test_an_error_counts_as_an_answer(collected: list[str]):
    def broken(environ: dict[str, Any], start: Callable[..., Any]) -> list[bytes]:
        raise RuntimeError("broken")

    served = Tidied(broken)
    with pytest.raises(RuntimeError):
        _ask(served)
    _until(lambda: len(collected) == 2)
    assert collected == ["collect", "freeze"]
