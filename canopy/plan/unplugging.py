"""What becomes of plugs when what they are in is taken away: they go on to what that was plugged into."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any


def unplug(data: dict[str, Any], into: Mapping[str, str]) -> None:
    """Settle outlets, strips and plugs after circuits, outlets or strips were taken out of a plan's data.

    Parameters
    ----------
    data : the plan's data, changed in place
    into : what each strip and timer was plugged into before

    Notes
    -----
    An outlet goes with its circuit, a strip without a way to an outlet with its outlet; what was plugged into a strip
    that went alone is plugged into what that was in. What has nothing left hangs on its space's circuit.
    """
    circuits = {item["id"] for item in data.get("circuits", [])}
    data["outlets"] = [item for item in data.get("outlets", []) if item["circuit_id"] in circuits]
    outlets = {item["id"] for item in data["outlets"]}
    there = {item["id"] for item in data.get("carriers", [])}

    def next_in(key: str | None) -> str | None:
        for _ in range(len(into) + 1):
            if key is None or key in outlets or key in there:
                return key
            key = into.get(key)
        return None

    while True:
        kept = []
        for item in data.get("carriers", []):
            goes = next_in(item["into"])
            if goes is not None:
                kept.append({**item, "into": goes})
        if len(kept) == len(data.get("carriers", [])):
            break
        data["carriers"], there = kept, {item["id"] for item in kept}
    data["carriers"] = kept
    for part in plugged_parts(data):
        part["plug"] = next_in(part.get("plug"))


def plugged_parts(data: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    """Go through all that may be plugged in.

    Parameters
    ----------
    data : a plan's data

    Returns
    -------
    iterator of dict : lamps, devices, circulation fans, fans of ways of air, other loads of circuits
    """
    for space in data.get("spaces", []):
        for key in ("fixtures", "devices", "stirrers"):
            yield from space.get(key, [])
        for way in space.get("airways", []):
            yield from (part for part in way.get("parts", []) if part.get("kind") == "fan")
    for circuit in data.get("circuits", []):
        yield from circuit.get("other_loads", [])
