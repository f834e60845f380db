"""Light in lux and foot-candles: through the lamps' colours, with its doubt; targets as people write them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import QuantityError
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.reading import light_figures, light_unit, read_light
from canopy.light.photometry import lux_per_umol
from canopy.light.spectra import lux_factor
from canopy.margin import Amount, sentence
from canopy.plan import Fixture, LightGoal
from canopy.plan.changes import Add
from canopy.plan.edit import apply
from canopy.quantities import LightUnit, Reader
from canopy.quantities.reader import LIGHT_DOUBT, PPF, PPFD

SUN = LightUnit(key="fc", lux_per_umol=54.0, doubt=0.08)


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        # Daylight has 54 lux a µmol/m²/s; one foot-candle is 10.764 lux.
        ("1500 fc", 1500 * 10.764 / 54 * 0.9, 1500 * 10.764 / 54 * 1.1),
        ("1,500 ft-c", 1500 * 10.764 / 54 * 0.9, 1500 * 10.764 / 54 * 1.1),
        ("10-20 klx", 10_000 / 54, 20_000 / 54),
        ("10 000 to 20 000 lux", 10_000 / 54, 20_000 / 54),
        ("1500 lm/ft²", 1500 * 10.764 / 54 * 0.9, 1500 * 10.764 / 54 * 1.1),
        ("16200 lumens per m2", 300 * 0.9, 300 * 1.1),
        ("240–300 µmol/m²/s", 240, 300),
        ("240 to 300 PPFD", 240, 300),
        ("100-200", 100 * 10.764 / 54, 200 * 10.764 / 54),
    ],
)
def test_targets_are_read_in_any_unit(text, low, high):
    window = read_light(text, SUN)
    assert window.low == pytest.approx(low, rel=1e-4)
    assert window.high == pytest.approx(high, rel=1e-4)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is not an amount of light"),
        ("bright", "is not an amount of light"),
        ("300 candles", "“candles” is not a unit of light"),
        ("300-200 fc", "turned round"),
        ("0 fc", "give 1 to 2500"),
        ("900 klx", "give 1 to 2500"),
        ("1-2-3 fc", "is not an amount of light"),
    ],
)
def test_what_is_no_light_is_refused_in_words(text, words):
    with pytest.raises(QuantityError, match=words):
        read_light(text, SUN)


@given(st.floats(2, 2000), st.sampled_from(["lux", "fc"]), st.floats(20, 120))
def test_what_is_written_is_read_back(ppfd, key, factor):
    unit = LightUnit(key=key, lux_per_umol=factor)
    text = unit.text(ppfd).replace("lx", "lux")
    assert light_figures(text, unit)[0] == pytest.approx(ppfd, rel=0.006)


def test_a_reader_of_foot_candles_reads_them_with_their_doubt():
    reader = Reader(system="us", light=SUN)
    said = sentence("{e}{doubt}", e=Amount(value=299, unit=PPFD), doubt=Amount(value=0, unit=LIGHT_DOUBT))
    assert said.say(reader) == "1500\u00a0fc ±\u00a08\u00a0%"
    assert said.say("metric") == "299\u00a0µmol/m²/s"
    assert Amount(value=299, unit=PPFD).worked(reader) == "1500\u00a0fc = 299\u00a0µmol/m²/s"
    assert Amount(value=100, unit=PPF).text(reader) == "5400\u00a0lm"
    assert Amount(value=0.4, unit=PPFD).text(reader) == "under 5\u00a0fc"
    assert Amount(value=0.3, unit="length").text(reader) == "11.8\u00a0in"


def _lamp(key, **spec):
    data = {"name": key, "power_w": 40, "output": {"kind": "ppf", "ppf_umol_s": 80}, "length_m": 0.3, "width_m": 0.2}
    return Fixture.model_validate({"id": key, "spec": {**data, **spec}, "x_m": 0.4, "y_m": 0.3, "z_m": 1.2})


def test_the_factor_is_that_of_what_falls_on_the_plants(small_plan):
    space = small_plan.spaces[0]
    sodium = space.model_copy(update={"fixtures": (_lamp("a", technology="hps", spectrum_id="hps"),)})
    unit = light_unit(sodium, evaluate_space(small_plan, sodium).lighting, "lux")
    assert (round(unit.lux_per_umol, 6), round(unit.doubt, 2)) == (82, 0.08)
    both = sodium.model_copy(
        update={
            "fixtures": (*sodium.fixtures, _lamp("b", spectrum_id="white-led-6500").model_copy(update={"x_m": 0.1}))
        }
    )
    mixed = light_unit(both, evaluate_space(small_plan, both).lighting, "lux")
    assert lux_per_umol("white-led", 6500) < mixed.lux_per_umol < 82
    # Plants under the one lamp get another mixture than those under the other: the doubt says so.
    assert mixed.doubt > 0.08


def test_lumens_turned_into_photons_turn_back_without_doubt():
    spec = _lamp("a", output={"kind": "lumens", "flux_lm": 4000, "source_id": "white-led", "cct_k": 3000}).spec
    factor = lux_factor(spec)
    assert factor.doubt == 0
    assert factor.lux_per_umol == lux_per_umol("white-led", 3000)
    assert lux_factor(_lamp("b", spectrum_id="red-blue").spec).doubt > 0.1
    assert lux_factor(_lamp("c", technology="metal-halide").spec).lux_per_umol == 71


def test_a_target_of_one_s_own_goes_before_the_library_s(small_plan):
    report = evaluate_space(small_plan, small_plan.spaces[0])
    plant = report.here.plants[0]
    goal = LightGoal(id="goal-1", crop_id=plant.crop_id, low_umol_m2_s=50, high_umol_m2_s=60)
    part = {**goal.model_dump(), "stage": ""}
    plan = apply(small_plan, "box", [Add(collection="light_goals", parts=(part,), prefix="goal")])
    after = evaluate_space(plan, plan.spaces[0])
    margin = after.margin(f"light.ppfd.{plant.crop_id}.{plant.stage}")
    assert margin.need.say() == "50–60\u00a0µmol/m²/s"
    assert "own figure" in margin.working.source
    hours = plant.want.photoperiod_h
    want = after.here.plants[0].want
    assert want.dli_mol_m2_d.low == pytest.approx(0.0036 * 50 * hours.low)
    assert want.dli_mol_m2_d.high == pytest.approx(0.0036 * 60 * hours.high)
    assert want.air_day_c == plant.want.air_day_c
    # One for another stage changes nothing; one for this stage goes before one for all.
    other = {**part, "stage": "seedling", "low_umol_m2_s": 10, "high_umol_m2_s": 20}
    mine = {**part, "stage": plant.stage, "low_umol_m2_s": 70, "high_umol_m2_s": 80}
    more = apply(plan, "box", [Add(collection="light_goals", parts=(other, mine), prefix="goal")])
    assert evaluate_space(more, more.spaces[0]).here.plants[0].want.ppfd_umol_m2_s.low == 70
