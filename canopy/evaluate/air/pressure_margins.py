"""The margins of a space's air as a whole: intake, pressure, a loop and its purge, noise."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.air import is_open
from canopy.air.losses import area_m2
from canopy.air.network import neighbours
from canopy.air.ventilation import HoleFlow, WayFlow
from canopy.air.walls import BARELY_PA, DAMAGE_PA, GOOD_PA, VISIBLE_PA, wall_sag
from canopy.evaluate.air.amounts import AIR_SOURCE, air_speed, flow, pascal
from canopy.evaluate.air.breathing import Breathing, filtered
from canopy.evaluate.air.noise import noise_of
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_most, sentence
from canopy.plan.document import Plan, Space
from canopy.plan.learnt import factor_on

FACE_GOOD_SPEED_M_S, FACE_MOST_SPEED_M_S = 1.5, 2.5


def pressure_margins(plan: Plan, space: Space, breathing: Breathing) -> list[Margin]:
    """Judge what a space's ways of air bring about together.

    Parameters
    ----------
    plan : the plan, for the spaces it is joined to
    breathing : its computed air

    Returns
    -------
    list of Margin : intake and pressure where something moves air through a closed shell, loop, purge, noise
    """
    found: list[Margin] = []
    if space.airways and not is_open(space):
        found += _intake(space, breathing)
        found += _pressure(space, breathing)
    found += _loop(plan, space, breathing)
    found += _noise(space)
    return found


def _intake(space: Space, breathing: Breathing) -> Iterator[Margin]:
    """Whether what is drawn out can come in again."""
    running = breathing.lit.air.running
    passive = [flow for flow in running.ways if _lets_in(flow, space.id)]
    blown_in = running.fan_in_m3_h - sum(flow.flow_m3_h for flow in passive)
    if running.fan_out_m3_h - blown_in < 1:
        return
    holes = [hole for hole in running.holes if hole.opening_id]
    holes += [_as_hole(flow) for flow in passive]
    area = sum(hole.gross_m2 for hole in holes)
    inflow = 3600 * sum(max(0.0, hole.flow_m3_s) for hole in holes)
    wanted = (running.fan_out_m3_h - blown_in) / 3600 / FACE_GOOD_SPEED_M_S
    fastest = max((hole.speed_m_s for hole in holes), default=0.0)
    verdict: Verdict = (
        "good" if fastest <= FACE_GOOD_SPEED_M_S else "tight" if fastest <= FACE_MOST_SPEED_M_S else "short"
    )
    if not holes:
        verdict = "short" if running.pressure_pa < GOOD_PA else "tight"
    amounts = {
        "v": air_speed(fastest),
        "good": air_speed(FACE_GOOD_SPEED_M_S),
        "most": air_speed(FACE_MOST_SPEED_M_S),
        "area": Amount(value=area * 1e4, unit="small area"),
        "need": Amount(value=wanted * 1e4, unit="small area"),
        "p": pascal(running.pressure_pa),
        "q": flow(inflow),
    }
    words = {
        "good": "{q} come in at {v}, calmly.",
        "tight": "{q} come in at {v}: fast enough to draw dust. Open another intake.",
        "short": "{q} come in at {v}: it whistles through the {area} that are open. Open or cut more, up to {need}.",
    }
    why = (
        words[verdict]
        if holes
        else "No intake is open: air comes in through seams only, at {p} inside. Open or cut {need}."
    )
    yield Margin(
        id="air.intake",
        station="air",
        title="Intake area",
        verdict=verdict,
        mendable=verdict != "good",
        need=sentence("below {good}, at most {most}" if holes else "at least {need}", **amounts),
        there=sentence("{v} through {area}" if holes else "none open", **amounts),
        why=sentence(why, **amounts),
        parts=tuple(hole.opening_id for hole in holes),
        working=Working(
            formula="v = Q/A on the gross area; good below 1.5 m/s, dust from there on, whistling from 2.5 m/s",
            steps=(
                Step(
                    symbol="Q",
                    meaning="drawn out less what is blown in",
                    amount=flow(running.fan_out_m3_h - blown_in),
                ),
                Step(symbol="A", meaning="open to the air", amount=amounts["area"]),
                Step(symbol="v", meaning="fastest opening", amount=amounts["v"]),
                Step(symbol="p", meaning="pressure inside", amount=amounts["p"]),
            ),
            source=AIR_SOURCE,
            certainty="±20 %: flaps and meshes differ.",
        ),
    )


def _lets_in(flow: WayFlow, space_id: str) -> bool:
    """Whether a way without a running fan lets air in from the room or outdoors, such as a flap that suction opens."""
    into = flow.way.to_id == space_id and flow.flow_m3_s > 0
    return into and flow.airway.ends != "space" and not any(flow.way.speeds)


def _as_hole(flow: WayFlow) -> HoleFlow:
    """A way that lets air in by itself, as an opening of its narrowest part."""
    narrow = min((item.diameter_m for item in flow.way.chain.elements), default=0.1)
    area, port = area_m2(narrow), flow.airway.port
    return HoleFlow(
        opening_id=port.opening_id if port else flow.airway.id,
        flow_m3_s=flow.flow_m3_s,
        speed_m_s=flow.flow_m3_s / area,
        gross_m2=area,
    )


def _pressure(space: Space, breathing: Breathing) -> Iterator[Margin]:
    running = breathing.lit.air.running
    p = running.pressure_pa
    odour = filtered(space)
    soft = space.kind == "tent"
    seams = 3600 * sum(max(0.0, -hole.flow_m3_s) for hole in running.holes if not hole.opening_id)
    amounts = {"p": pascal(p), "leak": flow(running.unfiltered_m3_h), "seams": flow(seams)}
    amounts |= {"barely": pascal(BARELY_PA), "visible": pascal(GOOD_PA if soft else DAMAGE_PA)}
    verdict, words = _pressure_verdict(p, odour=odour, soft=soft, leak=running.unfiltered_m3_h)
    if verdict == "tight" and p > GOOD_PA:
        cause, more = _why_barely(breathing)
        words, amounts = f"{words} {cause}", amounts | more
    if p <= _ABOVE_PA and seams > _SEEPS_M3_H:
        words += " Up high {seams} of warm air leave through the seams" + (
            ", past the filter: seal them there." if odour else "."
        )
    steps = [
        Step(symbol="p", meaning="inside, against the room", amount=amounts["p"]),
        Step(symbol="Q", meaning="leaves past the filter" if odour else "leaves unled", amount=amounts["leak"]),
        Step(symbol="Q seams", meaning="of it through seams, warm air up high", amount=amounts["seams"]),
    ]
    if soft:
        sag = wall_sag(p, max(space.size.width_m, space.size.depth_m), space.size.height_m)
        steps += [
            Step(symbol="d", meaning="walls belly in or out by about", amount=Amount(value=sag.sag_m, unit="length")),
            Step(symbol="F", meaning="on the largest wall", amount=Amount(value=sag.force_n, unit="force")),
        ]
    yield Margin(
        id="air.pressure",
        station="air",
        title="Pressure inside",
        verdict=verdict,
        mendable=verdict in ("short", "over") or (verdict == "tight" and p > GOOD_PA),
        need=sentence("{barely} or lower, down to {visible}" if odour else "near the room's", **amounts),
        there=sentence("{p}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula="inflow(p) + supply(p) = exhaust(p)",
            steps=tuple(steps),
            source=AIR_SOURCE,
            certainty="Seams as readings found them; a draught or a hand at the zip moves it by 1–2 Pa."
            if factor_on(space, "leak") != 1.0
            else "±30 %: leaks are a guess until they are measured. A draught or a hand at the zip moves it by 1–2 Pa.",
        ),
    )


# Above the room's pressure from here on; seams that lose less than this are not worth a word [m³/h].
_ABOVE_PA, _SEEPS_M3_H = 0.05, 0.5
_WIDE = 1.5


def _why_barely(breathing: Breathing) -> tuple[str, dict[str, Amount]]:
    """Why the pressure is hardly below the room's: openings wider than they need be, or a fan that draws little."""
    running = breathing.lit.air.running
    drawn = running.fan_out_m3_h - running.fan_in_m3_h
    area = sum(hole.gross_m2 for hole in running.holes if hole.opening_id)
    wanted = drawn / 3600 / FACE_GOOD_SPEED_M_S
    amounts = {
        "area": Amount(value=1e4 * area, unit="small area"),
        "wanted": Amount(value=1e4 * wanted, unit="small area"),
        "times": Amount(value=area / max(wanted, 1e-9), unit="", decimals=1),
        "drawn": flow(drawn),
    }
    if drawn <= 0:
        return "What is blown in is as much as what is drawn out: slow the intake.", {}
    if area > _WIDE * wanted:
        return "The openings, {area}, are {times} times what {drawn} need, {wanted}: shut or shrink one.", amounts
    return "{drawn} are little against these leaks and openings: run the fan faster, or seal the seams.", amounts


def _pressure_verdict(p: float, *, odour: bool, soft: bool, leak: float) -> tuple[Verdict, str]:
    if p > _ABOVE_PA:
        if odour and leak > 0.5:
            return (
                "short",
                "At {p} inside, {leak} leave past the filter, with their smell: slow the intake or speed "
                "the exhaust up.",
            )
        return "good", "At {p} inside nothing unfiltered is drawn in; seams blow outwards."
    if soft and p < DAMAGE_PA:
        return "over", "At {p} inside, poles bend and zips strain: open intakes before the fan runs."
    if soft and p < VISIBLE_PA:
        return "over", "At {p} inside, the walls are sucked well in: open or cut more intake."
    if not soft and p < DAMAGE_PA:
        return "over", "At {p} inside the fan works against its own suction: open or cut more intake."
    if soft and p < GOOD_PA:
        return "tight", "At {p} inside the walls are drawn in visibly" + ("; odour is held." if odour else ".")
    if odour and p > BARELY_PA:
        return "tight", "At {p} inside it is barely below the room: a draught at the door lets odour out."
    return "good", "At {p} inside odour is held and the walls are drawn in a little." if odour else "{p} inside: calm."


def _loop(plan: Plan, space: Space, breathing: Breathing) -> Iterator[Margin]:
    """A closed loop: whether it carries the water away, and whether the purge brings CO2."""
    air, needs = breathing.lit.air, breathing.needs
    if needs.vapour_kg_s <= 0 or not _goes_round(plan, space):
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
        words = (
            "The loop moves {there}; the leaves' water asks for {need}. The loop, not the dehumidifier, is the "
            "bottleneck."
        )
    words += _beside_the_loop(plan, space, breathing, amounts)
    yield Margin(
        id="air.loop",
        station="air",
        title="Loop",
        verdict=verdict,
        need=sentence("at least {need}" if need is not None else "drier air coming back", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula="m loop = E/(W inside − W coming back)",
            steps=(
                Step(
                    symbol="E",
                    meaning="water given off by the leaves",
                    amount=Amount(value=needs.vapour_kg_s * 3.6e6, unit="water rate"),
                ),
                Step(
                    symbol="T back",
                    meaning="air that comes back",
                    amount=Amount(value=needs.room_c, unit="temperature"),
                ),
                Step(
                    symbol="RH back",
                    meaning="its humidity",
                    amount=Amount(value=needs.room_rh_pct, unit="%", decimals=0),
                ),
                Step(symbol="Q", meaning="the loop moves", amount=amounts["there"]),
            ),
            source="Water balance of two spaces",
            certainty="±35 %, as the leaves' water.",
        ),
    )
    if purge > 0:
        enough = air.fresh_m3_h >= purge
        yield Margin(
            id="air.purge",
            station="air",
            title="Purge for CO₂",
            verdict="good" if enough else "short",
            need=sentence("at least {purge}", **amounts),
            there=sentence("{fresh}", **amounts),
            why=sentence(
                "{fresh} of room air come in as a mean: the leaves' CO₂ is made up."
                if enough
                else "Only {fresh} of room air come in as a mean while the lamps are on; the leaves use up the CO₂ of "
                "{purge}. " + _purged(space) + "purge longer or more often, or feed CO₂ with its own cautions.",
                **amounts,
            ),
            working=Working(
                formula="mean of the purge's cycle ≥ A/ΔC",
                steps=(
                    Step(symbol="Q", meaning="asked for by CO₂", amount=amounts["purge"]),
                    Step(symbol="Q f", meaning="fresh, mean over the cycle", amount=amounts["fresh"]),
                ),
                source="CO₂ balance; a sealed, lit space falls to about 90 ppm",
                certainty="±25 %.",
            ),
        )


def _goes_round(plan: Plan, space: Space) -> bool:
    """Whether air that leaves for another space comes back by ways of air; one space's exhaust that is led into the
    next, from which it leaves for the room, goes one way.
    """
    leads: dict[str, set[str]] = {}
    spaces = (space, *(other for other in plan.spaces if other.id != space.id))
    for owner in spaces:
        for way in owner.airways:
            if way.ends == "space" and way.space_id:
                start, end = (owner.id, way.space_id) if way.way == "out" else (way.space_id, owner.id)
                leads.setdefault(start, set()).add(end)
    reached, new = set[str](), leads.get(space.id, set())
    while new:
        reached |= new
        new = set[str]().union(*(leads.get(other, set()) for other in new)) - reached
    return space.id in reached


def _beside_the_loop(plan: Plan, space: Space, breathing: Breathing, amounts: dict[str, Amount]) -> str:
    """What a loop's figures leave out: openings that stand open beside it, devices at its other end."""
    words = ""
    running = breathing.lit.air.running
    seeps = 3600 * sum(max(0.0, hole.flow_m3_s) for hole in running.holes if hole.opening_id)
    if seeps > _SEEPS_M3_H:
        amounts["seeps"] = flow(seeps)
        words += " It is not closed: {seeps} of room air come in by openings beside it."
    typed = {way.space_id for way in space.airways if way.away is not None}
    damp = [
        f"{device.spec.name}, {other.name}"
        for other in neighbours(plan, space)[1:]
        if other.id not in typed
        for device in other.devices
        if device.spec.kind in ("humidifier", "dehumidifier")
    ]
    if damp:
        words += (
            f" What {' and '.join(damp)} does to that air is not counted yet: type the air it keeps at Ways of air."
        )
    return words


def _purged(space: Space) -> str:
    """Say where the purge runs only in the dark."""
    lit = space.lit
    by_night = any(
        way.ends != "space" and way.fans and way.duty(lit, while_lit=True) <= 0 and way.duty(lit, while_lit=False) > 0
        for way in space.airways
    )
    return "The purge runs with the lamps off, when leaves take up none: in the light " if by_night else "To mend it, "


def _noise(space: Space) -> Iterator[Margin]:
    found, wish = noise_of(space), space.air.noise_wish_dba
    if found.total_dba is None:
        return
    amounts = {
        "there": Amount(value=found.total_dba, unit="dB(A)", decimals=0),
        "wish": Amount(value=wish or 0.0, unit="dB(A)", decimals=0),
        "r": Amount(value=space.air.listen_m, unit="length"),
    }
    verdict: Verdict = "good" if wish is None else judge_most(found.total_dba, wish, tight=1 - 3 / max(wish, 4))
    loudest = found.sources[0]
    words = {
        "good": "About {there} at {r}" + (", under the {wish} you wish for." if wish else f", mostly {loudest.name}."),
        "tight": "About {there} at {r}, close to the {wish} you wish for.",
        "over": f"About {{there}} at {{r}}, over the {{wish}} you wish for: {loudest.name} is the loudest.",
    }
    yield Margin(
        id="air.noise",
        station="air",
        title="Noise",
        verdict=verdict,
        information=wish is None,
        mendable=verdict == "over",
        need=sentence("at most {wish}" if wish else "a wish, typed at Air", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        parts=(loudest.part_id,),
        working=Working(
            formula="L = Lw + 50 log10 s − what lies on the way + 10 log10(Q/(4 π r²) + 4/R)",
            steps=tuple(
                Step(
                    symbol="L",
                    meaning=f"{item.name}: {item.at_1m_dba:.0f} dB(A) at 1 m by itself"
                    + (" (guessed from its flow)" if item.guessed else "")
                    + "; heard",
                    amount=Amount(value=item.heard_dba, unit="dB(A)", decimals=0),
                )
                for item in found.sources
            ),
            source="Fan laws; ASHRAE Applications, noise and vibration; room constant 12 m²",
            certainty="±5 dB, more where a fan touches a frame: hang it in loops.",
        ),
    )
