"""The margins of light: per crop and stage, evenness, the upper limit, hours, headroom."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from canopy.evaluate.light.day_length import hours_margin
from canopy.evaluate.light.headroom import side_margins, stack_margins
from canopy.evaluate.light.lighting import Lighting, PlantLight
from canopy.evaluate.naming import cite, stage_name
from canopy.library import StageTargets
from canopy.light.photometry import given_ppf
from canopy.light.spectra import mixed
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_most, judge_window, sentence
from canopy.quantities.reader import LIGHT_DOUBT, PPFD
from canopy.season import Standing
from canopy.words import counted, percent

DLI = "mol/m²/d"
_DOUBT = Amount(value=0, unit=LIGHT_DOUBT)
EVEN_ENOUGH, EVEN_LEAST = 0.7, 0.5
_MODEL = "Mild Canopy light model: direct light exact over the lamp's face, walls, bodies and leaves by radiosity"


def light_margins(here: Standing, lighting: Lighting) -> list[Margin]:
    """Judge a space's light.

    Parameters
    ----------
    here : the space on a day
    lighting : its computed light

    Returns
    -------
    list of Margin : empty when nothing grows there and nothing hangs there
    """
    found: list[Margin] = []
    for _, group in sorted(lighting.by_kind.items()):
        found += _crop(here, list(group))
    if lighting.plants and (here.space.fixtures or here.space.daylight):
        found += [_limit(lighting), _evenness(lighting), _delivered(here, lighting)]
        found += [*stack_margins(here), *side_margins(here), *_net(here, lighting)]
    return found


def _crop(here: Standing, group: list[PlantLight]) -> Iterator[Margin]:
    plant = group[0].plant
    want, name = plant.want, stage_name(plant)
    code = f"{plant.crop_id}.{plant.stage}"
    parts = tuple(light.plant.id for light in group)
    count = len(group)
    daily = _window(
        f"light.dli.{code}",
        f"{name}: daily light",
        parts,
        count,
        [light.dli_mol_m2_d for light in group],
        (want.dli_mol_m2_d.low, want.dli_mol_m2_d.high),
        DLI,
        _dli_working(here, group, want),
    )
    yield daily
    bright = _window(
        f"light.ppfd.{code}",
        f"{name}: PPFD",
        parts,
        count,
        [light.ppfd_umol_m2_s for light in group],
        (want.ppfd_umol_m2_s.low, want.ppfd_umol_m2_s.high),
        PPFD,
        _ppfd_working(here, group, want),
    )
    yield _bright_but_fitting(bright, daily, group) if bright.verdict == "over" else bright
    hours = [f.hours for f in here.space.fixtures if f.enabled and f.dim > 0 and f.spec.purpose == "grow"]
    hours += [window.hours for window in here.space.daylight]
    if hours:
        yield hours_margin(plant, parts, max(hours))


def _bright_but_fitting(bright: Margin, daily: Margin, group: list[PlantLight]) -> Margin:
    """More PPFD than is usual, in fewer hours, is no harm as long as the daily light fits and no leaf is scorched."""
    want = group[0].plant.want
    most = max(light.most_ppfd_umol_m2_s for light in group)
    if daily.verdict not in ("good", "tight") or most > want.ppfd_limit_umol_m2_s:
        return bright
    amounts = {
        "w": Amount(value=want.ppfd_umol_m2_s.low, high=want.ppfd_umol_m2_s.high, unit=PPFD),
        "limit": Amount(value=want.ppfd_limit_umol_m2_s, unit=PPFD),
    }
    return replace(
        bright,
        verdict="good",
        mendable=False,
        need=sentence("{w} is usual, under {limit}", **amounts),
        why=sentence("Brighter than is usual, but under what harms, and the daily light fits.", **amounts),
    )


def _window(
    code: str,
    title: str,
    parts: tuple[str, ...],
    count: int,
    values: list[float],
    window: tuple[float, float],
    unit: str,
    working: Working,
) -> Margin:
    least, most = min(values), max(values)
    low, high = window
    verdict = judge_window(least, most, low, high)
    there = Amount(value=least, unit=unit, high=most if most > least * 1.02 else None)
    edges = {
        "least": Amount(value=least, unit=unit),
        "most": Amount(value=most, unit=unit),
        "low": Amount(value=low, unit=unit),
        "high": Amount(value=high, unit=unit),
    }
    dimmest = f"The dimmest of {count} plants" if count > 1 else "The one plant"
    brightest = f"The brightest of {count} plants" if count > 1 else "The one plant"
    words: dict[Verdict, str] = {
        "short": f"{dimmest} gets {{least}}; it needs at least {{low}}.",
        "over": f"{brightest} gets {{most}}; above {{high}} light is wasted or stresses it.",
        "tight": "Inside the window, but close to its edge: {least} to {most} of {low} to {high}.",
        "good": f"All {count} plants lie inside the window." if count > 1 else "It lies inside the window.",
    }
    if verdict == "short" and least <= 0:
        words["short"] = "No light reaches it." if count == 1 else "Some get no light at all."
    return Margin(
        id=code,
        station="light",
        title=title,
        parts=parts,
        verdict=verdict,
        mendable=verdict in ("short", "over"),
        need=sentence("{window}", window=Amount(value=low, high=high, unit=unit)),
        there=sentence(
            ("{there}{doubt}" if unit == PPFD else "{there}")
            + (", dimmest–brightest" if there.high is not None else ""),
            there=there,
            doubt=_DOUBT,
        ),
        why=sentence(words[verdict], **edges),
        working=working,
    )


def _worst_of(group: list[PlantLight], want: StageTargets) -> PlantLight:
    short = min(group, key=lambda light: light.dli_mol_m2_d)
    return short if short.dli_mol_m2_d < want.dli_mol_m2_d.low else max(group, key=lambda light: light.dli_mol_m2_d)


def _lamp_steps(here: Standing, light: PlantLight) -> Iterator[Step]:
    space = here.space
    for number, (lamp, value) in enumerate(zip(space.fixtures, light.by_source_umol_m2_s, strict=False), 1):
        if value > 0:
            yield Step(
                symbol=f"E{number}",
                meaning=f"{lamp.spec.name} at {percent(lamp.dim)}, {lamp.full_hours:g} h",
                amount=Amount(value=value, unit=PPFD),
            )
    for window, value in zip(space.daylight, light.by_source_umol_m2_s[len(space.fixtures) :], strict=True):
        if value > 0:
            words = f"daylight, {window.dli_on(here.day):g} mol/m²/d inside the pane, {window.hours:g} h"
            yield Step(symbol="E day", meaning=words, amount=Amount(value=value, unit=PPFD))


def _where_read(light: PlantLight) -> str:
    if light.plant.climbs:
        return "a climber: mean over the 4 best lit of 7 heights from its tip down, each leaf turned up or to a side"
    return "mean over 7 points of its top"


def _dli_working(here: Standing, group: list[PlantLight], want: StageTargets) -> Working:
    light = _worst_of(group, want)
    number = light.plant.number
    return Working(
        formula=f"DLI = 0.0036 × Σ E × h, for plant {number} ({_where_read(light)})",
        steps=(
            *_lamp_steps(here, light),
            Step(symbol="DLI", meaning="daily light integral", amount=Amount(value=light.dli_mol_m2_d, unit=DLI)),
        ),
        source=f"{_MODEL}. Target: {cite(want.light)}",
        certainty="The model is good to about 2 % for the lamp as stated; stated output and wall reflectance "
        "carry ±10 %. A meter beats both.",
    )


def _ppfd_working(here: Standing, group: list[PlantLight], want: StageTargets) -> Working:
    light = _worst_of(group, want)
    number = light.plant.number
    mean = light.ppfd_umol_m2_s
    return Working(
        formula=f"E = Σ E of each lamp, direct and by way of the walls, for plant {number} ({_where_read(light)})",
        steps=(
            *_lamp_steps(here, light),
            Step(symbol="E", meaning="mean on the leaves that count", amount=Amount(value=mean, unit=PPFD)),
            Step(
                symbol="",
                meaning="of which by way of walls and bodies",
                amount=Amount(value=100 * light.reflected_share, unit="%", decimals=0),
            ),
        ),
        source=f"{_MODEL}. Target: {cite(want.light)}",
        certainty="The model is good to about 2 % for the lamp as stated; stated output and wall reflectance "
        "carry ±10 %.",
    )


def _limit(lighting: Lighting) -> Margin:
    light = max(lighting.plants, key=lambda item: item.most_ppfd_umol_m2_s / item.plant.want.ppfd_limit_umol_m2_s)
    want = light.plant.want
    limit, most = want.ppfd_limit_umol_m2_s, light.most_ppfd_umol_m2_s
    verdict = judge_most(most, limit)
    amounts = {"most": Amount(value=most, unit=PPFD), "limit": Amount(value=limit, unit=PPFD)}
    name = stage_name(light.plant)
    words = {
        "over": f"{name}: its brightest leaf gets {{most}}; above {{limit}} leaves bleach or scorch.",
        "tight": f"{name} comes closest: {{most}} of {{limit}} at most.",
        "good": f"{name} comes closest to its limit and stays well under.",
    }
    return Margin(
        id="light.limit",
        station="light",
        title="Upper light limit",
        parts=(light.plant.id,),
        verdict=verdict,
        mendable=verdict == "over",
        need=sentence("at most {limit}", **amounts),
        there=sentence("{most}{doubt}", **amounts, doubt=_DOUBT),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="greatest PPFD over 7 points of each plant's top, against its stage's limit",
            steps=(
                Step(symbol="E max", meaning=name, amount=amounts["most"]),
                Step(symbol="limit", meaning="where damage begins", amount=amounts["limit"]),
            ),
            source=f"{_MODEL}. Limit: {cite(want.light)}",
            certainty="Limits differ between varieties and with hardening by a third or more.",
        ),
    )


def _evenness(lighting: Lighting) -> Margin:
    """Evenness within the crop and stage that fares worst: different crops get different light on purpose."""
    worst = _least_even(lighting)
    members, there, least, mean = worst.members, worst.evenness, worst.least, worst.mean
    verdict: Verdict = "good" if there >= EVEN_ENOUGH else "tight" if there >= EVEN_LEAST else "short"
    amounts = {
        "there": Amount(value=there, unit="", decimals=2),
        "least": Amount(value=least, unit=PPFD),
        "mean": Amount(value=mean, unit=PPFD),
    }
    name = stage_name(members[0].plant)
    words = {
        "short": (
            f"{name}: the dimmest leaf gets {{least}} where the mean is {{mean}}: some plants will lag far behind."
        ),
        "tight": f"{name}: the dimmest leaf gets {{least}} where the mean is {{mean}}: turn the plants now and then.",
        "good": f"{name} is lit least evenly: dimmest leaf {{least}}, mean {{mean}}; they will grow alike.",
    }
    return Margin(
        id="light.evenness",
        station="light",
        title="Evenness over the tops",
        verdict=verdict,
        mendable=verdict == "short",
        need=sentence(f"{EVEN_ENOUGH:g}, at least {EVEN_LEAST:g}"),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        parts=tuple(light.plant.id for light in members),
        working=Working(
            formula="U = E min / E mean over the tops of one crop and stage; the least even one counts",
            steps=(
                Step(symbol="E min", meaning="dimmest point", amount=amounts["least"]),
                Step(symbol="E mean", meaning=f"mean over {counted(len(members), 'plant')}", amount=amounts["mean"]),
                Step(symbol="U", meaning="evenness", amount=amounts["there"]),
            ),
            source=f"{_MODEL}. 0.7 is common in sole-source trials, practice",
            certainty="A rule of thumb; turning and changing places evens out the rest.",
        ),
    )


def _net(here: Standing, lighting: Lighting) -> Iterator[Margin]:
    """Plants under a net grow into one another: their tops are judged as one level of leaves."""
    held = [light for light in lighting.plants if light.plant.netted]
    if here.space.net is None or len(held) < 2:
        return
    least = min(light.least_ppfd_umol_m2_s for light in held)
    most = max(light.most_ppfd_umol_m2_s for light in held)
    mean = sum(light.ppfd_umol_m2_s for light in held) / len(held)
    floor = here.space.size.width_m * here.space.size.depth_m
    filled = min(1.0, sum(light.plant.ground_m2 for light in held) / floor)
    there = least / mean if mean > 0 else 0.0
    verdict: Verdict = "good" if there >= EVEN_ENOUGH else "tight" if there >= EVEN_LEAST else "short"
    amounts = {
        "level": Amount(value=here.space.net.z_m, unit="length"),
        "there": Amount(value=there, unit="", decimals=2),
        "range": Amount(value=least, high=most, unit=PPFD),
        "mean": Amount(value=mean, unit=PPFD),
        "filled": Amount(value=100 * filled, unit="%", decimals=0),
        "count": Amount(value=len(held), unit="", decimals=0),
    }
    words = {
        "short": "Its dimmest leaf gets far less than the mean of {mean}: spread the lamps, or the shoots under it.",
        "tight": "Its dimmest leaf lags behind the mean of {mean}: weave shoots from the bright part into the dim one.",
        "good": "One even level of leaves around {mean}.",
    }
    yield Margin(
        id="light.net",
        station="light",
        title="The canopy under the net",
        parts=tuple(light.plant.id for light in held),
        verdict=verdict,
        mendable=verdict == "short",
        need=sentence(f"at least {EVEN_ENOUGH:g}"),
        there=sentence("{there}, {range}", **amounts),
        why=sentence(
            "{count} plants make one canopy at {level}; they fill {filled} of the ground. " + words[verdict], **amounts
        ),
        working=Working(
            formula="U = E min / E mean over the tops of all plants that the net holds, whatever their kind",
            steps=(
                Step(symbol="E min", meaning="dimmest point at the net", amount=Amount(value=least, unit=PPFD)),
                Step(symbol="E mean", meaning=f"mean over {counted(len(held), 'plant')}", amount=amounts["mean"]),
                Step(symbol="U", meaning="evenness", amount=amounts["there"]),
                Step(symbol="filled", meaning="crowns over the ground of the space", amount=amounts["filled"]),
            ),
            source=f"{_MODEL}. 0.7 is common in sole-source trials, practice",
            certainty="How far held shoots spread is rough (at most 1.6 times their free spread).",
        ),
    )


def _delivered(here: Standing, lighting: Lighting) -> Margin:
    """How many of the lamps' photons land on leaves, for information."""
    amounts = {
        "per": Amount(value=lighting.delivered_umol_per_j, unit="µmol/J", decimals=2),
        "share": Amount(value=100 * lighting.canopy_share, unit="%", decimals=0),
        "on": Amount(value=lighting.canopy_umol_s, unit="µmol/s"),
        "given": Amount(value=lighting.ppf_umol_s, unit="µmol/s"),
        "power": Amount(value=lighting.power_w, unit="power"),
    }
    bands = mixed([(lamp.spec, given_ppf(lamp)) for lamp in here.space.fixtures])
    colour = ", ".join(f"{name} {percent(share)}" for name, share in bands.items())
    return Margin(
        id="light.delivered",
        station="light",
        title="Photons on leaves",
        verdict="good",
        information=True,
        need=sentence("for information"),
        there=sentence("{per}, {share} of what the lamps give", **amounts),
        why=sentence(
            f"Of {{given}} that leave the lamps {{on}} land on leaves. Their photons: {colour}."
            if colour
            else "No lamp shines.",
            **amounts,
        ),
        working=Working(
            formula="µmol/J delivered = Σ PPFD × π/4 · spread² / power at the wall",
            steps=(
                Step(symbol="PPF", meaning="lamps as they are set", amount=amounts["given"]),
                Step(symbol="Σ", meaning="on the crowns' outer faces", amount=amounts["on"]),
                Step(symbol="P", meaning="drawn by the lamps", amount=amounts["power"]),
            ),
            source=f"{_MODEL}. Colours: typical spectra of this library, or the lamp's own",
            certainty=(
                "±10 %, as the lamps' stated output. Judge by PPFD and DLI first; colour shapes, it does not feed."
            ),
        ),
    )


@dataclass(frozen=True, kw_only=True)
class _Evenness:
    """Plants of one crop and stage: dimmest point and mean [µmol/m²/s], and their ratio."""

    members: tuple[PlantLight, ...]
    least: float
    mean: float

    @property
    def evenness(self) -> float:
        return self.least / self.mean if self.mean > 0 else 0.0


def _least_even(lighting: Lighting) -> _Evenness:
    found = [
        _Evenness(
            members=group,
            # Down a climber light falls off as it must: plant is held against plant.
            least=min(light.ppfd_umol_m2_s if light.plant.climbs else light.least_ppfd_umol_m2_s for light in group),
            mean=sum(light.ppfd_umol_m2_s for light in group) / len(group),
        )
        for group in lighting.by_kind.values()
    ]
    return min(found, key=lambda item: item.evenness)


def least_even(lighting: Lighting) -> float:
    """Give the evenness of the crop and stage that is lit least evenly.

    Parameters
    ----------
    lighting : computed light, with plants

    Returns
    -------
    float : dimmest point / mean, 0..1
    """
    return _least_even(lighting).evenness
