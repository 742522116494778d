"""Find and the glossary: everything is found by its words, and nothing found is said."""

import pytest

from iron_gulp.web.benches.searching import of_build
from iron_gulp.web.parts.glossary import GLOSSARY
from tests.web.parsing import parsed


def found(client, q, build=3):
    answer = client.get("/find", params={"q": q, "build": build, "option": "as-built", "target": "hill"})
    assert answer.status_code == 200
    page = parsed(answer.text)
    return {a.contents[0].strip(): (a.span.text, a["href"]) for a in page.select("a")}, page.text


@pytest.mark.parametrize(
    ("words", "kind", "ends"),
    [
        ("check valve pumps g2", "field", "#f-options-as-built-pumps-g2-check_valve_kpa"),
        ("boost targets later", "field", "#f-targets-later-boost_kpa"),
        ("barometer", "field", "#f-car-barometer_kpa"),
        ("injector duty", "figure", "#fig-injector-duty_pct"),
        ("wire burns before", "finding", "#findings"),
        ("turbine 315", "part", "#part-pump-315"),
        ("saltern", "build", "/ask"),
        ("surge tank small full", "word", "glossary"),
    ],
)
def test_it_is_found_and_where_it_leads_it_stands(client, words, kind, ends):
    hits, _ = found(client, words)
    urls = [url for one, url in hits.values() if one == kind and (url.endswith(ends) or ends in url)]
    assert urls, hits
    page, _, anchor = urls[0].partition("#")
    shown = client.get(page)
    assert shown.status_code == 200
    assert not anchor or f'id="{anchor}"' in shown.text


def test_nothing_found_is_said_and_nothing_asked_is_not(client):
    assert "Nothing here is called anything like “zzz <b>”" in found(client, "zzz <b>")[1]
    assert found(client, "   ")[0] == {}
    assert "Nothing" not in found(client, "")[1]
    assert found(client, "saltern", build=999)[0]


@pytest.mark.parametrize(("build", "option"), [(3, "as-built"), (1, "two-rails"), (2, "bypass")])
def test_everything_found_of_a_build_stands_where_it_leads(client, workshop, build, option):
    pages, lost, kinds = {}, [], set()
    for hit in of_build(workshop.judging.bench(build, option), workshop.shelf):
        url, _, anchor = hit.url.partition("#")
        pages[url] = pages.get(url) or client.get(url).text
        kinds.add(hit.kind)
        if f'id="{anchor}"' not in pages[url]:
            lost.append(hit)
    assert lost == []
    assert kinds == {"field", "figure", "finding"}


def test_the_glossary_holds_every_word_once(client):
    page = parsed(client.get("/glossary").text)
    terms = [one.text for one in page.select("dt") if one.find_parent("dl").find_parent(class_="glossary")]
    assert terms == [term for term, _ in GLOSSARY]
    assert len(set(terms)) == len(terms)
