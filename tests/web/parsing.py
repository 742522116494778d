"""Answers as trees: whole pages by the quick parser, pieces by the one that leaves them as they are."""

from bs4 import BeautifulSoup


def parsed(text):
    whole = text.lstrip()[:9].lower() == "<!doctype"
    return BeautifulSoup(text, "lxml" if whole else "html.parser")
