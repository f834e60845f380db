"""The margins of airflow: what each criterion asks for, with lamps on and off, and what the room can take."""

from __future__ import annotations

from canopy.air import Demand, breath, envelope_w_k, is_open
from canopy.evaluate.air.amounts import NAMES, flow, spare_of
from canopy.evaluate.air.breathing import Breathing, Half
from canopy.evaluate.air.excess import LOOKED_AT, Excess, excess, usual_flow_m3_h
from canopy.evaluate.air.paths import PathReport
from canopy.evaluate.air.room import room_margins
from canopy.margin import Amount, Margin, Sentence, Step, Verdict, Working, judge_least, sentence
from canopy.plan.document import Plan, Space
from canopy.season import Standing
from canopy.words import capital

_WORTH_A_WORD_M3_H = 0.5
# Where no flow helps.
_SIZED = "What cools or dries is sized under Climate."
_FORMULA = "Q = max of: V/N · (P − UA·ΔT − λE)/(ρ c ΔT) · E/(ρ ΔW) · A/ΔC"
_SOURCE = (
    "ASHRAE Fundamentals (2021); transpiration after Stanghellini (1987); delivered: fan curve against system curve"
)
_CERTAINTY = "Water ±35 %, walls ±25 %, delivered ±15 %. The exchange rule is a rule of thumb; the rest is physics."


def air_margins(plan: Plan, here: Standing, breathing: Breathing, paths: tuple[PathReport, ...]) -> list[Margin]:
    """Judge how much air a space gets.

    Parameters
    ----------
    here : the space on a day
    breathing : its computed air
    paths : its ways of air at work

    Returns
    -------
    list of Margin : the flow with lamps on and off, under a rule of the person's own each criterion for information,
        air that passes the plants by, the door and the room; of an empty space, where nothing grows, shines or runs,
        only the room, as nothing asks for air
    """
    space = here.space
    if not (space.plants or space.devices or any(lamp.enabled for lamp in space.fixtures)):
        return room_margins(here.around, breathing)
    found = [_flow(plan, here, breathing, paths), _flow_by_night(space, breathing)]
    # The largest of all speaks for the others; a rule of the person's own does not, and what no flow answers is said.
    chosen = space.air.rule != "largest"
    found += [
        _criterion(breathing.lit, demand)
        for demand in breathing.demands
        if demand is not breathing.governing and (chosen or demand.flow_m3_h is None)
    ]
    found += [*_past(space, breathing), *_door(plan, space, breathing)]
    found += room_margins(here.around, breathing)
    return found


def demand_step(demand: Demand) -> Step:
    """Write one criterion's answer as a line of a working.

    Parameters
    ----------
    demand : the answer

    Returns
    -------
    Step : with what the other school says
    """
    if demand.flow_m3_h is None:
        return Step(symbol="", meaning=f"{NAMES[demand.criterion]}: {demand.reason}", amount=flow(0.0))
    meaning, aside = f"by {NAMES[demand.criterion]}", None
    if demand.plain_m3_h is not None:
        more = demand.plain_m3_h > demand.flow_m3_h
        other = "without credit for walls and leaves"
        if demand.criterion == "exchange":
            other = f"{'with' if more else 'without'} the flat filter allowance"
        meaning, aside = f"{meaning}; {other}", flow(demand.plain_m3_h)
    return Step(symbol=f"Q {demand.criterion}", meaning=meaning, amount=flow(demand.flow_m3_h), aside=aside)


def _words(space: Space, half: Half) -> tuple[bool, str]:
    """Whether fans bring the air, and how a sentence about it begins."""
    running = half.air.running
    by_fan = any(any(speed > 0 for speed in way.way.speeds) and abs(way.flow_m3_s) > 0 for way in running.ways)
    if not by_fan:
        return False, "Without a fan the space breathes about"
    cycled = any(way.duty(space.lit) < 1 for way in space.airways if way.fans)
    return True, "Over its cycle the air path delivers about" if cycled else "The air path delivers about"


def _flow(plan: Plan, here: Standing, breathing: Breathing, paths: tuple[PathReport, ...]) -> Margin:
    space, half, chosen = here.space, breathing.lit, breathing.governing
    there, need = breathing.delivered_m3_h, chosen.flow_m3_h or 0.0
    by_fan, way = _words(space, half)
    spare = spare_of(space, chosen)
    aged = there - sum(
        max(0.0, path.flow_m3_h - path.aged_m3_h) * path.airway.duty(space.lit, while_lit=True)
        for path in paths
        if path.running and path.airway.way == "out"
    )
    verdict: Verdict = judge_least(there, need, tight=spare)
    if verdict == "good" and aged < need:
        verdict = "tight"
    more = excess(plan, here, breathing, spare) if verdict == "good" and by_fan and not is_open(space) else None
    if more is not None and more.is_too_much:
        verdict = "over"
    if chosen.flow_m3_h is None:
        verdict = "short"
    amounts = {"need": flow(need), "there": flow(there), "aged": flow(aged), "open": flow(half.air.held_open_m3_h)}
    usual = usual_flow_m3_h(breathing)
    amounts |= _excess_amounts(plan, more) | {"usual": flow(usual)}
    words = {
        "short": f"{way} {{there}}; {NAMES[chosen.criterion]} asks for {{need}}.{_held(half)}",
        "tight": f"{way} {{there}} of {{need}}, and {{aged}} once the filter has aged."
        if aged < there - _WORTH_A_WORD_M3_H and there >= need * spare
        else f"{way} {{there}} of {{need}}: little to spare.",
        "good": f"{way} {{there}}, sized by {NAMES[chosen.criterion]} at {{need}}."
        if need >= _WORTH_A_WORD_M3_H
        else f"{way} {{there}}, and nothing asks for more.",
        "over": f"{way} {{there}}, {{times}} times the {{usual}} that is needed or usual: {_cost(more)}"
        if usual >= _WORTH_A_WORD_M3_H
        else f"{way} {{there}}, and nothing here asks for so much: {_cost(more)}",
    }
    if verdict == "good" and more is not None and need >= _WORTH_A_WORD_M3_H:
        words["good"] = (
            f"{way} {{there}}, {{times}} times the {{usual}} that is needed or usual, which costs nothing worth it."
        )
    why = capital(chosen.reason) + "." if chosen.reason else words[verdict]
    if is_open(space) and verdict != "short":
        why = "An open side lets the room's air through freely."
    return Margin(
        id="air.flow",
        station="air",
        title="Airflow",
        verdict=verdict,
        mendable=verdict in ("short", "tight", "over") and chosen.flow_m3_h is not None,
        need=_needed(chosen, usual if verdict == "over" else None),
        there=sentence("about {there}", **amounts),
        why=sentence(why, **amounts),
        working=_working(space, half, there),
    )


def _needed(chosen: Demand, usual_m3_h: float | None = None) -> Sentence:
    if chosen.flow_m3_h is None:
        what = "drier" if chosen.criterion == "moisture" else "cooler"
        return sentence(f"{what} air: no flow will do")
    if usual_m3_h is not None and usual_m3_h >= _WORTH_A_WORD_M3_H:
        return sentence("{need} to {most}", need=flow(chosen.flow_m3_h), most=flow(usual_m3_h * LOOKED_AT))
    if chosen.flow_m3_h < _WORTH_A_WORD_M3_H:
        return sentence("next to nothing")
    return sentence("at least {need}", need=flow(chosen.flow_m3_h))


def _held(half: Half) -> str:
    return " While the door is held open it is about {open}." if half.air.held_open_m3_h > _WORTH_A_WORD_M3_H else ""


def _excess_amounts(plan: Plan, more: Excess | None) -> dict[str, Amount]:
    if more is None:
        return {}
    return {
        "times": Amount(value=more.times, unit="", decimals=1),
        **{f"s{n}": _percent(speed) for n, speed in enumerate(more.speeds.values())},
        "db": Amount(value=more.louder_db or 0.0, unit="dB", decimals=0),
        "w": Amount(value=more.watts, unit="power"),
        "month": Amount(value=more.month, unit=plan.site.currency, decimals=2),
        "rh": Amount(value=more.rh_pct or 0.0, unit="%", decimals=0),
        "low": Amount(value=more.low_pct or 0.0, unit="%", decimals=0),
    }


def _cost(more: Excess | None) -> str:
    """What the rest costs, and what to do."""
    if more is None:
        return ""
    costs = []
    if (more.louder_db or 0) >= 1 and more.speeds:
        costs.append("{db} louder")
    if more.watts >= 1:
        costs.append("{w} and {month} a month for nothing" if more.month >= 0.01 else "{w} for nothing")
    if more.rh_pct is not None:
        costs.append("air at {rh} where the crops here want {low} or more")
    said = ", ".join(costs) if costs else "it wears the fan for nothing"
    if not more.speeds:
        return f"{said}. A smaller fan, or one that is run slower, would do."
    steps = " and ".join(f"{{s{n}}}" for n in range(len(more.speeds)))
    return f"{said}. Run {'it' if len(more.speeds) == 1 else 'the fans'} at {steps}."


def _percent(share: float) -> Amount:
    return Amount(value=100 * share, unit="%", decimals=0)


def _flow_by_night(space: Space, breathing: Breathing) -> Margin:
    half = breathing.dark
    chosen = half.governing
    there, need = half.moves_m3_h(chosen.criterion), chosen.flow_m3_h or 0.0
    verdict: Verdict = "short" if chosen.flow_m3_h is None else judge_least(there, need, tight=1.1)
    if chosen.flow_m3_h is not None and need < _WORTH_A_WORD_M3_H:
        verdict = "good"
    amounts = {"need": flow(need), "there": flow(there), "rh": Amount(value=space.air.max_rh_pct, unit="%", decimals=0)}
    words = {
        "short": f"With the lamps off {{there}} move; {NAMES[chosen.criterion]} asks for {{need}}"
        + (" to stay under {rh}." if chosen.criterion == "moisture" else "."),
        "tight": "With the lamps off {there} move of {need}: nothing to spare on a damp night.",
        "good": f"With the lamps off {{there}} move; {NAMES[chosen.criterion]} asks for {{need}}."
        if need >= _WORTH_A_WORD_M3_H
        else "With the lamps off {there} move, and nothing asks for more.",
    }
    why = f"{capital(chosen.reason)}. {_SIZED}" if chosen.reason else words[verdict]
    return Margin(
        id="air.flow-night",
        station="air",
        title="Airflow by night",
        verdict=verdict,
        mendable=verdict in ("short", "tight") and chosen.flow_m3_h is not None,
        need=_needed(chosen),
        there=sentence("about {there}", **amounts),
        why=sentence(why, **amounts),
        working=_working(space, half, there),
    )


def _past(space: Space, breathing: Breathing) -> list[Margin]:
    """Air that goes straight from an inlet to an outlet, past the plants."""
    half = breathing.lit
    if not half.cuts or half.past_share < _PAST_LEAST:
        return []
    worst, total = half.cuts[0], half.air.running.total_m3_h
    names = {hole.id: f"opening {number}, {hole.face}" for number, hole in enumerate(space.openings, 1)}
    lost = sum(cut.flow_m3_h for cut in half.cuts)
    amounts = {
        "lost": flow(lost),
        "total": flow(total),
        "rest": flow(total - lost),
        "share": Amount(value=100 * half.past_share, unit="%", decimals=0),
    }
    words = (
        f"Of {{total}} about {{lost}} go straight from {names[worst.in_id]}, to {names[worst.out_id]}, past plants: "
        "only {rest} count. Shut one of them, or part them so that the plants stand between."
    )
    return [
        Margin(
            id="air.short-circuit",
            station="air",
            title="Air past the plants",
            verdict="tight" if half.past_share <= _PAST_MUCH else "over",
            mendable=True,
            need=sentence("air that crosses the plants"),
            there=sentence("{share} goes past them", **amounts),
            why=sentence(words, **amounts),
            parts=(worst.in_id, worst.out_id),
            working=Working(
                formula="lost = Q in · Q out/Q · (1 − 2 d/D): d straight from hole to hole, D by the plants' middle",
                steps=tuple(
                    Step(
                        symbol="Q lost",
                        meaning=f"{names[cut.in_id]}, to {names[cut.out_id]}",
                        amount=flow(cut.flow_m3_h),
                    )
                    for cut in half.cuts
                ),
                source="Geometry; both flows mix in proportion (assumed)",
                certainty="Rough, by a factor of two: it finds openings side by side; smoke shows the truth.",
            ),
        )
    ]


# From so large a share on air past the plants is worth a word, and then too much.
_PAST_LEAST, _PAST_MUCH = 0.05, 0.3


def _door(plan: Plan, space: Space, breathing: Breathing) -> list[Margin]:
    """What moves with the door open and with it shut, apart."""
    air = breathing.lit.air
    if space.door_open and space.door_side is not None:
        shut = space.model_copy(update={"door_open": False})
        closed = breath(plan, shut, lit=True, rise_k=space.air.rise_k).total_m3_h
        amounts = {"shut": flow(closed), "open": flow(air.total_m3_h)}
        words = "The door stands open: about {open} pass. Shut, {shut} would move."
    elif air.held_open_m3_h > _WORTH_A_WORD_M3_H:
        amounts = {"shut": flow(air.shut_m3_h), "open": flow(air.held_open_m3_h), "mean": flow(air.total_m3_h)}
        words = "Shut, {shut} move; while the door is held open about {open} pass. Over the day that is {mean}."
    else:
        return []
    steps = [Step(symbol="Q", meaning="door shut", amount=amounts["shut"])]
    steps.append(Step(symbol="Q", meaning="door open", amount=amounts["open"]))
    return [
        Margin(
            id="air.door",
            station="air",
            title="Door open and shut",
            verdict="good",
            information=True,
            need=sentence("for information"),
            there=sentence("{shut} shut, {open} open", **amounts),
            why=sentence(words, **amounts),
            working=Working(
                formula="Q = (C_d A/3) √(g H ΔT/T) through the open door",
                steps=tuple(steps),
                source="ASHRAE Fundamentals, natural ventilation",
                certainty="±30 %: by the warmth that is allowed inside. The flow is judged with the door shut.",
            ),
        )
    ]


def _criterion(half: Half, demand: Demand) -> Margin:
    """One criterion that does not size the flow: what it asks for, and whether it gets it."""
    there = half.moves_m3_h(demand.criterion)
    amounts = {"need": flow(demand.flow_m3_h or 0.0), "there": flow(there)}
    step = demand_step(demand)
    answered = demand.flow_m3_h is not None
    met = answered and there >= (demand.flow_m3_h or 0.0)
    # An exchange every so many minutes is a rule of thumb: nobody is short of it who did not choose it.
    verdict: Verdict = "good" if met or demand.criterion == "exchange" else "short"
    why: Sentence
    if not answered:
        why = sentence(f"{capital(demand.reason)}. {_SIZED}")
    elif met:
        why = sentence(f"By {NAMES[demand.criterion]} {{need}} would do; {{there}} move.", **amounts)
    else:
        why = sentence(
            f"By {NAMES[demand.criterion]} {{need}} would be asked for; {{there}} move. Another rule sizes it here.",
            **amounts,
        )
    return Margin(
        id=f"air.flow-{demand.criterion}",
        station="air",
        title=f"Airflow by {NAMES[demand.criterion]}",
        verdict=verdict,
        information=answered,
        need=sentence("at least {need}", **amounts) if answered else sentence("no flow will do"),
        there=sentence("asks for {need}" if answered else "about {there}", **amounts),
        why=why,
        working=Working(formula=_FORMULA, steps=(step,), source=_SOURCE, certainty=_CERTAINTY),
    )


def _working(space: Space, half: Half, there: float) -> Working:
    needs = half.needs
    steps = [
        Step(symbol="V", meaning="volume", amount=Amount(value=needs.volume_m3, unit="room volume")),
        Step(symbol="P", meaning="heat inside", amount=Amount(value=needs.heat_w, unit="power")),
        Step(
            symbol="ΔT",
            meaning="rise allowed above the air that comes in",
            amount=Amount(value=needs.rise_k, unit="temperature rise"),
        ),
        Step(symbol="T in", meaning="air that comes in", amount=Amount(value=needs.room_c, unit="temperature")),
        Step(symbol="RH in", meaning="its humidity", amount=Amount(value=needs.room_rh_pct, unit="%", decimals=0)),
        Step(symbol="UA", meaning="walls and top", amount=Amount(value=envelope_w_k(space), unit="heat loss")),
        Step(
            symbol="E",
            meaning="water given off by the leaves",
            amount=Amount(value=needs.vapour_kg_s * 3.6e6, unit="water rate"),
        ),
        *(demand_step(demand) for demand in half.demands),
    ]
    air = half.air.running
    for way in air.ways:
        free = [
            fan.spec.free_flow_m3_h * fan.count * speed
            for fan, speed in zip(way.way.chain.fans, way.way.speeds, strict=True)
        ]
        meaning, aside = way.airway.name, None
        if free and min(free) > 0:
            meaning, aside = f"{meaning}; in free air", flow(min(free))
        steps.append(Step(symbol="Q path", meaning=meaning, amount=flow(way.flow_m3_h), aside=aside))
    if air.ways:
        steps.append(Step(symbol="p", meaning="pressure inside", amount=Amount(value=air.pressure_pa, unit="pressure")))
    steps += _hole_steps(space, half)
    if half.hood_w > 0:
        steps.insert(2, Step(symbol="P hood", meaning="taken up in hoods, not in P", amount=_power(half.hood_w)))
    if half.past_share > 0:
        lost = half.past_share * half.air.shut_m3_h
        steps.append(Step(symbol="Q past", meaning="goes past the plants, not counted", amount=flow(lost)))
    looped = half.air.looped_m3_h
    if looped > _WORTH_A_WORD_M3_H:
        meaning = "goes round through another space: no exchange, no CO₂"
        steps.append(Step(symbol="Q loop", meaning=meaning, amount=flow(looped)))
    steps.append(Step(symbol="Q", meaning="counts, the door shut", amount=flow(there)))
    return Working(formula=_FORMULA, steps=tuple(steps), source=_SOURCE, certainty=_CERTAINTY)


def _power(value: float) -> Amount:
    return Amount(value=value, unit="power")


def _hole_steps(space: Space, half: Half) -> list[Step]:
    """What passes each opening by itself, driven by fans and by warm air rising."""
    numbers = {hole.id: (n, hole.face) for n, hole in enumerate(space.openings, 1)}
    found = []
    for hole in half.air.running.holes:
        if hole.opening_id in numbers and abs(hole.flow_m3_s) * 3600 >= 0.05:
            number, face = numbers[hole.opening_id]
            way = "in" if hole.flow_m3_s > 0 else "out"
            found.append(
                Step(
                    symbol="Q hole",
                    meaning=f"opening {number}, {face}, {way} at",
                    amount=flow(abs(hole.flow_m3_s) * 3600),
                    aside=Amount(value=hole.speed_m_s, unit="air speed"),
                )
            )
    return found
