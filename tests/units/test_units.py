"""Bench units: showing, typing, and never changing what is stored."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from iron_gulp.units import (
    CHOICES,
    DEFAULT_UNITS,
    PRESETS,
    BenchUnits,
    Unreadable,
    as_input,
    quantity_of,
    read_number,
    read_quantity,
    show,
    show_text,
)

METRIC, US = BenchUnits(), BenchUnits(PRESETS["US"])
NAMES = {
    "pressure": "base_kpa",
    "flow": "capacity_l_h",
    "injector flow": "rated_flow_cc_min",
    "fuel mass": "fuel_kg_h",
    "consumption": "bsfc_kg_kwh",
    "power": "power_kw",
    "temperature": "fuel_temp_c",
    "length": "length_m",
    "bore": "bore_mm",
    "volume": "volume_l",
    "displacement": "displacement_l",
    "mixture": "idle_lambda",
    "wire": "area_mm2",
    "air flow": "compressor_kg_s",
}


def test_every_dimension_has_a_name_here():
    assert set(NAMES) == set(CHOICES)


@pytest.mark.parametrize(
    ("typed", "name", "kept"),
    [
        ("58 psi", "base_kpa", 399.896),
        ("4bar", "base_kpa", 400.0),
        ("1,5 bar", "boost_kpa", 150.0),
        ("3 kgf/cm2", "base_kpa", 294.1995),
        ("480 hp", "power_kw", 357.936),
        ("400 metric hp", "power_kw", 294.1995),
        ("95.2397 lb/h", "rated_flow_cc_min", 1000.0),
        ("90.4777 lb/h n-heptane", "rated_flow_cc_min", 1000.0),
        ("15 psig", "boost_kpa", 103.4214),
        ("18 inHg", "idle_manifold_kpa", -60.955),
        ("-18 inHg", "idle_manifold_kpa", -60.955),
        ("E85", "ethanol_pct", 85.0),
        ("e 10", "ethanol_pct", 10.0),
        ("11.5 AFR", "lambda", 0.782313),
        ("122 ci", "displacement_l", 1.99922),
        ("350 CID", "displacement_l", 5.73547),
        ("14 AWG", "area_mm2", 2.0809),
        ("0 awg", "area_mm2", 53.475),
        ("1/2 in", "bore_mm", 12.7),
        ("1 1/2 in", "bore_mm", 38.1),
        ('3/8"', "bore_mm", 9.525),
        ("dash 8", "bore_mm", 12.7),
        ("8 AN", "bore_mm", 12.7),
        ("-8 AN", "bore_mm", 12.7),
        ("70 F", "fuel_temp_c", 21.1111),
        ("300 K", "fuel_temp_c", 26.85),
        ("-8 dash", "bore_mm", 12.7),
        ("0.58 lb/hp/h", "bsfc_kg_kwh", 0.352800),
        ("10 ft", "length_m", 3.048),
        ("137.4 gal/h", "capacity_l_h", 520.116),
        ("85 %", "duty_limit_pct", 85.0),
        ("−62", "idle_manifold_kpa", -62.0),
        ("2.5 mm2", "area_mm2", 2.5),
        ("2000 m", "barometer_kpa", 79.495),
        ("0 ft", "barometer_kpa", 101.325),
        ("6562 ft", "barometer_kpa", 79.494),
        ("29.92 inHg", "barometer_kpa", 101.32),
    ],
)
def test_typed_with_a_unit(typed, name, kept):
    assert read_quantity(typed, name, METRIC) == pytest.approx(kept, rel=1e-5)


@pytest.mark.parametrize(
    ("typed", "name", "words"),
    [
        ("", "base_kpa", "needed"),
        ("abc", "base_kpa", "not a number"),
        ("<b>3</b>", "base_kpa", "not a number"),
        ("1,000", "base_kpa", "write 1000 or 1.000"),
        ("1.000.000", "base_kpa", "thousands"),
        ("3 m", "base_kpa", "measures something else"),
        ("20000 m", "barometer_kpa", "altitude"),
        ("3 blorps", "base_kpa", "not a unit known"),
        ("12 V", "rpm", "this field is in rpm"),
        ("5 (((((", "base_kpa", "not a unit known"),
        ("5 m**99999", "length_m", "not a unit known"),
        ("1e400", "base_kpa", "too large"),
        ("nan", "base_kpa", "not a number"),
        ("inf", "base_kpa", "not a number"),
        ("0x10", "base_kpa", "not a unit known"),
        ("1/0 in", "bore_mm", "not a unit known"),
        ("E85", "base_kpa", "not a number"),
        ("99 AWG", "area_mm2", "gauges"),
        ("14 AWG", "bore_mm", "not a unit known"),
    ],
)
def test_unreadable_says_why(typed, name, words):
    with pytest.raises(Unreadable, match=words):
        read_quantity(typed, name, METRIC)


@pytest.mark.parametrize(
    ("typed", "gauge", "shown"),
    [("12", 12, "12"), ("14 ga", 14, "14"), ("1/0", 0, "1/0"), ("2/0 AWG", -1, "2/0"), ("4/0", -3, "4/0")],
)
def test_wires_by_gauge(typed, gauge, shown):
    kept = read_quantity(typed, "area_mm2", US)
    assert kept == pytest.approx(3.141592653589793 / 4 * (0.127 * 92 ** ((36 - gauge) / 39)) ** 2)
    assert (as_input(kept, "area_mm2", US), show(kept, "area_mm2", US)) == (shown, (shown, "AWG"))


def test_a_metric_wire_by_gauge_lies_between_two():
    assert show(4.0, "area_mm2", US) == ("11.2", "AWG")
    # Wires below 1 mm² are sold by hundredths; thicker ones are not told finer than they are.
    sold = [show(area, "area_mm2", BenchUnits())[0] for area in (0.35, 0.5, 0.75, 1.5, 2.5, 25.0)]
    assert sold == ["0.35", "0.5", "0.75", "1.5", "2.5", "25"]
    assert read_quantity("4 mm2", "area_mm2", US) == 4.0
    with pytest.raises(Unreadable, match="gauges"):
        read_quantity("55", "area_mm2", US)


def test_plain_number():
    assert read_number(" 3.5 ") == 3.5
    with pytest.raises(Unreadable, match="not part of a number"):
        read_number("3.5 kPa")


@given(
    st.sampled_from(sorted(NAMES)),
    st.data(),
    st.decimals(min_value="0.001", max_value="9999", places=3),
)
def test_what_is_typed_reads_back_exactly(dimension, data, number):
    unit = data.draw(st.sampled_from(sorted(CHOICES[dimension])))
    assume(unit != "AWG" or number <= 40)
    units = BenchUnits({dimension: unit})
    typed = f"{number.normalize():f}"
    kept = read_quantity(typed, NAMES[dimension], units)
    assert float(as_input(kept, NAMES[dimension], units)) == float(typed)
    # Switching the bench unit there and back changes nothing either.
    as_input(kept, NAMES[dimension], METRIC)
    assert float(as_input(kept, NAMES[dimension], units)) == float(typed)


def test_figures_for_reading():
    assert show(1234.56, "flow_l_h", METRIC) == ("1\u202f230", "L/h")
    assert show(-62.0, "manifold_kpa", METRIC) == ("−62", "kPa")
    assert show(300.0, "base_kpa", US) == ("43.5", "psi")
    assert show(float("inf"), "load_pct", METRIC)[0] == "∞"
    assert show(None, "base_kpa", METRIC)[0] == "–"
    assert show(0.0004, "idle_air_g_s", METRIC)[0] == "0.0004"
    assert show(13.9, "injector_open_g_s", METRIC) == ("50.0", "kg/h")
    assert show(13.9, "injector_open_g_s", US) == ("110", "lb/h")
    assert show(-0.0, "flow_l_h", METRIC)[0] == "0"


def test_text_with_values_in_bench_units():
    text = show_text("{a_kpa} at {rpm} for {who}", {"a_kpa": 300.0, "rpm": 6800.0, "who": "Curlew"}, US)
    assert text == "43.5\u00a0psi at 6\u202f800\u00a0rpm for Curlew"


def test_unknown_choice_falls_back():
    assert BenchUnits({"pressure": "feet of beer"}).chosen == DEFAULT_UNITS


@pytest.mark.parametrize(
    ("name", "unit"),
    [
        ("vapour_kpa_abs", "kPa"),
        ("stoich_afr", ""),
        ("dead_time_ms_per_100_kpa", "ms/100 kPa"),
        ("lambda_factor", "×"),
        ("lambda_", "λ"),
        ("cylinders", ""),
        ("capacity_drop_kpa", "kPa"),
        ("loop_m", "m"),
    ],
)
def test_names_end_in_their_unit(name, unit):
    assert quantity_of(name).symbol == unit


@pytest.mark.parametrize(
    ("value", "name", "shown"),
    [
        (835.94, "bypass_l_h", "836"),
        (1278.7, "bypass_l_h", "1\u202f280"),
        (99.96, "load_pct", "100"),
        (84.23, "load_pct", "84.2"),
        (0.412, "drop_kpa", "0.4"),
        (0.0371, "drop_kpa", "0.04"),
        (12.94, "pump_v", "12.9"),
        (19.66, "current_a", "19.7"),
        (6843.0, "rpm", "6\u202f843"),
        (1095.4, "rated_flow_cc_min", "1\u202f095"),
        (556.6, "rail_kpa", "557"),
        (0.6226, "pulse_ms", "0.62"),
    ],
)
def test_estimates_have_three_digits_and_none_a_bench_instrument_lacks(value, name, shown):
    assert show(value, name, METRIC)[0] == shown


def test_an_opened_figure_shows_a_digit_more():
    assert show(556.64, "rail_kpa", METRIC, 1)[0] == "556.6"
    assert show(1278.74, "bypass_l_h", METRIC, 1)[0] == "1\u202f279"


@given(st.floats(1e-4, 1e6), st.sampled_from(sorted(NAMES)), st.sampled_from(sorted(PRESETS)))
def test_no_figure_is_off_by_more_than_its_last_digit(value, dimension, preset):
    units = BenchUnits(PRESETS[preset])
    quantity = quantity_of(NAMES[dimension])
    meant = units.shown(value, quantity)
    shown = float(show(value, NAMES[dimension], units)[0].replace("\u202f", "").replace("−", "-"))
    assert abs(shown - meant) <= max(0.0051 * abs(meant), 0.51 * 10 ** -units.unit(quantity).decimals)


def test_a_controller_s_gain_is_no_pressure():
    assert show(0.5, "gain_pct_per_kpa", US) == ("0.500", "%/kPa")
    assert read_quantity("0.5", "gain_pct_per_kpa", US) == 0.5


def test_an_opening_is_told_in_square_millimetres_and_a_wire_by_its_gauge():
    us = BenchUnits(PRESETS["US"])
    assert show(4.0, "inlet_area_mm2", us)[1] == "mm²"
    assert show(4.0, "area_mm2", us)[1] == "AWG"
    with pytest.raises(Unreadable):
        read_quantity("14 AWG", "inlet_area_mm2", us)


WRITINGS = [
    *((text, "bore_mm", 12.7) for text in ("AN8", "AN-8", "-8 AN", "-8AN", "#8", "-8", "−8", "dash 8", "8 AN")),
    ("3/8", "bore_mm", 9.525),
    ("1 1/4", "bore_mm", 31.75),
    ("#10", "area_mm2", 5.2612),
    *((text, "lambda_", 0.78) for text in ("lambda 0.78", "0.78 lambda", "λ 0,78", "l 0.78", "0.78 λ")),
    ("11.5:1", "lambda_", 11.5 / 14.7),
    *(
        (text, "power_kw", 300 * 0.74569987)
        for text in ("300 rwhp", "300 wheel hp", "300 whp", "300 bhp", "300 crank hp")
    ),
    ("2.0T", "displacement_l", 2.0),
    ("V8", "cylinders", 8.0),
    ("flat 6", "cylinders", 6.0),
    ("7k", "rpm", 7000.0),
    ("7,2k", "rpm", 7200.0),
    ("0,365", "bsfc_kg_kwh", 0.365),
]


@pytest.mark.parametrize(("text", "name", "kept"), WRITINGS)
def test_what_the_trade_writes_is_read(text, name, kept):
    assert read_quantity(text, name, BenchUnits()) == pytest.approx(kept, rel=1e-5)


@pytest.mark.parametrize(("text", "name"), [("-8", "base_kpa"), ("-8", "fuel_temp_c")])
def test_a_minus_is_one_where_no_size_is_asked(text, name):
    assert read_quantity(text, name, BenchUnits()) == -8.0


@pytest.mark.parametrize(
    ("text", "name"),
    [("V8", "rpm"), ("7k", "power_kw"), ("11.5:1", "base_kpa"), ("AN8", "area_mm2"), ("#10", "power_kw")],
)
def test_a_writing_of_another_quantity_is_not_taken_for_this_one(text, name):
    with pytest.raises(Unreadable):
        read_quantity(text, name, BenchUnits())


def test_a_comma_before_three_digits_is_asked_back_and_never_guessed():
    with pytest.raises(Unreadable, match=r"write 12345 or 12\.345"):
        read_quantity("12,345", "power_kw", BenchUnits())
    assert read_quantity("12,34", "power_kw", BenchUnits()) == pytest.approx(12.34)
    assert read_quantity("-0,345", "base_kpa", BenchUnits()) == pytest.approx(-0.345)
