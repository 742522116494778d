"""Answers as trees, by the quick parser: a piece of a page gets the rest of one around it."""

from bs4 import BeautifulSoup


def parsed(text):
    # The quick one ends at a nothing in the text.
    return BeautifulSoup(text, "html.parser" if "\0" in text else "lxml")
