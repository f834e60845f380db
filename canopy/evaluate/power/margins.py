"""The margins of electricity: the circuit, the outlet, and the cost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from canopy.evaluate.naming import cite
from canopy.evaluate.power.loads import CircuitLoad, Running
from canopy.library import find, rule_sets
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_most, sentence
from canopy.plan.document import Circuit, Fixture, Plan, Space
from canopy.power import MONTH_DAYS, Load
from canopy.words import clock

DEFER = "Your local code and a licensed electrician decide."
# From this share of what a circuit should carry on it is tight.
_CIRCUIT_TIGHT = 0.85
OVERLOADED = (
    "Wires, plugs and strips that carry too much get hot where nobody sees it. Take load off before you switch this "
    "on; never fit a larger breaker for it."
)


def power_margins(plan: Plan, space: Space, run: Running) -> list[Margin]:
    """Judge a space's electricity, its circuit left out.

    Parameters
    ----------
    space : one of its spaces
    run : what it draws and costs

    Returns
    -------
    list of Margin : linked lamps, and cost
    """
    return [*_chains(space), cost_margin(plan, run)]


# The margins that what hangs on the circuit elsewhere decides, too: how their ids begin.
CIRCUIT_MARGINS = (
    "power.circuit",
    "power.outlet",
    "power.plug.",
    "power.socket.",
    "power.surge.",
    "power.water",
    "power.loops",
)


def circuit_margins(space: Space, run: Running, loads: Sequence[CircuitLoad]) -> list[Margin]:
    """Judge the circuits that a space hangs on.

    Parameters
    ----------
    run : what it draws
    loads : what hangs on each of its circuits, from all spaces and the household; its own circuit first

    Returns
    -------
    list of Margin : each circuit, and one outlet for what names no plug; "unknown" until a circuit is chosen
    """
    if not loads:
        return [_no_circuit()]
    found = [_circuit(load) for load in loads]
    found = [
        found[0],
        *(replace(m, id=f"{m.id}.{load.circuit.id}") for m, load in zip(found[1:], loads[1:], strict=True)),
    ]
    unplugged = tuple(load for load in run.loads if load.plug is None)
    if unplugged and loads[0].circuit.id == space.circuit_id:
        found.append(_outlet(loads[0].circuit, unplugged))
    return found


def _chains(space: Space) -> list[Margin]:
    """Lamps plugged into each other, against what the first one's plug may carry."""
    chains: dict[str, list[Fixture]] = {}
    for lamp in space.fixtures:
        if lamp.chain:
            chains.setdefault(lamp.chain, []).append(lamp)
    found = []
    for name, lamps in chains.items():
        limit = lamps[0].spec.link_limit_w
        total = sum(lamp.spec.power_w for lamp in lamps)
        # A maker states it in watts for lamps of their own, power factor included.
        verdict: Verdict = "unknown" if limit is None else judge_most(total, limit, tight=0.9)
        amounts = {"there": _watts(total), "limit": _watts(limit or 0.0)}
        words = {
            "unknown": "{there} run through the first lamp's plug; look up what it may carry.",
            "over": "{there} run through the first lamp's plug, made for {limit}: split the chain.",
            "tight": "{there} of {limit}: add no further lamp.",
            "good": "{there} of {limit}.",
        }
        found.append(
            Margin(
                id=f"power.chain.{name}",
                station="power",
                title=f"Linked lamps, {name}",
                verdict=verdict,
                said="overloaded" if verdict == "over" else "",
                danger=OVERLOADED if verdict == "over" else "",
                mendable=verdict == "over",
                parts=tuple(lamp.id for lamp in lamps),
                need=sentence("at most {limit}" if limit else "a known limit", **amounts),
                there=sentence("{there}", **amounts),
                why=sentence(f"{words[verdict]} {DEFER}", **amounts),
                working=Working(
                    formula="Σ power drawn of all linked lamps ≤ link limit of the first",
                    steps=tuple(
                        Step(symbol="", meaning=lamp.spec.name, amount=_watts(lamp.spec.power_w)) for lamp in lamps
                    ),
                    source="The lamp maker's own limit; the library's is typical",
                    certainty="As typed.",
                ),
            )
        )
    return found


def _no_circuit() -> Margin:
    return Margin(
        id="power.circuit",
        station="power",
        title="Circuit load",
        verdict="unknown",
        need=sentence("a circuit"),
        there=sentence("none chosen"),
        why=sentence("Choose the circuit this space is plugged into. Switch a breaker off and see what goes dark."),
        working=Working(formula="continuous load ≤ share × breaker × volts", steps=(), source="—", certainty="—"),
    )


def _watts(value: float) -> Amount:
    return Amount(value=value, unit="power")


def circuit_verdict(load: CircuitLoad) -> Verdict:
    """Judge a circuit: what runs for hours against its share, and everything at once against the breaker.

    Parameters
    ----------
    load : what hangs on it

    Returns
    -------
    str : "over", "tight" or "good", by volt-amperes: what flows warms wires and trips breakers
    """
    return _judged(load, load.continuous_va, load.peak_va)


def flow_decides(load: CircuitLoad) -> bool:
    """Say whether a circuit is told in volt-amperes: watts are what people know, unless they would judge otherwise.

    Parameters
    ----------
    load : what hangs on it

    Returns
    -------
    bool : False where watts come to the same verdict
    """
    return circuit_verdict(load) != _judged(load, load.continuous_w, load.peak_w)


def circuit_share(load: CircuitLoad) -> float:
    """Give how full a circuit is, as its margin tells it.

    Parameters
    ----------
    load : what hangs on it

    Returns
    -------
    float : what runs for hours over what it should carry for hours
    """
    return load.continuous_va / load.limit_w if flow_decides(load) else load.share


def _judged(load: CircuitLoad, continuous: float, peak: float) -> Verdict:
    return "over" if peak > load.breaker_w else judge_most(continuous, load.limit_w, tight=_CIRCUIT_TIGHT)


@lru_cache(maxsize=32)
def _circuit(load: CircuitLoad) -> Margin:
    rules = find(rule_sets(), load.circuit.rule_set_id, "rule set")
    verdict, peak = circuit_verdict(load), load.peak_va > load.breaker_w
    flowing = flow_decides(load)
    unit = "VA" if flowing else "power"
    lasting, together = (load.continuous_va, load.peak_va) if flowing else (load.continuous_w, load.peak_w)
    amounts = {
        "there": Amount(value=lasting, unit=unit),
        "limit": Amount(value=load.limit_w, unit=unit),
        "all": Amount(value=together, unit=unit),
        "full": Amount(value=load.breaker_w, unit=unit),
        "left": Amount(value=max(0.0, load.limit_w - lasting), unit=unit),
    }
    drivers = " Drivers and motors load wires with more than their watts." if flowing else ""
    words = {
        "over": f"At {clock(load.peak_at_min)} {{all}} run together and overload the {{full}} of this circuit; a "
        "breaker may take an hour to trip, and cords and strips get hot before."
        if peak
        else "{there} for hours on end is more than the {limit} this circuit should carry.",
        "tight": "Only {left} are left for anything else that runs for hours.",
        "good": "{left} are left for anything else that runs for hours.",
    }
    share = Amount(value=100 * rules.continuous_share, unit="%", decimals=0)
    # What is judged by stands last.
    sums = (
        Step(symbol="Σ P", meaning="continuous", amount=_watts(load.continuous_w)),
        Step(
            symbol="Σ S",
            meaning="as it flows, by each kind's typical power factor",
            amount=Amount(value=load.continuous_va, unit="VA"),
        ),
    )
    return Margin(
        id="power.circuit",
        station="power",
        title=f"Circuit load: {load.circuit.name}",
        verdict=verdict,
        said="overloaded" if verdict == "over" else "",
        danger=OVERLOADED if verdict == "over" else "",
        mendable=verdict == "over",
        need=sentence("at most {full} at once" if peak else "at most {limit}", **amounts),
        there=sentence("{all}" if peak else "{there}", **amounts),
        why=sentence(f"{words[verdict]}{drivers} {DEFER}", **amounts),
        working=Working(
            formula="Σ P / power factor (3 h or more at a stretch) ≤ share × breaker × volts",
            steps=(
                Step(
                    symbol="breaker", meaning=load.circuit.name, amount=Amount(value=load.circuit.breaker_a, unit="A")
                ),
                Step(symbol="U", meaning="mains", amount=Amount(value=load.circuit.mains_v, unit="V")),
                Step(symbol="share", meaning=rules.name, amount=share),
                *(
                    Step(
                        symbol="P",
                        meaning=f"{where}: {item.name}, {item.hours_per_day:g} h",
                        amount=_watts(item.power_w),
                    )
                    for where, item in load.loads
                    if item.continuous
                ),
                *(sums if flowing else reversed(sums)),
            ),
            source=f"{cite(rules.cited)}; the share: {cite(rules.share_cited)}",
            certainty="Drawn power as stated; power factors typical of each kind, 1 for household loads as you listed "
            "them. Start-up surges are not in it.",
        ),
    )


def _outlet(circuit: Circuit, loads: tuple[Load, ...]) -> Margin:
    """Judge a space on one outlet: what runs for hours against what it carries for hours, and all at once against its
    rating.
    """
    rules = find(rule_sets(), circuit.rule_set_id, "rule set")
    limit = min(rules.outlet_continuous_a, rules.continuous_share * circuit.breaker_a) * circuit.mains_v
    full = min(rules.outlet_a, circuit.breaker_a) * circuit.mains_v
    lasting = sum(load.power_w for load in loads if load.continuous)
    together = sum(load.power_w for load in loads if load.hours_per_day > 0)

    def judged(lasting: float, together: float) -> tuple[Verdict, float, float, bool]:
        peak = together / full > lasting / limit
        there, most = (together, full) if peak else (lasting, limit)
        return judge_most(there, most, tight=0.85), there, most, peak

    known = judged(lasting, together)
    flows = judged(
        sum(load.va for load in loads if load.continuous), sum(load.va for load in loads if load.hours_per_day > 0)
    )
    unit = "power" if known[0] == flows[0] else "VA"
    verdict, there, most, peak = known if known[0] == flows[0] else flows
    amounts = {
        "there": Amount(value=there, unit=unit),
        "limit": Amount(value=most, unit=unit),
        "all": _watts(together),
    }
    what = "All at once" if peak else "What runs for hours"
    words = {
        "over": f"{what}, on one outlet, would be {{there}}: use two outlets, or less at once.",
        "tight": f"{what}, on one outlet, is {{there}} of {{limit}}: no more on this strip.",
        "good": "One outlet and one good strip carry this, all {all} at once.",
    }
    return Margin(
        id="power.outlet",
        station="power",
        title="One outlet for this space",
        verdict=verdict,
        said="overloaded" if verdict == "over" else "",
        danger=OVERLOADED if verdict == "over" else "",
        mendable=verdict == "over",
        need=sentence("at most {limit} at once" if peak else "at most {limit} for hours", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict] + " Never chain strips.", **amounts),
        working=Working(
            formula="Σ P / power factor ≤ continuous current × volts (3 h or more), ≤ outlet's rating × volts (all)",
            steps=(
                Step(
                    symbol="I",
                    meaning=f"{rules.name}: for hours",
                    amount=Amount(value=rules.outlet_continuous_a, unit="A"),
                ),
                Step(symbol="I max", meaning="the outlet's rating", amount=Amount(value=rules.outlet_a, unit="A")),
                Step(symbol="U", meaning="mains", amount=Amount(value=circuit.mains_v, unit="V")),
                Step(symbol="Σ P", meaning="this space, for hours", amount=_watts(lasting)),
                Step(symbol="Σ P all", meaning="this space, all at once", amount=_watts(together)),
            ),
            source=f"{cite(rules.cited)}. {rules.outlet_note}".strip(),
            certainty=DEFER,
        ),
    )


def _paid(plan: Plan, run: Running) -> float:
    """What a kilowatt-hour costs at the hours at which it is drawn."""
    if run.energy_kwh_d <= 0:
        return plan.tariff.mean_price
    return run.cost_per_month / MONTH_DAYS / run.energy_kwh_d


def cost_margin(plan: Plan, run: Running) -> Margin:
    """Say what a space costs to run.

    Parameters
    ----------
    plan : for its tariff and currency
    run : what it draws

    Returns
    -------
    Margin : for information
    """
    money = plan.site.currency
    amounts = {
        "cost": Amount(value=run.cost_per_month, unit=money, decimals=2),
        "energy": Amount(value=run.energy_kwh_d * MONTH_DAYS, unit="kWh"),
    }
    return Margin(
        id="power.cost",
        station="power",
        title="Running cost",
        verdict="good",
        information=True,
        need=sentence("for information"),
        there=sentence("{cost} a month", **amounts),
        why=sentence("{energy} in a month of 30.4 days.", **amounts),
        working=Working(
            formula="Σ P × h / 1000 × 30.4 d × price",
            steps=(
                *(
                    Step(
                        symbol="E",
                        meaning=f"{load.name}, {load.power_w:.0f} W for {load.hours_per_day:g} h",
                        amount=Amount(value=load.energy_kwh_d, unit="kWh/d"),
                    )
                    for load in run.loads
                ),
                Step(
                    symbol="price",
                    meaning="tariff at its hours" if plan.tariff.rates else "tariff",
                    amount=Amount(value=_paid(plan, run), unit=f"{money}/kWh", decimals=3),
                ),
            ),
            source="Addition",
            certainty="As good as stated power, hours and tariff.",
        ),
    )
