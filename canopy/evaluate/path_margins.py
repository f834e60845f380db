"""The margins of ways of air: whether the fan copes, filters, fit, intake, pressure, noise, and a loop's purge."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.air import is_open
from canopy.air.filter_bed import (
    CONTACT_GOOD_S,
    CONTACT_POOR_S,
    DAMP_RH_PCT,
    FACE_GOOD_M_S,
    FACE_MOST_M_S,
    FilterLoad,
)
from canopy.air.walls import BARELY_PA, DAMAGE_PA, GOOD_PA, VISIBLE_PA, wall_sag
from canopy.evaluate.air_margins import flow
from canopy.evaluate.air_noise import noise_of
from canopy.evaluate.airpath import PathReport
from canopy.evaluate.breathing import Breathing
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_most, sentence
from canopy.plan.document import Space

FACE_GOOD_SPEED_M_S, FACE_MOST_SPEED_M_S = 1.5, 2.5
_DUCT_HISS_M_S, _DUCT_LOUD_M_S = 5.0, 8.0
_RATED_MOST = 1.0
_AIR = "ASHRAE Handbook: duct design, fans; physics of small enclosures compiled for this project (2026)"


def pascal(value: float) -> Amount:
    """Give an amount of pressure.

    Parameters
    ----------
    value : pressure [Pa]

    Returns
    -------
    Amount : in each person's unit
    """
    return Amount(value=value, unit="pressure")


def _speed(value: float) -> Amount:
    return Amount(value=value, unit="air speed")


def path_margins(space: Space, breathing: Breathing, paths: tuple[PathReport, ...]) -> list[Margin]:
    """Judge a space's ways of air.

    Parameters
    ----------
    space : the space
    breathing : its computed air
    paths : its ways of air at work

    Returns
    -------
    list of Margin : each that can be judged
    """
    found: list[Margin] = []
    for path in paths:
        found += _work(path)
        found += _fit(space, path)
        found += [_filter(path, load, breathing) for load in path.filters if path.flow_m3_h > 0]
        found += _duct_speed(path)
    if paths and not is_open(space):
        found += _intake(space, breathing)
        found += _pressure(space, breathing)
    found += _loop(space, breathing)
    found += _noise(space)
    return found


def _work(path: PathReport) -> Iterator[Margin]:
    """Whether the fan copes with its path."""
    airway = path.airway
    if not airway.fans:
        if airway.ends == "space" or airway.parts:
            yield _passive(path)
        return
    point = path.point
    if point is None:
        return
    amounts = {
        "q": flow(path.flow_m3_h), "free": flow(point.free_m3_h), "need": pascal(point.loss_pa + max(0.0, -point.space_pa)),
        "has": pascal(point.max_pa), "lift": pascal(point.lift_pa), "s": Amount(value=100 * point.speed, unit="%", decimals=0),
        "share": Amount(value=100 * path.flow_m3_h / point.free_m3_h if point.free_m3_h else 0.0, unit="%", decimals=0),
    }  # fmt: skip
    verdict: Verdict = "good"
    words = "At {s} the path lets {q} through, {share} of what the fan moves in free air."
    if path.chain.shut:
        verdict, words = "short", "Its port is shut: nothing moves. Open it at Space."
    elif path.flow_m3_h < -0.5:
        verdict, words = "short", "Air is pushed back through this fan: it is weaker than what works against it."
    elif point.stalls:
        verdict = "short"
        words = _stalled(path, amounts)
    elif path.flow_m3_h < 0.3 * point.free_m3_h:
        verdict, words = (
            "tight",
            "At {s} only {q} come through, {share} of free air: the fan works against {lift}, near its end.",
        )
    yield Margin(
        id=f"air.work.{airway.id}", station="air", title=f"Fan against path, {airway.name}", verdict=verdict,
        need=sentence("a path the fan can feed"), there=sentence("{q} at {s}", **amounts), why=sentence(words, **amounts),
        working=_drops(path, amounts), parts=tuple(fan.id for fan in airway.fans),
    )  # fmt: skip


def _stalled(path: PathReport, amounts: dict[str, Amount]) -> str:
    """Say that there is no sensible working point: what a usable flow would need, and what the fan has."""
    usable = 0.3 * (path.point.free_m3_h if path.point else 0.0)
    wanted = path.chain.loss_pa(usable / 3600) + max(0.0, -path.flow.head_pa)
    amounts["usable"], amounts["wanted"] = flow(usable), pascal(wanted)
    return "The fan stalls: for {usable} the path would need {wanted}, the fan has at most {has} at {s}."


def _passive(path: PathReport) -> Margin:
    amounts = {"q": flow(path.flow_m3_h)}
    loop = path.airway.ends == "space"
    moves = abs(path.flow_m3_h) > 1.0
    verdict: Verdict = "good" if moves or not loop else "short"
    words = "{q} move through it, without a fan of its own."
    if not moves:
        words = (
            "A loop without a fan moves nothing: add a fan to it, or to the other half of the loop."
            if loop
            else "Nothing moves through it: it has no fan, and nothing draws or pushes."
        )
    return Margin(
        id=f"air.work.{path.airway.id}", station="air", title=f"Fan against path, {path.airway.name}", verdict=verdict,
        information=not loop, need=sentence("something that moves the air"), there=sentence("{q}", **amounts),
        why=sentence(words, **amounts), working=_drops(path, amounts),
    )  # fmt: skip


def _drops(path: PathReport, amounts: dict[str, Amount]) -> Working:
    steps = [
        Step(symbol="Δp", meaning=f"{drop.element.name}, {_speed(drop.speed_m_s).text()}", amount=pascal(drop.drop_pa))
        for drop in path.drops
    ]
    steps.append(Step(symbol="p", meaning="space against the other end", amount=pascal(-path.flow.head_pa)))
    for fan, speed in zip(path.chain.fans, path.flow.way.speeds, strict=True):
        lift = fan.curve.pressure_pa(path.flow.flow_m3_s / fan.count, speed)
        steps.append(Step(symbol="fan", meaning=f"{fan.spec.name} at {100 * speed:.0f} %", amount=pascal(lift)))
    steps.append(Step(symbol="Q", meaning="flow at which both agree", amount=amounts["q"]))
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
        steps=tuple(steps), source=_AIR,
        certainty="±15 % where the fan's curve is known, ±25 % where it is drawn from free flow and greatest pressure.",
    )  # fmt: skip


def _fit(space: Space, path: PathReport) -> Iterator[Margin]:
    airway = path.airway
    if not airway.fans and not path.chain.needed:
        return
    bore = airway.fans[0].spec.diameter_m if airway.fans else path.chain.elements[0].diameter_m
    hole = next((o for o in space.openings if airway.port and o.id == airway.port.opening_id), None)
    narrowest = min((item.diameter_m for item in path.chain.elements), default=bore)
    last = path.chain.elements[-1].diameter_m if path.chain.elements else bore
    amounts = {
        "fan": Amount(value=bore, unit="diameter"), "port": Amount(value=hole.across_m if hole else 0.0, unit="diameter"),
        "least": Amount(value=narrowest, unit="diameter"), "last": Amount(value=last, unit="diameter"),
    }  # fmt: skip
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
        id=f"air.port.{airway.id}", station="air", title=f"Diameters fit, {airway.name}", verdict=verdict,
        mendable=verdict == "short" or narrowest < bore - _FIT_M,
        need=sentence("{fan} throughout", **amounts),
        there=sentence("port {port}, narrowest {least}" if hole else "no port, narrowest {least}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula="port ≥ duct = fan (within 3 mm); a narrower part throttles by (D/d)⁴, a wider one leaks unless sealed",
            steps=tuple(steps), source=_AIR, certainty="As typed.",
        ),
        parts=(airway.id,),
    )  # fmt: skip


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


def _filter(path: PathReport, load: FilterLoad, breathing: Breathing) -> Margin:
    part = next(item for item in path.airway.filters if item.id == load.part_id)
    damp = breathing.lit.steady.rh_pct > DAMP_RH_PCT
    humid = Amount(value=breathing.lit.steady.rh_pct, unit="%", decimals=0)
    amounts = {
        "q": flow(load.flow_m3_h), "rated": flow(part.spec.rated_flow_m3_h), "rh": humid,
        "v": _speed(load.face_m_s or 0.0), "t": Amount(value=load.contact_s or 0.0, unit="s", decimals=2),
        "life": Amount(value=100 * load.life_share, unit="%", decimals=0),
    }  # fmt: skip
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
        Step(symbol="Δp", meaning="aged, half as much again", amount=pascal(load.aged_drop_pa)),
    ]
    if load.face_m_s is not None:
        steps.append(Step(symbol="v", meaning="on the middle of the bed; good below 0.25 m/s", amount=amounts["v"]))
    if load.contact_s is not None:
        steps.append(
            Step(symbol="t", meaning="in the empty bed; good above 0.10 s, poor below 0.06 s", amount=amounts["t"])
        )
    if load.carbon_kg is not None:
        steps.append(Step(symbol="m", meaning="carbon", amount=Amount(value=load.carbon_kg, unit="weight")))
    steps.append(Step(symbol="life", meaning="against life at the rated flow", amount=amounts["life"]))
    return Margin(
        id=f"air.filter.{load.part_id}", station="air", title=f"Filter, {path.airway.name}", verdict=verdict,
        mendable=verdict == "over", need=sentence("at most {rated}", **amounts), there=sentence("{q}", **amounts),
        why=sentence(words, **amounts), parts=(load.part_id,),
        working=Working(
            formula="v = Q/(π (D + t) L), contact = bed volume/Q, Δp ~ Q^n · loading", steps=tuple(steps), source=_AIR,
            certainty="Contact ±10 %; how long carbon lasts depends on what it meets: only the ratio is given.",
        ),
    )  # fmt: skip


def _duct_speed(path: PathReport) -> Iterator[Margin]:
    ducts = [drop for drop in path.drops if drop.element.kind in ("duct", "bend")]
    if not ducts:
        return
    fastest = max(ducts, key=lambda drop: drop.speed_m_s)
    if fastest.speed_m_s <= _DUCT_HISS_M_S:
        return
    verdict: Verdict = "tight" if fastest.speed_m_s <= _DUCT_LOUD_M_S else "over"
    amounts = {
        "v": _speed(fastest.speed_m_s),
        "most": _speed(_DUCT_HISS_M_S),
        "d": Amount(value=fastest.element.diameter_m, unit="diameter"),
    }
    yield Margin(
        id=f"air.duct.{path.airway.id}", station="air", title=f"Air speed in the duct, {path.airway.name}", verdict=verdict,
        need=sentence("at most {most}", **amounts), there=sentence("{v}", **amounts),
        why=sentence("At {v} in {d} the duct hisses and takes much pressure: a wider one is quieter.", **amounts),
        working=Working(formula="v = Q/(π D²/4)", steps=(Step(symbol="v", meaning=fastest.element.name, amount=amounts["v"]),),
                        source=_AIR, certainty="±15 %."),
    )  # fmt: skip


def _intake(space: Space, breathing: Breathing) -> Iterator[Margin]:
    """Whether what is drawn out can come in again."""
    running = breathing.lit.air.running
    if running.fan_out_m3_h <= running.fan_in_m3_h or running.fan_out_m3_h < 1:
        return
    holes = [hole for hole in running.holes if hole.opening_id]
    area = sum(hole.gross_m2 for hole in holes)
    inflow = 3600 * sum(max(0.0, hole.flow_m3_s) for hole in holes)
    wanted = (running.fan_out_m3_h - running.fan_in_m3_h) / 3600 / FACE_GOOD_SPEED_M_S
    fastest = max((hole.speed_m_s for hole in holes), default=0.0)
    verdict: Verdict = (
        "good" if fastest <= FACE_GOOD_SPEED_M_S else "tight" if fastest <= FACE_MOST_SPEED_M_S else "short"
    )
    if not holes:
        verdict = "short" if running.pressure_pa < GOOD_PA else "tight"
    amounts = {
        "v": _speed(fastest), "area": Amount(value=area * 1e4, unit="cm²", decimals=0),
        "need": Amount(value=wanted * 1e4, unit="cm²", decimals=0), "p": pascal(running.pressure_pa), "q": flow(inflow),
    }  # fmt: skip
    words = {
        "good": "{q} come in at {v}, calmly.",
        "tight": "{q} come in at {v}: it whistles a little and draws dust. Open another intake.",
        "short": "{q} come in at {v}: too fast for the {area} that are open. Open or cut more, up to {need}.",
    }
    why = (
        words[verdict]
        if holes
        else "No intake is open: air comes in through seams only, at {p} inside. Open or cut {need}."
    )
    yield Margin(
        id="air.intake", station="air", title="Intake area", verdict=verdict, mendable=verdict != "good",
        need=sentence("at least {need}", **amounts), there=sentence("{area}", **amounts), why=sentence(why, **amounts),
        parts=tuple(hole.opening_id for hole in holes),
        working=Working(
            formula="v = Q/A on the gross area; good below 1.5 m/s, dust and whistling above 2.5 m/s",
            steps=(Step(symbol="Q", meaning="drawn out less what is blown in", amount=flow(running.fan_out_m3_h - running.fan_in_m3_h)),
                   Step(symbol="A", meaning="open to the air", amount=amounts["area"]),
                   Step(symbol="v", meaning="fastest opening", amount=amounts["v"]),
                   Step(symbol="p", meaning="pressure inside", amount=amounts["p"])),
            source=_AIR, certainty="±20 %: flaps and meshes differ.",
        ),
    )  # fmt: skip


def _pressure(space: Space, breathing: Breathing) -> Iterator[Margin]:
    running = breathing.lit.air.running
    p = running.pressure_pa
    odour = any(way.airway.filters for way in running.ways)
    soft = space.kind == "tent"
    amounts = {"p": pascal(p), "leak": flow(running.unfiltered_m3_h)}
    verdict, words = _pressure_verdict(p, odour=odour, soft=soft, leak=running.unfiltered_m3_h)
    steps = [Step(symbol="p", meaning="inside, against the room", amount=amounts["p"]),
             Step(symbol="Q", meaning="leaves past the filter", amount=amounts["leak"])]  # fmt: skip
    if soft:
        sag = wall_sag(p, max(space.size.width_m, space.size.depth_m), space.size.height_m)
        steps += [Step(symbol="d", meaning="walls belly in or out by about", amount=Amount(value=sag.sag_m, unit="length")),
                  Step(symbol="F", meaning="on the largest wall", amount=Amount(value=sag.force_n, unit="N", decimals=0))]  # fmt: skip
    yield Margin(
        id="air.pressure", station="air", title="Pressure inside", verdict=verdict, mendable=verdict in ("short", "over"),
        need=sentence("a little below the room" if odour else "near the room's"), there=sentence("{p}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula="inflow(p) + supply(p) = exhaust(p)", steps=tuple(steps), source=_AIR,
            certainty="±30 %: leaks are a guess until they are measured. A draught or a hand at the zip moves it by 1–2 Pa.",
        ),
    )  # fmt: skip


def _pressure_verdict(p: float, *, odour: bool, soft: bool, leak: float) -> tuple[Verdict, str]:
    if p > 0.05:
        if odour and leak > 0.5:
            return (
                "short",
                "At {p} inside, {leak} leave past the filter, with their smell: slow the intake or speed the exhaust up.",
            )
        return "good", "At {p} inside nothing unfiltered is drawn in; seams blow outwards."
    if soft and p < DAMAGE_PA:
        return "over", "At {p} inside, poles bend and zips strain: open intakes before the fan runs."
    if soft and p < VISIBLE_PA:
        return "over", "At {p} inside, the walls are sucked well in: open or cut more intake."
    if not soft and p < DAMAGE_PA:
        return "over", "At {p} inside the fan works against its own suction: open or cut more intake."
    if soft and p < GOOD_PA:
        return "tight", "At {p} inside the walls are drawn in visibly; odour is held."
    if odour and p > BARELY_PA:
        return "tight", "At {p} inside it is barely below the room: a draught at the door lets odour out."
    return "good", "At {p} inside odour is held and the walls are drawn in a little." if odour else "{p} inside: calm."


def _loop(space: Space, breathing: Breathing) -> Iterator[Margin]:
    """A closed loop: whether it carries the water away, and whether the purge brings CO2."""
    air, needs = breathing.lit.air, breathing.needs
    if needs.vapour_kg_s <= 0 or (air.looped_m3_h < 1 and all(way.ends != "space" for way in space.airways)):
        return
    moisture, co2 = breathing.lit.demand("moisture"), breathing.lit.demand("co2")
    need, purge = moisture.flow_m3_h, co2.flow_m3_h or 0.0
    amounts = {
        "need": flow(need or 0.0),
        "there": flow(air.looped_m3_h),
        "purge": flow(purge),
        "fresh": flow(air.fresh_m3_h),
    }
    verdict: Verdict = "good"
    words = "The loop moves {there} through the conditioning space, of {need} that the leaves' water asks for."
    if need is None:
        verdict, words = (
            "short",
            "The air that comes back is no drier than is allowed here: the conditioning space must dry it more.",
        )
    elif air.looped_m3_h < need:
        verdict = "short"
        words = "The loop moves {there}; the leaves' water asks for {need}. The loop, not the dehumidifier, is the bottleneck."
    yield Margin(
        id="air.loop", station="air", title="Loop", verdict=verdict, need=sentence("at least {need}", **amounts),
        there=sentence("{there}", **amounts), why=sentence(words, **amounts),
        working=Working(
            formula="m loop = E/(W inside − W coming back)",
            steps=(Step(symbol="E", meaning="water given off by the leaves",
                        amount=Amount(value=needs.vapour_kg_s * 3.6e6, unit="g/h", decimals=0)),
                   Step(symbol="T back", meaning="air that comes back", amount=Amount(value=needs.room_c, unit="temperature")),
                   Step(symbol="RH back", meaning="its humidity", amount=Amount(value=needs.room_rh_pct, unit="%", decimals=0)),
                   Step(symbol="Q", meaning="the loop moves", amount=amounts["there"])),
            source="Water balance of two spaces", certainty="±35 %, as the leaves' water.",
        ),
    )  # fmt: skip
    if purge > 0:
        enough = air.fresh_m3_h >= purge
        yield Margin(
            id="air.purge", station="air", title="Purge for CO₂", verdict="good" if enough else "short",
            need=sentence("at least {purge}", **amounts), there=sentence("{fresh}", **amounts),
            why=sentence(
                "{fresh} of room air come in as a mean: the leaves' CO₂ is made up." if enough
                else "Only {fresh} of room air come in as a mean; the leaves use up the CO₂ of {purge}. Purge longer or more "
                "often, or feed CO₂ with its own cautions.", **amounts,
            ),
            working=Working(
                formula="mean of the purge's cycle ≥ A/ΔC",
                steps=(Step(symbol="Q", meaning="asked for by CO₂", amount=amounts["purge"]),
                       Step(symbol="Q f", meaning="fresh, mean over the cycle", amount=amounts["fresh"])),
                source="CO₂ balance; a sealed, lit space falls to about 90 ppm", certainty="±25 %.",
            ),
        )  # fmt: skip


def _noise(space: Space) -> Iterator[Margin]:
    found, wish = noise_of(space), space.air.noise_wish_dba
    if found.total_dba is None:
        return
    amounts = {
        "there": Amount(value=found.total_dba, unit="dB(A)", decimals=0), "wish": Amount(value=wish or 0.0, unit="dB(A)", decimals=0),
        "r": Amount(value=space.air.listen_m, unit="length"),
    }  # fmt: skip
    verdict: Verdict = "good" if wish is None else judge_most(found.total_dba, wish, tight=1 - 3 / max(wish, 4))
    loudest = found.sources[0]
    words = {
        "good": "About {there} at {r}" + (", under the {wish} you wish for." if wish else f", mostly {loudest.name}."),
        "tight": "About {there} at {r}, close to the {wish} you wish for.",
        "over": f"About {{there}} at {{r}}, over the {{wish}} you wish for: {loudest.name} is the loudest.",
    }
    yield Margin(
        id="air.noise", station="air", title="Noise", verdict=verdict, information=wish is None, mendable=verdict == "over",
        need=sentence("at most {wish}" if wish else "a wish, typed at Air", **amounts), there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts), parts=(loudest.part_id,),
        working=Working(
            formula="L = Lw + 50 log10 s − what lies on the way + 10 log10(Q/(4 π r²) + 4/R)",
            steps=tuple(
                Step(symbol="L", meaning=f"{item.name}: {item.at_1m_dba:.0f} dB(A) at 1 m by itself"
                     + (" (guessed from its flow)" if item.guessed else "") + "; heard",
                     amount=Amount(value=item.heard_dba, unit="dB(A)", decimals=0))
                for item in found.sources
            ),
            source="Fan laws; ASHRAE Applications, noise and vibration; room constant 12 m²",
            certainty="±5 dB, more where a fan touches a frame: hang it in loops.",
        ),
    )  # fmt: skip
