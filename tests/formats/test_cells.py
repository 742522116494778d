"""CSV cells that a spreadsheet would run."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.formats.cells import neutral, plain
from iron_gulp.formats.parts_csv import read_parts, write_parts
from tests.systems import injectors


@pytest.mark.parametrize("text", ["=1+1", "+cmd|' /C calc'!A0", "-2+3", "@SUM(A1)", "\t=1", "'=1", "'"])
def test_what_would_run_does_not(text):
    assert neutral(text).startswith("'")
    assert plain(neutral(text)) == text


@pytest.mark.parametrize("text", ["-62.5", "+3", "1e-3", "pump", "", "a=b"])
def test_numbers_and_words_stay(text):
    assert neutral(text) == text


@given(st.text(max_size=30))
def test_every_text_reads_back(text):
    assert plain(neutral(text)) == text


@pytest.mark.parametrize("name", ["=HYPERLINK(1)", "@part", "-8 hose", "'quoted"])
def test_parts_come_back_under_their_names(name):
    text = write_parts("injectors", [injectors(name=name)])
    assert not any(cell.startswith(("=", "@", "+")) for cell in text.replace("\n", ",").split(","))
    assert read_parts("injectors", text.encode())[0].name == name
