"""Changes of a request that could meet it: families of them, in each the smallest first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from canopy.designer.making import STIFF
from canopy.designer.request import KIND_NAMES, Refusal, Request, SpaceWish
from canopy.designer.search import Search
from canopy.library import Crop
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.document import Plan
from canopy.words import counted

# What is refused, as it is given way in; where a refusal has no bearing on a kind of space it is not offered.
_GIVEN_WAY: dict[Refusal, str] = {
    "drilling": "Allow holes for the air",
    "smell": "Put up with some smell: no carbon filter",
    "sockets": "Let it take several sockets",
}
# Shares of the plants that are asked for; rooms so far below the middle of what is wanted by day and by night, which
# the lamps then warm [K].
_SHARES, _BELOW_K = (0.75, 0.5, 0.25), ((1.5, 0.5), (3.0, 1.0))
_WIDER, _MOST_M = 1.3, (10.0, 6.0)


@dataclass(frozen=True, kw_only=True, eq=False)
class Change:
    """What is changed, in words, and the request so changed; ``room_id`` where it is that it stands in another room of
    the household.
    """

    label: Sentence
    request: Request
    room_id: str = ""


@dataclass(frozen=True, kw_only=True, eq=False)
class Changes:
    """Those of one space of a request, after a search that found nothing, or nothing but with what cools.

    ``wish`` has its size, ``outside`` are the stations whose margins stay outside in what comes nearest.
    """

    request: Request
    number: int
    wish: SpaceWish
    crops: tuple[Crop, ...]
    household: Plan
    search: Search
    outside: frozenset[str]

    def families(self) -> Iterator[Iterator[Change]]:
        """Give them in the order in which they are worth trying.

        Returns
        -------
        iterator of iterators of Change : one that would do stands for the rest of its family
        """
        yield self._elsewhere()
        for refusal in self.request.refuses:
            yield self._allowed(refusal)
        if "climate" in self.outside:
            yield self.another_room()
        yield self._fewer()
        if self.outside - {"climate"}:
            yield self._larger()
        yield self._without()

    def _asked(self, wish: SpaceWish | None = None, **values: Any) -> Request:
        spaces = list(self.request.spaces)
        spaces[self.number] = wish or self.wish
        return self.request.model_copy(update={"spaces": tuple(spaces), **values})

    def _elsewhere(self) -> Iterator[Change]:
        for room in self.household.rooms[1:]:
            label = sentence(f"Stand it in the room {room.name}")
            yield Change(label=label, request=self._asked(), room_id=room.id)

    def _allowed(self, refusal: Refusal) -> Iterator[Change]:
        if refusal not in _GIVEN_WAY or (refusal == "drilling" and self.wish.kind not in STIFF):
            return
        kept = tuple(item for item in self.request.refuses if item != refusal)
        yield Change(label=sentence(_GIVEN_WAY[refusal]), request=self._asked(refuses=kept))

    def another_room(self) -> Iterator[Change]:
        """Give rooms that are kept near the middle of what the crops want.

        Returns
        -------
        iterator of Change : the warmer one first
        """
        room = self.household.room(self.search.maker.bare.room_id)
        wants = [plant.want for plant in self.search.maker.level.plants]
        if room is None or not wants:
            return
        day, night = (
            (max(getattr(want, key).low for want in wants) + min(getattr(want, key).high for want in wants)) / 2
            for key in ("air_day_c", "air_night_c")
        )
        for by_day, by_night in _BELOW_K:
            kept = {"day_c": round(day - by_day), "night_c": round(night - by_night), "coldest": None, "hottest": None}
            moved = room.model_copy(update=kept)
            if (moved.day_c, moved.night_c) == (room.day_c, room.night_c):
                continue
            verb = "Heat" if moved.day_c + moved.night_c > room.day_c + room.night_c else "Keep"
            amounts = {
                "d": Amount(value=moved.day_c, unit="temperature"),
                "n": Amount(value=moved.night_c, unit="temperature"),
            }
            label = sentence(f"{verb} the room to {{d}} by day and {{n}} by night", **amounts)
            yield Change(label=label, request=self._asked(room=moved))

    def _fewer(self) -> Iterator[Change]:
        stands = last = len(self.search.maker.bare.plants)
        for share in _SHARES:
            wishes = []
            for wish, crop in zip(self.wish.crops, self.crops, strict=True):
                there = sum(plant.crop_id == crop.id for plant in self.search.maker.bare.plants)
                wishes.append(wish.model_copy(update={"count": max(1, round(share * (wish.count or there)))}))
            many = sum(wish.count for wish in wishes)
            if many < last:
                last = many
                label = sentence(f"Grow {counted(many, 'plant')} instead of {stands}")
                yield Change(label=label, request=self._asked(self.wish.model_copy(update={"crops": tuple(wishes)})))

    def _larger(self) -> Iterator[Change]:
        sides = self.wish.width_m, self.wish.depth_m, self.wish.height_m
        if None in sides:
            return
        width, depth, height = (float(side or 0.0) for side in sides)
        for wider, taller, how in ((1.0, _WIDER, "taller"), (_WIDER, 1.0, "wider"), (_WIDER, _WIDER, "larger")):
            size = {
                "width_m": round(width * wider, 2),
                "depth_m": round(depth * wider, 2),
                "height_m": round(height * taller, 2),
            }
            if max(size["width_m"], size["depth_m"]) > _MOST_M[0] or size["height_m"] > _MOST_M[1]:
                continue
            amounts = {key: Amount(value=value, unit="length") for key, value in size.items()}
            words = f"Take a {how} {KIND_NAMES[self.wish.kind]}: {{width_m}} × {{depth_m}}, {{height_m}} high"
            yield Change(label=sentence(words, **amounts), request=self._asked(self.wish.model_copy(update=size)))

    def _without(self) -> Iterator[Change]:
        """One crop fewer, where there are several."""
        if len(self.crops) < 2:
            return
        for crop in reversed(self.crops):
            kept = tuple(wish for wish in self.wish.crops if wish.crop_id != crop.id)
            label = sentence(f"Grow {crop.name} elsewhere")
            yield Change(label=label, request=self._asked(self.wish.model_copy(update={"crops": kept})))
