"""Sensors by address: what an address or a broker gives is shown with a guess at each number, and taken on a click."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import urlsplit

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.logs.measured import measured
from canopy.logs.pointed import MOST_VALUES, Offered, document_of, offered, time_path
from canopy.logs.switching import FEEDS
from canopy.words import capital
from canopy_web.forms.part import PartForm
from canopy_web.logbook import sources
from canopy_web.logbook.fetch import HTTP, MQTT, fetch, hear
from canopy_web.logbook.models import Source
from canopy_web.logbook.outside import outside
from canopy_web.stations.log.forms import OFTEN, ColumnForm
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

# A household has no more of them.
_MOST_SOURCES = 40


class AddressForm(PartForm):
    """Where something can be asked, or a broker with the topics one listens to."""

    address = forms.CharField(max_length=500, label="its address")
    username = forms.CharField(required=False, max_length=120, label="broker's user name")
    password = forms.CharField(required=False, max_length=200, label="and password")
    version = forms.ChoiceField(
        required=False, choices=[("3.1.1", "MQTT 3.1.1"), ("5", "MQTT 5")], label="broker speaks"
    )

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        field = self.fields["address"]
        field.widget.attrs |= {
            "placeholder": "http://192.168.1.20/sensors or mqtt://192.168.1.5/shelf/#",
            "inputmode": "url",
            "autocapitalize": "none",
            "spellcheck": "false",
            "autocomplete": "off",
        }
        self.fields["password"].widget = forms.PasswordInput(render_value=True, attrs={"autocomplete": "off"})
        self.fields["username"].widget.attrs["autocomplete"] = "off"

    def clean_address(self) -> str:
        """With its scheme: a bare one is one to ask."""
        text = str(self.cleaned_data["address"]).strip()
        if "://" not in text:
            text = f"http://{text}"
        if urlsplit(text).scheme not in (*HTTP, *MQTT):
            raise forms.ValidationError("an address begins with http://, https://, mqtt:// or mqtts://")
        return text

    @property
    def by_mqtt(self) -> bool:
        """Whether a broker is listened to."""
        return str(self.cleaned_data["address"]).startswith(MQTT)


def blank_address() -> AddressForm:
    """The form as it stands first."""
    return AddressForm({}, prefix="reach")


@require_POST
@at_space
def try_address(request: HttpRequest, where: Where) -> HttpResponse:
    """Ask once and show what came; nothing is stored."""
    form = AddressForm({}, request.POST, prefix="reach")
    if not form.is_valid():
        return _shown(request, where, {"form": form})
    try:
        came = asyncio.run(_came(form))
        rows, at = _rows(came)
    except QuantityError as error:
        form.add_error("address", f"{capital(str(error))}.")
        return _shown(request, where, {"form": form})
    return _shown(request, where, {"form": form, "found": rows, "at": at, "name": urlsplit(_address(form)).hostname})


def _address(form: AddressForm) -> str:
    return str(form.cleaned_data["address"])


async def _came(form: AddressForm) -> list[tuple[str, bytes]]:
    got = form.cleaned_data
    if form.by_mqtt:
        return await hear(got["address"], got["username"], got["password"], got["version"] or "3.1.1")
    return [("", await fetch(got["address"]))]


def _rows(came: Sequence[tuple[str, bytes]]) -> tuple[list[dict[str, Any]], str]:
    """The numbers that came, each with a form to take it by, and where their time stands."""
    rows: list[dict[str, Any]] = []
    times, wrong = [], []
    for topic, content in came:
        try:
            document = document_of(content)
        except QuantityError as error:
            wrong.append(str(error))
            continue
        times.append(time_path(document))
        for item in offered(document):
            if len(rows) < MOST_VALUES:
                rows.append(_row(len(rows), topic, item))
    if not rows:
        raise QuantityError(wrong[0] if wrong else "there is no number in what came")
    # One place of the time for all of a source.
    return rows, times[0] if times and all(item == times[0] for item in times) else ""


def _row(number: int, topic: str, item: Offered) -> dict[str, Any]:
    guess = _guess(topic, item)
    form = ColumnForm(initial=guess, prefix=f"v{number}", auto_id=f"v{number}-%s")
    return {"number": number, "topic": topic, "path": item.path, "shows": f"{item.value:g}", "form": form}


def _guess(topic: str, item: Offered) -> dict[str, str]:
    """What a number may measure; where its own name says nothing, the topic may."""
    if item.quantity or not topic:
        return {"quantity": item.quantity, "unit": item.unit, "name": item.name}
    named = offered({topic.replace("/", " "): item.value})[0]
    return {"quantity": named.quantity, "unit": named.unit, "name": named.name}


def _shown(request: HttpRequest, where: Where, shown: dict[str, Any]) -> HttpResponse:
    by_mqtt = shown["form"].is_valid() and shown["form"].by_mqtt
    typed = {key: request.POST.get(key, "") for key in ("feeds", "switch_address", "switch_state")}
    given = {"often": OFTEN, "by_mqtt": by_mqtt, "all_feeds": FEEDS.items(), **typed, **shown}
    return render(request, "log/_address.html", {**place(where, where.reader()), **given})


@require_POST
@at_space
def take_address(request: HttpRequest, where: Where) -> HttpResponse:
    """Ask or listen from now on, for the numbers that were chosen."""
    form = AddressForm({}, request.POST, prefix="reach")
    if not form.is_valid():
        return _shown(request, where, {"form": form})
    rows = _posted(request)
    values = [row for row in rows if row["quantity"]]
    name = request.POST.get("source_name", "").strip()[:80] or str(urlsplit(_address(form)).hostname)
    try:
        _may_open(where, form)
        if not values:
            raise QuantityError("say of at least one number what it measures")
        shape = sources.SourceShape.model_validate(
            {
                "every_s": _every(request),
                "at": request.POST.get("at", ""),
                "values": values,
                "switch": _switch(request, form),
                **{key: form.cleaned_data[key] or "" for key in ("username", "password")},
                "version": form.cleaned_data["version"] or "3.1.1",
            }
        )
    except (QuantityError, ValidationError, ValueError) as error:
        words = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
        found = [_again(number, row) for number, row in enumerate(rows)]
        shown = {"form": form, "found": found, "at": request.POST.get("at", ""), "name": name, "wrong": capital(words)}
        return _shown(request, where, shown)
    sources.open_at(where.row, where.space.id, "mqtt" if form.by_mqtt else "pull", name, _address(form), shape)
    answer = page(request, where, words=f"{name} is {'listened to' if form.by_mqtt else 'asked'} from now on.")
    answer["HX-Retarget"], answer["HX-Reswap"] = "#workspace", "outerHTML"
    return answer


def _switch(request: HttpRequest, form: AddressForm) -> dict[str, str] | None:
    """How it is switched, where a person said that it can be; None for what only measures."""
    feeds = request.POST.get("feeds", "")
    if not feeds or form.by_mqtt:
        return None
    address = request.POST.get("switch_address", "").strip() or _address(form)
    outside(address, HTTP)
    return {"address": address, "state": request.POST.get("switch_state", "").strip() or "$.on", "feeds": feeds}


def _every(request: HttpRequest) -> int:
    text = request.POST.get("every_s") or "60"
    if not text.isdigit() or not sources.OFTEN_S <= int(text) <= sources.SELDOM_S:
        raise QuantityError(f"ask every {sources.OFTEN_S} s to once a day")
    return int(text)


def _may_open(where: Where, form: AddressForm) -> None:
    outside(_address(form), MQTT if form.by_mqtt else HTTP)
    if Source.objects.filter(plan=where.row).count() >= _MOST_SOURCES:
        raise QuantityError(f"a household has at most {_MOST_SOURCES} sources")


def _posted(request: HttpRequest) -> list[dict[str, Any]]:
    """The numbers as they were posted back, with what was chosen for each."""
    out = []
    for number in range(MOST_VALUES):
        path = request.POST.get(f"v{number}-path")
        if path is None:
            break
        quantity = request.POST.get(f"v{number}-quantity", "")
        out.append(
            {
                "topic": request.POST.get(f"v{number}-topic", ""),
                "path": path,
                "quantity": quantity,
                "unit": request.POST.get(f"v{number}-unit", ""),
                "name": request.POST.get(f"v{number}-name", "").strip()[:80]
                or (measured(quantity).name if quantity else "value"),
            }
        )
    return out


def _again(number: int, row: dict[str, Any]) -> dict[str, Any]:
    form = ColumnForm(initial=row, prefix=f"v{number}", auto_id=f"v{number}-%s")
    return {"number": number, "topic": row["topic"], "path": row["path"], "shows": "", "form": form}
