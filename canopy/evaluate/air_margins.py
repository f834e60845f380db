"""The margins of air: the flow, and whether port, duct and fan fit each other."""

from __future__ import annotations

from canopy.air import Demand, delivered_share, envelope_w_k, is_open
from canopy.evaluate.breathing import Breathing
from canopy.evaluate.light_margins import cite
from canopy.library import air_paths, find
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_least, sentence
from canopy.plan.document import Space

NAMES = {"exchange": "air exchange", "heat": "heat", "moisture": "moisture", "co2": "CO₂"}
OVER_SIZED = 3.0


def air_margins(space: Space, breathing: Breathing) -> list[Margin]:
    """Judge a space's air.

    Parameters
    ----------
    space : the space
    breathing : its computed air

    Returns
    -------
    list of Margin : the flow, and each fit that can be judged
    """
    found = [_flow(space, breathing)]
    found += _unanswered(breathing)
    fit = _fit(space)
    if fit:
        found.append(fit)
    return found


def _flow_amount(value: float) -> Amount:
    return Amount(value=value, unit="airflow")


def _demand_step(demand: Demand) -> Step:
    if demand.flow_m3_h is None:
        return Step(symbol="", meaning=f"{NAMES[demand.criterion]}: {demand.reason}", amount=_flow_amount(0.0))
    note = " (without credit for walls and leaves: {})"
    meaning = f"by {NAMES[demand.criterion]}"
    if demand.plain_m3_h is not None:
        meaning += note.format(_flow_amount(demand.plain_m3_h).text())
    return Step(symbol=f"Q {demand.criterion}", meaning=meaning, amount=_flow_amount(demand.flow_m3_h))


def _flow(space: Space, breathing: Breathing) -> Margin:
    chosen, there = breathing.governing, breathing.delivered_m3_h
    need = chosen.flow_m3_h or 0.0
    by_fan = breathing.fan_m3_h >= breathing.passive_m3_h and space.air.fan is not None
    verdict: Verdict = judge_least(there, need, tight=1.2, over=OVER_SIZED if by_fan else None)
    if chosen.flow_m3_h is None:
        verdict = "short"
    amounts = {"need": _flow_amount(need), "there": _flow_amount(there)}
    way = "The fan is likely to deliver" if by_fan else "Without a fan the space breathes about"
    words = {
        "short": f"{way} {{there}}; {NAMES[chosen.criterion]} asks for {{need}}.",
        "tight": f"{way} {{there}} of {{need}}: nothing to spare as the filter ages.",
        "good": f"{way} {{there}}, sized by {NAMES[chosen.criterion]} at {{need}}.",
        "over": f"{way} {{there}}, over three times the {{need}} needed: it dries the air and makes noise. Run it slower.",
    }
    why = chosen.reason[0].upper() + chosen.reason[1:] + "." if chosen.reason else words[verdict]
    if is_open(space) and verdict != "short":
        why = "An open side lets the room's air through freely."
    return Margin(
        id="air.flow", station="air", title="Airflow", verdict=verdict, mendable=verdict in ("short", "over"),
        need=sentence("at least {need}", **amounts), there=sentence("about {there}", **amounts),
        why=sentence(why, **amounts), working=_working(space, breathing),
    )  # fmt: skip


def _working(space: Space, breathing: Breathing) -> Working:
    needs = breathing.needs
    path = find(air_paths(), space.air.path_id, "air path")
    steps = [
        Step(symbol="V", meaning="volume", amount=Amount(value=needs.volume_m3, unit="m³")),
        Step(symbol="P", meaning="heat inside, lights on", amount=Amount(value=needs.heat_w, unit="power")),
        Step(symbol="ΔT", meaning="rise allowed above the room", amount=Amount(value=needs.rise_k, unit="temperature rise")),
        Step(symbol="UA", meaning="walls and top", amount=Amount(value=envelope_w_k(space), unit="W/K")),
        Step(symbol="E", meaning="water given off by the leaves",
             amount=Amount(value=needs.vapour_kg_s * 3.6e6, unit="g/h", decimals=0)),
        *(_demand_step(demand) for demand in breathing.demands),
    ]  # fmt: skip
    if space.air.fan:
        steps.append(
            Step(symbol="Q free", meaning=space.air.fan.name, amount=_flow_amount(space.air.fan.free_flow_m3_h))
        )
        steps.append(
            Step(
                symbol="share", meaning=f"left of it: {path.name.lower()}",
                amount=Amount(value=100 * delivered_share(space), unit="%", decimals=0),
            )
        )  # fmt: skip
        if space.air.fan_speed < 1:
            speed = Amount(value=100 * space.air.fan_speed, unit="%", decimals=0)
            steps.append(Step(symbol="s", meaning="speed", amount=speed))
    steps.append(Step(symbol="Q", meaning="delivered", amount=_flow_amount(breathing.delivered_m3_h)))
    return Working(
        formula="Q = max of: V/(60 N)·(1+f) · (P − UA·ΔT − λE)/(ρ c ΔT) · E/(ρ ΔW) · A/ΔC",
        steps=tuple(steps),
        source=f"ASHRAE Fundamentals (2021); transpiration after Stanghellini (1987); derating: {cite(path.cited)}",
        certainty="Water ±35 %, walls ±25 %, derating ±25 %. The exchange rule is a rule of thumb; the rest is physics.",
    )


def _unanswered(breathing: Breathing) -> list[Margin]:
    found = []
    for demand in breathing.demands:
        if demand.flow_m3_h is None and demand is not breathing.governing:
            found.append(
                Margin(
                    id=f"air.{demand.criterion}", station="air", title=f"Air by {NAMES[demand.criterion]}",
                    verdict="short", need=sentence("no flow will do"), there=sentence("room air"),
                    why=sentence(demand.reason[0].upper() + demand.reason[1:] + "."),
                    working=Working(
                        formula="E/(ρ ΔW) needs drier air outside than in", steps=(_demand_step(demand),),
                        source="ASHRAE Fundamentals (2021)", certainty="As sure as the room's humidity.",
                    ),
                )
            )  # fmt: skip
    return found


def _fit(space: Space) -> Margin | None:
    fan = space.air.fan
    if fan is None:
        return None
    duct = space.air.duct_diameter_m
    ports = [o.across_m for o in space.openings if o.use == "exhaust" and o.shape == "round" and o.open]
    diameter = Amount(value=fan.diameter_m, unit="diameter")
    steps = [Step(symbol="fan", meaning=fan.name, amount=diameter)]
    if duct:
        steps.append(Step(symbol="duct", meaning="duct", amount=Amount(value=duct, unit="diameter")))
    if ports:
        steps.append(Step(symbol="port", meaning="exhaust port", amount=Amount(value=max(ports), unit="diameter")))
    port = max(ports, default=None)
    verdict, words = _fit_verdict(fan.diameter_m, duct, port)
    amounts = {
        "fan": diameter,
        "duct": Amount(value=duct or fan.diameter_m, unit="diameter"),
        "port": Amount(value=port or 0.0, unit="diameter"),
    }
    there = "no exhaust port" if port is None else "port {port}, duct {duct}" if duct else "port {port}"
    return Margin(
        id="air.port", station="air", title="Port, duct and fan fit", verdict=verdict, mendable=verdict != "good",
        need=sentence("{fan}", **amounts), there=sentence(there, **amounts), why=sentence(words, **amounts),
        working=Working(
            formula="port ≥ duct = fan (within 3 mm); a narrower part throttles, a wider one leaks unless sealed",
            steps=tuple(steps), source="Duct fitting practice; losses follow (d/D)⁴", certainty="As typed.",
        ),
    )  # fmt: skip


_SLACK_M, _WIDE_M = 0.003, 0.03


def _fit_verdict(fan_m: float, duct_m: float | None, port_m: float | None) -> tuple[Verdict, str]:
    """The verdict and its words; the narrowest part first."""
    if port_m is None:
        return "short", "The fan has no exhaust port to blow through: add one of {fan}."
    if port_m < (duct_m or fan_m) - _SLACK_M:
        return "short", "The port of {port} is narrower than the {duct} it must take."
    if duct_m and duct_m < fan_m - _SLACK_M:
        return "short", "The duct of {duct} throttles a fan of {fan}: fit {fan} duct."
    if duct_m and duct_m > fan_m + _SLACK_M:
        return "tight", "A reducer from {duct} to {fan} is needed between duct and fan."
    if port_m > (duct_m or fan_m) + _WIDE_M:
        return "tight", "The port of {port} is wider than the {duct} in it: cinch or seal the ring."
    return "good", "Port, duct and fan match."
