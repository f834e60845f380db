"""The margins of each way of air: whether its fan copes, whether diameters fit, its filters, the speed in its ducts."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.air import is_open
from canopy.air.fan_curve import stall_share
from canopy.air.filter_bed import (
    CONTACT_GOOD_S,
    CONTACT_POOR_S,
    DAMP_RH_PCT,
    FACE_GOOD_M_S,
    FACE_MOST_M_S,
    FilterLoad,
)
from canopy.evaluate.air.amounts import AIR_SOURCE, air_speed, flow, pascal
from canopy.evaluate.air.breathing import Breathing
from canopy.evaluate.air.paths import PathReport
from canopy.light.photometry import fixture_load
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.airways import part_length_m
from canopy.plan.document import Space

_DUCT_HISS_M_S, _DUCT_LOUD_M_S = 5.0, 8.0
# Where somebody sleeps, or said how quiet it is to be below this [dB(A)], ducts are heard from 3 to 4 m/s on.
_QUIET_M_S, _QUIET_LOUD_M_S, _QUIET_DBA = 3.5, 6.0, 35.0
_RATED_MOST = 1.0


def path_margins(space: Space, breathing: Breathing, paths: tuple[PathReport, ...]) -> list[Margin]:
    """Judge a space's ways of air.

    Parameters
    ----------
    breathing : its computed air
    paths : its ways of air at work

    Returns
    -------
    list of Margin : each that can be judged
    """
    found: list[Margin] = []
    for path in paths:
        found += _work(path, breathing)
        found += _fit(space, path)
        found += [_filter(path, load, breathing) for load in path.filters if path.flow_m3_h > 0]
        found += _duct_speed(space, path)
        found += _length(space, path)
    return [*found, *hood_margins(space, breathing)]


def _work(path: PathReport, breathing: Breathing) -> Iterator[Margin]:
    """Whether the fan copes with its path."""
    airway = path.airway
    if not airway.fans:
        if airway.ends == "space" or airway.parts:
            yield _passive(path, breathing)
        return
    point = path.point
    if point is None:
        return
    amounts = {
        "q": flow(path.flow_m3_h),
        "free": flow(point.free_m3_h),
        "need": pascal(point.loss_pa + max(0.0, -point.space_pa)),
        "has": pascal(point.max_pa),
        "lift": pascal(point.lift_pa),
        "s": Amount(value=100 * point.speed, unit="%", decimals=0),
        "share": Amount(value=100 * path.flow_m3_h / point.free_m3_h if point.free_m3_h else 0.0, unit="%", decimals=0),
        "stall": Amount(value=100 * _stalls_at(path), unit="%", decimals=0),
    }
    verdict: Verdict = "good"
    words = "At {s} the path lets {q} through, {share} of what the fan moves in free air."
    if path.chain.shut:
        verdict, words = "short", "Its port is shut: nothing moves. Open it at Space."
    elif path.flow_m3_h < -0.5:
        verdict, words = "short", "Air is pushed back through this fan: it is weaker than what works against it."
    elif point.stalls:
        verdict = "short"
        words = _stalled(path, amounts)
    elif path.flow_m3_h < (_stalls_at(path) + _NEAR_STALL) * point.free_m3_h:
        verdict, words = (
            "tight",
            "At {s} only {q} come through, {share} of free air: the fan works against {lift}, near its end.",
        )
    yield Margin(
        id=f"air.work.{airway.id}",
        station="air",
        title=f"Fan against path, {airway.name}",
        verdict=verdict,
        need=sentence("a path the fan can feed"),
        there=sentence("{q} at {s}", **amounts),
        why=sentence(words, **amounts),
        working=_drops(path, amounts),
        parts=tuple(fan.id for fan in airway.fans),
    )


# A fan that works this near its stall, as a share of its free flow, has little left.
_NEAR_STALL = 0.15


def _stalls_at(path: PathReport) -> float:
    """The greatest share of its free flow below which one of the running fans stalls."""
    running = zip(path.chain.fans, path.flow.way.speeds, strict=True)
    return max((stall_share(fan.spec) for fan, speed in running if speed > 0), default=0.0)


def _stalled(path: PathReport, amounts: dict[str, Amount]) -> str:
    """Say that there is no sensible working point: what a usable flow would need, and what the fan has."""
    if path.airway.ends == "space" and path.point and -path.flow.head_pa > 0.5 * path.point.max_pa:
        end, does = ("out", "builds up pressure") if path.airway.way == "out" else ("in", "draws it empty")
        return (
            f"The fan stalls: the space it is led to has no other way {end}, and the fan only {does} there ({{lift}})."
        )
    usable = (_stalls_at(path) + _NEAR_STALL) * (path.point.free_m3_h if path.point else 0.0)
    wanted = path.chain.loss_pa(usable / 3600) + max(0.0, -path.flow.head_pa)
    amounts["usable"], amounts["wanted"] = flow(usable), pascal(wanted)
    return (
        "The fan stalls, at {share} of its free air where its kind needs {stall}: for {usable} the path would need "
        "{wanted}, and the fan has at most {has} at {s}."
    )


def _passive(path: PathReport, breathing: Breathing) -> Margin:
    amounts = {"q": flow(path.flow_m3_h)}
    loop = path.airway.ends == "space"
    ends = {path.flow.way.from_id, path.flow.way.to_id}
    halves = [flow for flow in breathing.lit.air.running.ways if {flow.way.from_id, flow.way.to_id} == ends]
    moves = abs(path.flow_m3_h) > 1.0
    if loop:
        moves = any(speed > 0 for half in halves for speed in half.way.speeds)
    verdict: Verdict = "good" if moves or not loop else "short"
    words = "{q} move through it, without a fan of its own."
    if not moves:
        words = (
            "A loop without a fan moves nothing: add a fan to it, or to the other half of the loop."
            if loop
            else "Nothing moves through it: it has no fan, and nothing draws or pushes."
        )
    return Margin(
        id=f"air.work.{path.airway.id}",
        station="air",
        title=f"Fan against path, {path.airway.name}",
        verdict=verdict,
        information=not loop,
        need=sentence("something that moves the air"),
        there=sentence("{q}", **amounts),
        why=sentence(words, **amounts),
        working=_drops(path, amounts),
    )


def _drops(path: PathReport, amounts: dict[str, Amount]) -> Working:
    steps = [
        Step(
            symbol="Δp",
            meaning=f"{drop.element.name}, at",
            amount=pascal(drop.drop_pa),
            aside=air_speed(drop.speed_m_s),
        )
        for drop in path.drops
    ]
    steps.append(Step(symbol="p", meaning="space against the other end", amount=pascal(-path.flow.head_pa)))
    for place, (fan, speed) in enumerate(zip(path.chain.fans, path.flow.way.speeds, strict=True)):
        lift = path.chain.fan_lift_pa(place, path.flow.flow_m3_s, speed)
        how = f"at {100 * speed:.0f} %" if speed > 0 else "standing"
        steps.append(Step(symbol="fan", meaning=f"{fan.spec.name} {how}", amount=pascal(lift)))
    steps.append(Step(symbol="Q", meaning="flow at which both agree", amount=amounts["q"]))
    if path.chain.moves != 1.0:
        found = Amount(value=path.chain.moves, unit="", decimals=2)
        steps.append(Step(symbol="k", meaning="found by readings: of what is computed, it moves so much", amount=found))
    if path.airway.measured:
        steps.append(
            Step(
                symbol="Q m",
                meaning="measured, goes before what is computed",
                amount=flow(path.airway.measured.flow_m3_h),
            )
        )
    return Working(
        formula="fan: s² P(Q/s) = Σ losses(Q) + pressure between the ends",
        steps=tuple(steps),
        source=AIR_SOURCE,
        certainty="By readings: as sure as they are, see Review."
        if path.chain.moves != 1.0
        else "±15 % where the fan's curve is known, ±25 % where it is drawn from free flow and greatest pressure.",
    )


def _fit(space: Space, path: PathReport) -> Iterator[Margin]:
    airway = path.airway
    if not airway.fans and not path.chain.needed:
        return
    bore = airway.fans[0].spec.diameter_m if airway.fans else path.chain.elements[0].diameter_m
    hole = next((o for o in space.openings if airway.port and o.id == airway.port.opening_id), None)
    narrowest = min((item.diameter_m for item in path.chain.elements), default=bore)
    ends = ("exit", "port")
    last = next((item.diameter_m for item in reversed(path.chain.elements) if item.kind not in ends), bore)
    amounts = {
        "fan": Amount(value=bore, unit="diameter"),
        "port": Amount(value=hole.across_m if hole else 0.0, unit="diameter"),
        "least": Amount(value=narrowest, unit="diameter"),
        "last": Amount(value=last, unit="diameter"),
    }
    verdict, words = _fit_verdict(space, path, bore, narrowest, hole.across_m if hole else None, last)
    steps = [
        Step(symbol="fan", meaning=part.spec.name, amount=Amount(value=part.spec.diameter_m, unit="diameter"))
        for part in airway.fans
    ]
    for item in path.chain.needed:
        what = item.name or "no adapter of the library joins these: make one of a step ring and tape"
        steps.append(
            Step(symbol="fit", meaning=what, amount=Amount(value=item.from_m, unit="diameter", high=item.to_m))
        )
    if hole:
        steps.append(Step(symbol="port", meaning=f"opening in the {hole.face}", amount=amounts["port"]))
    yield Margin(
        id=f"air.port.{airway.id}",
        station="air",
        title=f"Diameters fit, {airway.name}",
        verdict=verdict,
        mendable=verdict == "short" or narrowest < bore - _FIT_M,
        need=sentence("{fan} throughout", **amounts),
        there=sentence("port {port}, narrowest {least}" if hole else "no port, narrowest {least}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula=(
                "port ≥ duct = fan (within 3 mm); a narrower part throttles by (D/d)⁴, a wider one leaks unless sealed"
            ),
            steps=tuple(steps),
            source=AIR_SOURCE,
            certainty="As typed.",
        ),
        parts=(airway.id,),
    )


_FIT_M, _WIDE_M = 0.003, 0.03


def _fit_verdict(
    space: Space, path: PathReport, bore: float, narrowest: float, port_m: float | None, last: float
) -> tuple[Verdict, str]:
    """The verdict and its words; the narrowest part first."""
    airway = path.airway
    through = min(bore, last) if airway.way == "out" else bore
    if port_m is None and not is_open(space) and space.kind != "shelf":
        return "short", "This way of air passes no opening of the space: give it a port of {fan}."
    if port_m is not None and port_m < through - _FIT_M:
        return "short", "The port of {port} is narrower than what it must take."
    if narrowest < bore - _FIT_M:
        return "tight", "A part of {least} throttles a fan of {fan}: what lies beyond it is no use at its size."
    count = len(path.chain.needed)
    if count:
        names = ", ".join(item.name or "one of your own making" for item in path.chain.needed)
        return "tight", f"{'An adapter is' if count == 1 else f'{count} adapters are'} needed: {names}."
    if port_m is not None and port_m > through + _WIDE_M:
        return "tight", "The port of {port} is wider than what passes it: cinch or seal the ring."
    return "good", "Port, duct and fan match."


def _length(space: Space, path: PathReport) -> Iterator[Margin]:
    """Whether what is stiff and hangs inside fits between the walls; said only where it does not."""
    airway = path.airway
    stiff = [part for part in airway.parts if part.kind in ("fan", "filter", "fitting") and airway.is_inside(part.id)]
    lengths = [part_length_m(part) for part in stiff]
    across = max(space.size.width_m, space.size.depth_m)
    most = max(across, space.size.height_m)
    total = sum(lengths)
    if total <= across:
        return
    too_long = max(lengths) > most
    amounts = {
        "there": Amount(value=max(lengths) if too_long else total, unit="length"),
        "most": Amount(value=most if too_long else across, unit="length"),
    }
    words = (
        "A part that hangs inside is longer than the space: choose a shorter one, or hang it outside."
        if too_long
        else "End to end they are {there}, and the walls {most} apart: put a bend between them, or hang "
        "something outside."
    )
    yield Margin(
        id=f"air.length.{airway.id}",
        station="air",
        title=f"Room for it, {airway.name}",
        verdict="over" if too_long else "tight",
        said="too long" if too_long else "",
        need=sentence("at most {most}" if too_long else "{most}, or a bend between them", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words, **amounts),
        parts=tuple(part.id for part in stiff),
        working=Working(
            formula="Σ lengths of fan, filter and fittings inside ≤ the longer of width and depth",
            steps=tuple(
                Step(symbol="L", meaning=part.spec.name, amount=Amount(value=length, unit="length"))
                for part, length in zip(stiff, lengths, strict=True)
            ),
            source="Data sheets; what states no length goes by its diameter",
            certainty="±5 cm: flanges and straps are not in it.",
        ),
    )


def _filter(path: PathReport, load: FilterLoad, breathing: Breathing) -> Margin:
    part = next(item for item in path.airway.filters if item.id == load.part_id)
    damp = breathing.lit.steady.rh_pct > DAMP_RH_PCT
    humid = Amount(value=breathing.lit.steady.rh_pct, unit="%", decimals=0)
    amounts = {
        "q": flow(load.flow_m3_h),
        "rated": flow(part.spec.rated_flow_m3_h),
        "rh": humid,
        "v": air_speed(load.face_m_s or 0.0),
        "t": Amount(value=load.contact_s or 0.0, unit="s", decimals=2),
        "life": Amount(value=100 * load.life_share, unit="%", decimals=0),
    }
    if path.airway.way == "in":
        return _dust_filter(path, load)
    slow = load.contact_s is not None and load.contact_s < CONTACT_POOR_S
    fast = load.face_m_s is not None and load.face_m_s > FACE_MOST_M_S
    verdict: Verdict = "good"
    words = "{q} of the {rated} it is made for."
    if load.contact_s is not None:
        words = "{q} meet the carbon at {v} and stay {t} in it: odour is held."
    if load.rated_share > _RATED_MOST * 1.001 or slow or fast:
        verdict, words = (
            "over",
            "{q} are more than this filter holds odour at ({rated}): take a larger one or run slower.",
        )
    elif load.contact_s is not None and (
        load.contact_s < CONTACT_GOOD_S or (load.face_m_s is not None and load.face_m_s > FACE_GOOD_M_S)
    ):
        verdict, words = "tight", "{q} meet the carbon at {v} and stay {t}: enough for a light smell."
    elif damp:
        verdict, words = (
            "tight",
            "The air that reaches it is at about {rh}: damp carbon holds little. Dry the air, or change it sooner.",
        )
    steps = [
        Step(symbol="Q", meaning="through it", amount=amounts["q"]),
        Step(symbol="Q r", meaning="rated", amount=amounts["rated"]),
        Step(symbol="Δp", meaning="as it is now", amount=pascal(load.drop_pa)),
        Step(symbol="Δp", meaning="aged, half as much again as new, at this flow", amount=pascal(load.aged_drop_pa)),
        Step(symbol="Q aged", meaning="what comes through then", amount=flow(path.aged_m3_h)),
    ]
    if load.face_m_s is not None:
        face = "on the middle of the bed; good below"
        steps.append(Step(symbol="v", meaning=face, amount=amounts["v"], aside=air_speed(FACE_GOOD_M_S)))
    if load.contact_s is not None:
        steps.append(
            Step(symbol="t", meaning="in the empty bed; good above 0.10 s, poor below 0.06 s", amount=amounts["t"])
        )
    if load.carbon_kg is not None:
        steps.append(Step(symbol="m", meaning="carbon", amount=Amount(value=load.carbon_kg, unit="weight")))
    steps.append(Step(symbol="life", meaning="against life at the rated flow", amount=amounts["life"]))
    return Margin(
        id=f"air.filter.{load.part_id}",
        station="air",
        title=f"Filter, {path.airway.name}",
        verdict=verdict,
        mendable=verdict == "over",
        need=sentence("at most {rated}", **amounts),
        there=sentence("{q}", **amounts),
        why=sentence(words, **amounts),
        parts=(load.part_id,),
        working=Working(
            formula="v = Q/(π (D + t) L), contact = bed volume/Q, Δp ~ Q^n · loading",
            steps=tuple(steps),
            source=AIR_SOURCE,
            certainty="Contact ±10 %; how long carbon lasts depends on what it meets: only the ratio is given.",
        ),
    )


def _dust_filter(path: PathReport, load: FilterLoad) -> Margin:
    """A filter on air that is blown in keeps dust, pollen and insects out; what smells leaves elsewhere."""
    part = next(item for item in path.airway.filters if item.id == load.part_id)
    amounts = {"q": flow(load.flow_m3_h), "rated": flow(part.spec.rated_flow_m3_h), "dp": pascal(load.drop_pa)}
    over = load.rated_share > _RATED_MOST * 1.001
    words = (
        "{q} are more than this filter is made for ({rated}): take a larger one or run slower."
        if over
        else "{q} of the {rated} it is made for. On air that comes in it keeps dust out; it holds no smell back."
    )
    steps = [
        Step(symbol="Q", meaning="through it", amount=amounts["q"]),
        Step(symbol="Q r", meaning="rated", amount=amounts["rated"]),
        Step(symbol="Δp", meaning="as it is now", amount=amounts["dp"]),
        Step(symbol="Δp", meaning="aged, at this flow", amount=pascal(load.aged_drop_pa)),
    ]
    return Margin(
        id=f"air.filter.{load.part_id}",
        station="air",
        title=f"Filter, {path.airway.name}",
        verdict="over" if over else "good",
        mendable=over,
        need=sentence("at most {rated}", **amounts),
        there=sentence("{q}", **amounts),
        why=sentence(words, **amounts),
        parts=(load.part_id,),
        working=Working(formula="Q ≤ Q r", steps=tuple(steps), source=AIR_SOURCE, certainty="As the sheet says."),
    )


def hood_margins(space: Space, breathing: Breathing) -> Iterator[Margin]:
    """Judge lamps with an air-cooled hood: whether air is led through it, and what it takes along.

    Parameters
    ----------
    breathing : its computed air

    Returns
    -------
    iterator of Margin : one for each such lamp that is on
    """
    led = {part.fixture_id: way for way in space.airways for part in way.hoods}
    for number, lamp in enumerate(space.fixtures, 1):
        share = lamp.spec.hood_share
        if share <= 0 or not lamp.enabled or lamp.dim <= 0:
            continue
        power, way = fixture_load(lamp), led.get(lamp.id)
        moved = breathing.lit.air.running.way(way.id) if way else None
        cools = moved is not None and moved.airway.way == "out" and moved.flow_m3_h > _HOOD_LEAST_M3_H
        amounts = {
            "w": Amount(value=power, unit="power"),
            "taken": Amount(value=power * share, unit="power"),
            "q": flow(moved.flow_m3_h if moved else 0.0),
        }
        words = "{q} are drawn through its hood and take up to {taken} of its {w} along."
        if not cools:
            why = "No way of air leads through its hood" if way is None else "Hardly any air is drawn through its hood"
            if way is not None and way.way == "in":
                why = "The air that is blown in through its hood brings its heat along"
            words = f"{why}: all {{w}} stay in the space as heat, where {{taken}} could leave."
        yield Margin(
            id=f"air.hood.{lamp.id}",
            station="air",
            title=f"Hood of lamp {number}",
            verdict="good" if cools else "tight",
            mendable=way is None,
            need=sentence("air drawn through it"),
            there=sentence("{q}" if cools else "no cooling", **amounts),
            why=sentence(words, **amounts),
            parts=(lamp.id,),
            working=Working(
                formula="q = the lesser of share · P and ρ c Q · 30 K",
                steps=(
                    Step(symbol="P", meaning="drawn by the lamp", amount=amounts["w"]),
                    Step(
                        symbol="share",
                        meaning="that its hood gives off",
                        amount=Amount(value=100 * share, unit="%", decimals=0),
                    ),
                    Step(symbol="Q", meaning="through the hood", amount=amounts["q"]),
                    Step(
                        symbol="q",
                        meaning="leaves through all hoods here",
                        amount=Amount(value=breathing.lit.hood_w, unit="power"),
                    ),
                ),
                source="Conservation of heat; the share is the lamp's data sheet's",
                certainty="±20 %: the share is measured at one flow.",
            ),
        )


_HOOD_LEAST_M3_H = 5.0


def _duct_speed(space: Space, path: PathReport) -> Iterator[Margin]:
    ducts = [drop for drop in path.drops if drop.element.kind in ("duct", "bend")]
    if not ducts:
        return
    fastest = max(ducts, key=lambda drop: drop.speed_m_s)
    quiet = space.air.noise_wish_dba is not None and space.air.noise_wish_dba <= _QUIET_DBA
    hiss, loud = (_QUIET_M_S, _QUIET_LOUD_M_S) if quiet else (_DUCT_HISS_M_S, _DUCT_LOUD_M_S)
    if fastest.speed_m_s <= hiss:
        return
    verdict: Verdict = "tight" if fastest.speed_m_s <= loud else "over"
    amounts = {
        "v": air_speed(fastest.speed_m_s),
        "most": air_speed(hiss),
        "utmost": air_speed(loud),
        "d": Amount(value=fastest.element.diameter_m, unit="diameter"),
    }
    yield Margin(
        id=f"air.duct.{path.airway.id}",
        station="air",
        title=f"Air speed in the duct, {path.airway.name}",
        verdict=verdict,
        need=sentence("below {most}, at most {utmost}", **amounts),
        there=sentence("{v}", **amounts),
        why=sentence("At {v} in {d} the duct hisses and takes much pressure: a wider one is quieter.", **amounts),
        working=Working(
            formula="v = Q/(π D²/4)",
            steps=(Step(symbol="v", meaning=fastest.element.name, amount=amounts["v"]),),
            source=AIR_SOURCE,
            certainty="±15 %.",
        ),
    )
