"""Forms of the household: the first minute, circuits, tariff, import."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.library import Crop, crops, rule_sets
from canopy.plan import MAX_BYTES
from canopy.plan.rooms import RoomAir
from canopy.plan.site import Site, known_zones
from canopy.plan.tariff import Tariff, read_rates, say_rates
from canopy.quantities import AREA, DURATION, HEIGHT_ABOVE_SEA, LENGTH, PERCENT, POWER, TEMPERATURE
from canopy.schedule import Always, Daily
from canopy.weather import places
from canopy.words import capital, short_name
from canopy_web.forms.choices import KINDS, container_choices, crop_choices, lamp_choices
from canopy_web.forms.clock import hours_of, schedule_of
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

# In place of a crop: a space for conditioning, drying or later.
NOTHING = "none"


class NewSpaceForm(PartForm):
    """The first minute: a closet this big, and what to grow in it."""

    kind = forms.ChoiceField(choices=KINDS, widget=forms.RadioSelect, label="What is it?")
    width_m = QuantityField(LENGTH, 0.1, 10, label="Inner width")
    depth_m = QuantityField(LENGTH, 0.1, 10, label="Inner depth")
    height_m = QuantityField(LENGTH, 0.1, 6, label="Inner height")
    levels = forms.IntegerField(min_value=1, max_value=8, required=False, label="How many levels?")
    crop_id = forms.ChoiceField(
        label="What grows there?", error_messages={"required": "Say what grows there; it decides the rest."}
    )
    count = forms.IntegerField(min_value=1, max_value=200, required=False, label="How many plants?")
    container_id = forms.ChoiceField(required=False, label="In what?")
    raised_m = QuantityField(LENGTH, 0, 3, optional=True, label="On a platform of")
    crop_id_2 = forms.ChoiceField(required=False, label="and")
    count_2 = forms.IntegerField(min_value=1, max_value=200, required=False, label="how many")
    crop_id_3 = forms.ChoiceField(required=False, label="and")
    count_3 = forms.IntegerField(min_value=1, max_value=200, required=False, label="how many")
    lamp_class_id = forms.ChoiceField(required=False, label="Which lamp?")
    lamp_count = forms.IntegerField(min_value=1, max_value=12, required=False, initial=1, label="How many lamps?")
    name = forms.CharField(max_length=120, required=False, label="Its name")

    def __init__(
        self, record: dict[str, Any], data: Any = None, *, known: Mapping[str, Crop] | None = None, **more: Any
    ) -> None:
        super().__init__(record, data, **more)
        self.known = known or crops()
        lamps = [("", "Suggest one"), *lamp_choices(), ("none", "None yet")]
        rows = crop_choices(self.known)
        offer(
            self,
            crop_id=[("", "choose a crop"), (NOTHING, "Nothing yet: an empty space"), *rows],
            crop_id_2=[("", "nothing else"), *rows],
            crop_id_3=[("", "nothing else"), *rows],
            lamp_class_id=lamps,
            container_id=[("", "as usual"), *container_choices()],
        )
        self.initial["kind"] = "tent"

    def clean(self) -> dict[str, Any]:
        """Name the space after its kind and crop when it was given no name."""
        got: dict[str, Any] = super().clean() or {}
        if not got.get("name") and got.get("kind"):
            crop = self.known.get(got.get("crop_id", ""))
            kind = dict(KINDS)[got["kind"]]
            got["name"] = f"{short_name(crop.name)} {kind.lower()}" if crop else kind
        return got


def _rules() -> list[tuple[str, str]]:
    return [(row.id, row.name) for row in rule_sets().values()]


class HouseholdForm(PartForm):
    """Name and tariff."""

    name = forms.CharField(max_length=120, label="Household")
    currency = forms.CharField(max_length=8, label="Currency")
    euro_rate = NumberField(min_value=1e-6, max_value=1e7, required=False, label="What a euro is in it")
    price_per_kwh = NumberField(min_value=0, max_value=100, label="Price per kWh")
    standing_per_day = NumberField(min_value=0, max_value=100, label="Standing charge a day")
    rates = forms.CharField(
        required=False,
        strip=True,
        label="Prices by hours, days and seasons",
        widget=forms.Textarea(attrs={"rows": 3, "cols": 42, "placeholder": "0.34 07:00-22:00\n0.21 22:00-07:00"}),
    )

    def __init__(self, record: dict[str, Any], data: Any = None, **more: Any) -> None:
        tariff = Tariff.model_validate(record["tariff"])
        shown = {
            "currency": record["site"]["currency"],
            "euro_rate": record["site"]["euro_rate"],
            "price_per_kwh": tariff.price_per_kwh,
            "standing_per_day": tariff.standing_per_day,
            "rates": say_rates(tariff.rates),
        }
        super().__init__(record, data, shown=shown, **more)
        if Site(currency=record["site"]["currency"]).price_rate is not None:
            # Prices of the library hold in this money as they are.
            del self.fields["euro_rate"]

    def clean_rates(self) -> Any:
        """Prices for every hour of every day once, or none at all."""
        try:
            found = read_rates(self.cleaned_data["rates"])
            Tariff(rates=found)
        except QuantityError as error:
            raise forms.ValidationError(f"{capital(str(error))}.") from error
        except ValidationError as error:
            words = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
            raise forms.ValidationError(f"{capital(words)}.") from error
        return [rate.model_dump(mode="json") for rate in found]

    def typed(self) -> dict[str, Any]:
        """Lines that were sent as they were shown are no change, however they end."""
        out = super().typed()
        if "rates" in out and out["rates"] == self.record["tariff"]["rates"]:
            del out["rates"]
        return out

    def changes(self) -> dict[str, Any]:
        """Money lies with the tariff and the site."""
        under = {
            "currency": "site.currency",
            "euro_rate": "site.euro_rate",
            "price_per_kwh": "tariff.price_per_kwh",
            "standing_per_day": "tariff.standing_per_day",
            "rates": "tariff.rates",
        }
        return {under.get(key, key): value for key, value in self.typed().items()}


FOLLOWS = (
    ("typed", "as typed here"),
    ("heated", "heated to what is typed, else like outdoors"),
    ("garage", "a garage: half outdoors"),
    ("cellar", "a cellar: follows the ground"),
    ("shed", "a shed: like outdoors"),
)


class SiteForm(PartForm):
    """Where the household lies."""

    latitude_deg = NumberField(min_value=-66, max_value=66, required=False, label="latitude, north positive")
    altitude_m = QuantityField(HEIGHT_ABOVE_SEA, -400, 5000, label="height above sea level")
    time_zone = forms.ChoiceField(required=False, label="time zone")
    place_id = forms.ChoiceField(required=False, label="climate outdoors like")

    def __init__(self, record: dict[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        own = "your own file" if record.get("outdoors") else "not said"
        offer(self, place_id=[("", own), *((item.id, f"{item.name}: {item.words}") for item in places().values())])
        names = sorted(name for name in known_zones() if "/" in name and not name.startswith("Etc/"))
        offer(self, time_zone=[("", "your own"), *((name, name.replace("_", " ")) for name in names)])

    def changes(self) -> dict[str, Any]:
        """A place brings its height, and its latitude where nobody said one; a file of one's own goes then."""
        out = super().changes()
        if "place_id" not in out:
            return out
        place = places().get(out["place_id"] or "")
        out["place_id"] = place.id if place else None
        if place is not None:
            out |= {"outdoors": [], "coldest": None, "hottest": None, "outdoors_from": ""}
            if self.record.get("latitude_deg") is None and out.get("latitude_deg") is None:
                out |= {"latitude_deg": place.latitude_deg, "altitude_m": place.altitude_m}
        return out


class RoomForm(PartForm):
    """A room of the household: its size, its air on a typical, the coldest and the hottest day."""

    name = forms.CharField(max_length=120, label="room")
    floor_m2 = QuantityField(AREA, 0.6, 400, optional=True, label="floor area")
    height_m = QuantityField(LENGTH, 1.5, 8, label="ceiling at")
    exchange_per_h = NumberField(min_value=0, max_value=20, label="air changes an hour")
    loss_w_k = NumberField(min_value=0.1, max_value=2000, required=False, label="heat loss (W/K)")
    floor = forms.ChoiceField(choices=[("wood", "wood"), ("concrete", "concrete or stone")], label="floor of")
    heating_w = QuantityField(POWER, 1, 20_000, optional=True, label="heater in it (W)")
    heat_to_c = QuantityField(TEMPERATURE, -10, 40, label="heats to")
    cooling_w = QuantityField(POWER, 1, 20_000, optional=True, label="air conditioner (W)")
    cool_to_c = QuantityField(TEMPERATURE, 5, 45, label="cools to")
    follows = forms.ChoiceField(choices=FOLLOWS, label="its air")
    day_c = QuantityField(TEMPERATURE, -30, 60, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="by night")
    day_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by night")


class RoomSeasonForm(PartForm):
    """A room's air on its coldest or hottest day; left empty, every day is like the typical one."""

    day_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="by night")
    day_rh_pct = QuantityField(PERCENT, 1, 100, optional=True, label="humidity by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, optional=True, label="humidity by night")

    def __init__(self, record: dict[str, Any], data: Any = None, *, season: str, **more: Any) -> None:
        self.season = season
        super().__init__(record, data, shown=record.get(season) or dict.fromkeys(RoomAir.model_fields), **more)

    def changes(self) -> dict[str, Any]:
        """All four figures go together: those left open follow the typical day, none at all takes the day out."""
        if not self.typed():
            return {}
        got = {key: self.cleaned_data.get(key) for key in RoomAir.model_fields}
        if all(value is None for value in got.values()):
            return {self.season: None}
        return {self.season: {key: self.record[key] if value is None else value for key, value in got.items()}}


class StartForm(PartForm):
    """What a new household needs to know of its mains."""

    rule_set_id = forms.ChoiceField(label="Sockets where you live")

    def __init__(self, record: dict[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, rule_set_id=_rules())


class CircuitForm(PartForm):
    """One circuit."""

    name = forms.CharField(max_length=120, label="circuit")
    rule_set_id = forms.ChoiceField(label="rules")
    breaker_a = NumberField(min_value=1, max_value=125, label="breaker, A")
    mains_v = NumberField(min_value=90, max_value=260, label="mains, V")

    def changes(self) -> dict[str, Any]:
        """A new rule set brings its own breaker and mains, unless they were typed too."""
        out = super().changes()
        if "rule_set_id" in out:
            rules = rule_sets()[out["rule_set_id"]]
            out = {"breaker_a": rules.breaker_a, "mains_v": rules.mains_v, **out}
        return out

    def __init__(self, record: dict[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, rule_set_id=_rules())


LOAD_RUNS = (
    ("always", "always"),
    ("at", "at these hours"),
    ("any", "at any time"),
    ("itself", "by itself"),
)


class LoadForm(PartForm):
    """Something else on a circuit: always on, at set hours, at any time, or as its own thermostat likes."""

    together = (("runs", "start", "hours_per_day"),)

    name = forms.CharField(max_length=120, label="what")
    power_w = QuantityField(POWER, 0, 20_000, label="power drawn")
    runs = forms.ChoiceField(choices=LOAD_RUNS, required=False, label="runs")
    start = forms.RegexField(
        r"^([01]?\d|2[0-3]):[0-5]\d$",
        required=False,
        label="from",
        error_messages={"invalid": "type a time as 18:30"},
        widget=forms.TextInput(attrs={"placeholder": "18:30", "size": 5}),
    )
    hours_per_day = QuantityField(DURATION, 0, 24, label="hours a day")

    def __init__(self, record: dict[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, shown={"hours_per_day": hours_of(record), **_how(record)}, **more)

    def clean(self) -> dict[str, Any]:
        """Set hours need to say from when."""
        got: dict[str, Any] = super().clean() or {}
        if "runs" in got:
            got["runs"] = got["runs"] or self.initial["runs"]
        if got.get("runs") == "at" and not got.get("start") and "start" not in self.errors:
            got["start"] = self.initial.get("start") or "18:00"
        return got

    def changes(self) -> dict[str, Any]:
        """How it runs, from when and for how long become the schedule."""
        out = super().changes()
        if not {"runs", "start", "hours_per_day"} & set(out):
            return out
        runs, start, hours = (self.cleaned_data.get(key) for key in ("runs", "start", "hours_per_day"))
        if "start" in out and start and "runs" not in out:
            runs = "at"
        if "hours_per_day" in out and "runs" not in out and hours != 24 and runs == "always":
            runs = "itself"
        out = {key: value for key, value in out.items() if key not in ("runs", "start", "hours_per_day")}
        if runs == "always":
            out["schedule"] = Always().model_dump(mode="json")
        else:
            at = str(start).zfill(5) if runs == "at" else None
            item = schedule_of(self.record)
            usual = item.hours if isinstance(item, Daily) else 3.0
            some = hours if hours is not None and (hours < 24 or "hours_per_day" in self.typed()) else usual
            out["schedule"] = Daily(start=at, hours=some).model_dump(mode="json")
        out["any_time"] = runs == "any"
        return out

    def sources(self) -> dict[str, str]:
        """The hours stand for the schedule."""
        return {"schedule": "hours_per_day", "hours": "hours_per_day", "any_time": "runs"}


def _how(record: dict[str, Any]) -> dict[str, str]:
    """Which of the ways to run a load's record is, and from when."""
    item = schedule_of(record)
    if isinstance(item, Always):
        return {"runs": "always", "start": ""}
    start = (item.start or "") if isinstance(item, Daily) else ""
    return {"runs": "any" if record.get("any_time") else "at" if start else "itself", "start": start}


class ImportForm(forms.Form):
    """A plan file."""

    file = forms.FileField(label="Plan file", error_messages={"required": "Choose a plan file first."})

    def clean_file(self) -> Any:
        """Refuse what is too large before it is read."""
        file = self.cleaned_data["file"]
        if file.size > MAX_BYTES:
            raise forms.ValidationError(f"This file has {file.size / 1e6:.0f} MB; a plan file has at most 5 MB.")
        return file
