"""The margins of the tree: outlets, strips, timers, plugs and cords by their own limits; water; switching on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import sqrt

from canopy.evaluate.naming import cite
from canopy.library import find, rule_sets
from canopy.margin import ORDER, Amount, Margin, Step, Verdict, Working, judge_most, sentence
from canopy.plan.document import Circuit, Space
from canopy.plan.plugs import CARRIER_NAMES, Carrier, Outlet
from canopy.power import Hung, Node, Tree, coinciding_w
from canopy.power.cords import carries_a, drop_v
from canopy.words import capital

DEFER = "Your local code and a licensed electrician decide."
HOT = (
    "Strips, timers and cords that carry too much, or are chained, get hot where nobody sees it, long before a breaker "
    "trips. Pull it, and plug it in elsewhere."
)
WATER = (
    "Water and mains: residual-current protection (RCD or GFCI) before every socket, sockets well above the floor, a "
    "drip loop in every cord."
)
_TIGHT = 0.85
_DROP_TIGHT, _DROP_SHORT = 0.03, 0.05
# Sockets lower than this stand in the first litre that runs out [m].
_LOW_M, _VERY_LOW_M = 0.30, 0.05
# A breaker of type B trips at once from three times its rating on for half a wave (IEC 60898-1); shorter pulses may be
# higher by the root of their length (constant I²t), as makers' tables for drivers have it (rough).
_AT_ONCE, _HALF_WAVE_MS, _CREST = 3.0, 10.0, sqrt(2)


@dataclass(frozen=True, kw_only=True)
class _Finding:
    """Something about a strip or cord: how bad, in words, and the figure that was judged."""

    verdict: Verdict
    words: str
    need: str = ""
    there: str = ""


def tree_margins(space: Space, tree: Tree) -> list[Margin]:
    """Judge what a space is plugged into.

    Parameters
    ----------
    space : one of the plan's spaces
    tree : the household's

    Returns
    -------
    list of Margin : each strip, timer, plug and cord, each outlet, water, and switching on after a power cut
    """
    found: list[Margin] = []
    touching = tree.touching(space.id)
    for node in touching:
        if isinstance(node.item, Carrier):
            found.append(_carrier(tree, node, node.item))
        elif isinstance(node.item, Outlet):
            found.append(_outlet(tree, node, node.item))
        else:
            found += _surge(tree, node, node.item)
    found += _water(space, tree)
    found += _loops(space, tree)
    return found


def _peak(hung: tuple[Hung, ...]) -> float:
    return float(coinciding_w([item.load for item in hung]).max())


def _peak_va(hung: tuple[Hung, ...]) -> float:
    return float(coinciding_w([item.load for item in hung], apparent=True).max())


def _watts(value: float) -> Amount:
    return Amount(value=value, unit="power")


def _is_heater(item: Hung) -> bool:
    return item.load.kind_id in ("heater", "mat", "incandescent")


def _carrier(tree: Tree, node: Node, item: Carrier) -> Margin:
    hung = tree.under(node.id)
    peak, circuit = _peak(hung), tree.circuit_of(node.id)
    volts = circuit.mains_v if circuit else 230.0
    limit, flowing_va = own_limit_w(item, volts), _peak_va(hung)
    # Watts are what people know; volt-amperes are said where they decide.
    flowing = limit is not None and judge_most(peak, limit, tight=_TIGHT) != judge_most(flowing_va, limit, tight=_TIGHT)
    unit = "VA" if flowing else "power"
    moving = _peak(tuple(h for h in hung if h.load.kind.kind != "resistive"))
    amounts = {
        "there": Amount(value=flowing_va if flowing else peak, unit=unit),
        "limit": Amount(value=limit or 0.0, unit=unit),
        "moving": _watts(moving),
        "rated": _watts(item.motor_w or 0.0),
        "drop": Amount(value=100 * _drop_share(tree, node, volts), unit="%", decimals=1),
    }
    findings = [
        *_chained(tree, node, item),
        *_heaters(item, hung),
        *_own_limit(limit, flowing_va),
        *_inductive(item, moving),
    ]
    findings += _dropping(item, _drop_share(tree, node, volts))
    worst = min(findings, key=lambda finding: ORDER.index(finding.verdict))
    kind = CARRIER_NAMES[item.kind]
    bad = worst.verdict in ("short", "over")
    return Margin(
        id=f"power.plug.{item.id}",
        station="power",
        title=f"{capital(kind)}: {item.name}",
        verdict=worst.verdict,
        said="overloaded" if worst.verdict == "over" else "not allowed" if worst.verdict == "short" else "",
        danger=HOT if bad else "",
        mendable=bad or (worst.verdict == "tight" and item.coiled),
        parts=tuple(h.load.part_id for h in hung),
        need=sentence(worst.need or "at most {limit}", **amounts),
        there=sentence(worst.there or "{there}", **amounts),
        why=sentence(f"{worst.words} {DEFER}", **amounts),
        working=Working(
            formula="most that runs together ≤ its own limit; 2 L I ρ / A ≤ 3 % of the mains",
            steps=(
                *(Step(symbol="P", meaning=f"{h.where}: {h.load.name}", amount=_watts(h.load.power_w)) for h in hung),
                Step(symbol="Σ", meaning="most that runs together", amount=_watts(peak)),
                Step(symbol="Σ S", meaning="as it flows", amount=Amount(value=flowing_va, unit="VA")),
                Step(symbol="Σ m", meaning="of it motors, ballasts and drivers", amount=amounts["moving"]),
                *((Step(symbol="", meaning="its own limit", amount=amounts["limit"]),) if limit else ()),
                *(
                    (Step(symbol="ΔU", meaning="lost in cords up to here", amount=amounts["drop"]),)
                    if item.length_m
                    else ()
                ),
            ),
            source="Its own rating plate; cords by cross-section (IEC 60228), reels as makers print on them",
            certainty="As typed. " + DEFER,
        ),
    )


def own_limit_w(item: Carrier, volts: float) -> float | None:
    """Give what a strip, timer or cord carries by itself.

    Parameters
    ----------
    item : with what is printed on it, or its conductors' cross-section
    volts : of the mains, over 0 [V]

    Returns
    -------
    float : the less of what is printed and what its cross-section carries [W]; None where neither is known
    """
    by_size = carries_a(item.area_mm2, coiled=item.coiled) * volts if item.area_mm2 is not None else None
    known = [value for value in (item.limit_w, by_size) if value is not None]
    return min(known) if known else None


def most_w(tree: Tree, node: Node) -> float | None:
    """Give what may run at once through a node.

    Parameters
    ----------
    tree : of the household
    node : a circuit, an outlet, or a strip, timer or cord

    Returns
    -------
    float : by its breaker, its rating or its own limit [W]; None where nobody knows
    """
    circuit = tree.circuit_of(node.id)
    if circuit is None:
        return None
    if isinstance(node.item, Carrier):
        return own_limit_w(node.item, circuit.mains_v)
    return (_rated_a(node.item, circuit) if isinstance(node.item, Outlet) else circuit.breaker_a) * circuit.mains_v


def _rated_a(item: Outlet, circuit: Circuit) -> float:
    """What an outlet carries at once: as marked, else as is usual, and never more than its breaker lets through."""
    rules = find(rule_sets(), circuit.rule_set_id, "rule set")
    return min(item.rated_a or rules.outlet_a, circuit.breaker_a)


def _chained(tree: Tree, node: Node, item: Carrier) -> Iterator[_Finding]:
    above = [up.item for up in tree.way(node.parent) if isinstance(up.item, Carrier)]
    first = next((up for up in above if up.kind in ("strip", "reel")), None)
    if item.kind == "strip" and first is not None:
        yield _Finding(
            verdict="short",
            words=f"It hangs on {first.name}: strips are never chained. Plug it straight into an outlet.",
            need="straight into an outlet",
            there=f"in {first.name}",
        )
    elif item.kind in ("cord", "reel") and any(up.kind in ("cord", "reel") for up in above):
        yield _Finding(
            verdict="tight", words="One cord hangs on another: a single longer one is safer.", need="one cord"
        )
    if item.kind == "reel" and item.coiled:
        yield _Finding(
            verdict="tight",
            words="A reel that is not wound off carries about a third: wind it off to its end.",
            need="wound off",
            there="coiled",
        )


def _heaters(item: Carrier, hung: tuple[Hung, ...]) -> Iterator[_Finding]:
    warm = [h for h in hung if _is_heater(h)]
    if item.kind in ("timer", "smart-plug") and warm and not item.heaters:
        yield _Finding(
            verdict="short",
            words=f"{capital(warm[0].load.name)} runs through a {CARRIER_NAMES[item.kind]} nobody says is made for "
            "heaters: its contacts burn or weld. Plug it straight into an outlet, or take one that is rated for it.",
            need="one rated for heaters",
            there="not known" if item.heaters is None else "not rated for heaters",
        )


def _own_limit(limit: float | None, peak_va: float) -> Iterator[_Finding]:
    if limit is None:
        yield _Finding(
            verdict="unknown",
            words="{there} may run through it at once. What it carries stands on its underside: type it.",
            need="a known limit",
        )
        return
    verdict = judge_most(peak_va, limit, tight=_TIGHT)
    words = {
        "over": "{there} may run through what is made for {limit}: split what hangs on it.",
        "tight": "{there} of {limit}: plug nothing more into it.",
        "good": "{there} of {limit}.",
    }
    yield _Finding(verdict=verdict, words=words[verdict])


def _inductive(item: Carrier, moving_w: float) -> Iterator[_Finding]:
    if item.kind not in ("timer", "smart-plug") or moving_w <= 0:
        return
    if item.motor_w is None:
        yield _Finding(
            verdict="unknown",
            words="{moving} of lamps and motors switch on through it; drivers weld contacts not made for them. "
            "Look for its inductive or LED rating and type it.",
            need="a known rating for lamps and motors",
            there="{moving}",
        )
        return
    verdict = judge_most(moving_w, item.motor_w, tight=_TIGHT)
    words = {
        "over": "{moving} of lamps and motors are more than the {rated} its contacts bear: use a contactor, or two.",
        "tight": "{moving} of lamps and motors, made for {rated}.",
        "good": "{moving} of lamps and motors, made for {rated}.",
    }
    yield _Finding(verdict=verdict, words=words[verdict], need="at most {rated} of lamps and motors", there="{moving}")


def _drop_share(tree: Tree, node: Node, volts: float) -> float:
    """What is lost in all cords from the outlet to here, as a share of the mains."""
    lost = 0.0
    for up in tree.way(node.id):
        if isinstance(up.item, Carrier) and up.item.length_m is not None and up.item.area_mm2 is not None:
            lost += drop_v(up.item.length_m, up.item.area_mm2, _peak_va(tree.under(up.id)) / volts)
    return lost / volts


def _dropping(item: Carrier, share: float) -> Iterator[_Finding]:
    if item.length_m is None or share <= _DROP_TIGHT:
        return
    yield _Finding(
        verdict="short" if share > _DROP_SHORT else "tight",
        words="{drop} of the mains are lost in its cords: thicker or shorter ones.",
        need="at most 3 % lost",
        there="{drop} lost",
    )


def _outlet(tree: Tree, node: Node, item: Outlet) -> Margin:
    circuit = tree.circuit_of(node.id)
    assert circuit is not None
    rules, hung = find(rule_sets(), circuit.rule_set_id, "rule set"), tree.under(node.id)
    loads = [h.load for h in hung]
    rated = _rated_a(item, circuit)
    # A better outlet than is usual carries more for hours in proportion.
    lasting_a = rules.outlet_continuous_a * rated / min(rules.outlet_a, circuit.breaker_a)
    limit, full = lasting_a * circuit.mains_v, rated * circuit.mains_v

    def judged(apparent: bool) -> tuple[Verdict, float, float, bool]:
        lasting = float(coinciding_w(loads, for_hours=True, apparent=apparent).max())
        together = float(coinciding_w(loads, apparent=apparent).max())
        peak = together / full > lasting / limit
        there, most = (together, full) if peak else (lasting, limit)
        return judge_most(there, most, tight=_TIGHT), there, most, peak

    known = judged(apparent=False)
    verdict, there, most, peak = judged(apparent=True)
    unit = "power" if known[0] == verdict else "VA"
    if known[0] == verdict:
        _, there, most, peak = known
    amounts = {"there": Amount(value=there, unit=unit), "limit": Amount(value=most, unit=unit)}
    words = {
        "over": "{there} hang on one outlet made for {limit}: use a second one.",
        "tight": "{there} of {limit}: plug nothing more into it.",
        "good": "{there} of {limit}.",
    }
    return Margin(
        id=f"power.socket.{item.id}",
        station="power",
        title=f"Outlet: {item.name}",
        verdict=verdict,
        said="overloaded" if verdict == "over" else "",
        danger=HOT if verdict == "over" else "",
        parts=tuple(h.load.part_id for h in hung),
        mendable=verdict == "over",
        need=sentence("at most {limit} at once" if peak else "at most {limit} for hours", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(f"{words[verdict]} {DEFER}", **amounts),
        working=Working(
            formula="Σ P / power factor ≤ lasting current × volts (3 h or more), ≤ rating × volts (together)",
            steps=(
                Step(symbol="I", meaning="for hours", amount=Amount(value=lasting_a, unit="A")),
                Step(symbol="I max", meaning="rating", amount=Amount(value=rated, unit="A")),
                *(Step(symbol="P", meaning=f"{h.where}: {h.load.name}", amount=_watts(h.load.power_w)) for h in hung),
            ),
            source=f"{cite(rules.cited)}. {rules.outlet_note}".strip(),
            certainty=DEFER,
        ),
    )


def _surge(tree: Tree, node: Node, circuit: Circuit) -> Iterator[Margin]:
    """All that comes back at once after a power cut, against the breaker's instantaneous trip."""
    drawing = [h for h in tree.under(node.id) if h.load.hours_per_day > 0]
    if not drawing:
        return
    pulse = 0.0
    for hung in drawing:
        load, kind = hung.load, hung.load.kind
        running = load.va / circuit.mains_v * _CREST
        allowed = _AT_ONCE * circuit.breaker_a * _CREST * max(1.0, sqrt(_HALF_WAVE_MS / kind.inrush_ms))
        pulse += running * kind.inrush_times / allowed
    verdict: Verdict = "good" if pulse <= _TIGHT else "tight" if pulse <= 1.0 else "over"
    amounts = {"share": Amount(value=100 * pulse, unit="%", decimals=0)}
    words = {
        "over": "After a power cut everything comes back at once: {share} of what makes its breaker trip. "
        "Timers that start one after the other, or a plug that waits, spread it.",
        "tight": "After a power cut everything comes back at once: {share} of what makes its breaker trip.",
        "good": "Everything may come back at once after a power cut: {share} of what makes its breaker trip.",
    }
    yield Margin(
        id=f"power.surge.{circuit.id}",
        station="power",
        title=f"Switching on, {circuit.name}",
        # A breaker that trips harms nobody: it is a nuisance, not a danger.
        verdict="tight" if verdict == "over" else verdict,
        need=sentence("under 100 % of what trips it"),
        there=sentence("{share}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="Σ inrush / (3 × breaker × √2 × √(10 ms / length of the pulse))",
            steps=tuple(
                Step(
                    symbol="î",
                    meaning=f"{h.load.name}: {h.load.kind.inrush_times:g} times for {h.load.kind.inrush_ms:g} ms",
                    amount=Amount(value=h.load.va / circuit.mains_v * _CREST * h.load.kind.inrush_times, unit="A"),
                )
                for h in drawing
            ),
            source="Breaker of type B (IEC 60898-1); inrush typical of each kind",
            certainty="Rough, a factor of two: a driver's sheet states its own inrush.",
        ),
    )


def _is_wet(space: Space) -> bool:
    wet = any(device.spec.kind in ("humidifier", "dehumidifier", "pump", "cooler") for device in space.devices)
    return wet or space.feed.way == "solution" or bool(space.wet)


def unprotected(space: Space, tree: Tree) -> list[Outlet]:
    """Give the outlets of a space before which nobody said that a residual-current device stands.

    Parameters
    ----------
    tree : of the household

    Returns
    -------
    list of Outlet : without those in which everything hangs on an adapter with such a device
    """
    found = []
    for node in tree.touching(space.id):
        if not isinstance(node.item, Outlet) or node.item.rcd:
            continue
        below = [tree.nodes[key].item for key in node.children]
        guarded = not node.own and all(isinstance(item, Carrier) and item.kind == "rcd-adapter" for item in below)
        if not (guarded and below):
            found.append(node.item)
    return found


def _water(space: Space, tree: Tree) -> Iterator[Margin]:
    """Residual-current protection and the height of sockets where there is water."""
    outlets = [node.item for node in tree.touching(space.id) if isinstance(node.item, Outlet)]
    if not _is_wet(space) or not outlets:
        return
    open_to_it = unprotected(space, tree)
    without = [item for item in open_to_it if item.rcd is False]
    unsaid = [item for item in open_to_it if item.rcd is None]
    lowest = min((item.height_m for item in outlets if item.height_m is not None), default=None)
    amounts = {"low": Amount(value=lowest or 0.0, unit="length"), "high": Amount(value=_LOW_M, unit="length")}
    verdict: Verdict = "good"
    words = "Every outlet here has residual-current protection before it."
    if lowest is not None and lowest < _LOW_M:
        verdict, words = (
            "tight",
            "An outlet is {low} above the floor where water runs first: raise strips to {high} or more.",
        )
    if unsaid:
        verdict = "unknown"
        words = f"Press the test button before {unsaid[0].name}: does it go dead? Then it is protected; type it."
    if without or (lowest is not None and lowest < _VERY_LOW_M):
        verdict = "short"
        words = (
            f"{without[0].name} has no residual-current protection, and there is water: an adapter with RCD or GFCI "
            "between outlet and strip is the least."
            if without
            else "A socket lies on the floor where there is water: raise it."
        )
    yield Margin(
        id="power.water",
        station="power",
        title="Water and mains",
        verdict=verdict,
        danger=WATER if verdict == "short" else "",
        mendable=bool(without),
        parts=(),
        need=sentence("protected, {high} up or more", **amounts),
        there=sentence("not protected" if without else "not known" if unsaid else "protected", **amounts),
        why=sentence(f"{words} {DEFER}", **amounts),
        working=Working(
            formula="RCD or GFCI before every outlet where water stands; sockets above what may run out",
            steps=(),
            source="IEC 60364-7-701 and NEC 210.8 ask for it in wet places; drip loops and height are practice",
            certainty=DEFER,
        ),
    )


def _loops(space: Space, tree: Tree) -> Iterator[Margin]:
    """Whether water that runs down a cord drips off before it reaches the outlet."""
    outlets = [node.item for node in tree.touching(space.id) if isinstance(node.item, Outlet)]
    if not _is_wet(space) or not outlets:
        return
    none = [item for item in outlets if item.drip_loops is False]
    unsaid = [item for item in outlets if item.drip_loops is None]
    verdict: Verdict = "tight" if none else "unknown" if unsaid else "good"
    words = {
        "tight": "Let each cord hang a hand's breadth below {name} before it rises to it: water drips off there.",
        "unknown": "Do cords hang below {name} before they rise to it, so that water drips off? Type it under Plugs.",
        "good": "Cords hang below their outlets first.",
    }
    text = words[verdict].replace("{name}", (none or unsaid or outlets)[0].name)
    yield Margin(
        id="power.loops",
        station="power",
        title="Drip loops",
        verdict=verdict,
        mendable=verdict == "tight",
        parts=(),
        need=sentence("cords loop below every outlet"),
        there=sentence("not all do" if none else "not known" if unsaid else "they do"),
        why=sentence(f"{text} {DEFER}"),
        working=Working(
            formula="the lowest point of a cord lies below its outlet",
            steps=(),
            source="Practice of electricians and aquarists",
            certainty=DEFER,
        ),
    )
