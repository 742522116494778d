"""Whatever is pressed and typed, in whatever order: every page still answers, and a refusal says why."""

import random
import re

import pytest

from iron_gulp.core.model import dump
from iron_gulp.services.fields import BadValue, field_at
from iron_gulp.web.parts.stations import PAGES
from tests.draws import LONG
from tests.web.parsing import parsed

TEXTS = ["", "abc", "0", "-5", "1e9", "1e-9", "58 psi", "½", "0.5", "3", "12", "100", "500"]
ADDED = [
    *("pumps", "filter", "suction/line", "suction/filter", "lift", "pickup", "split", "split/branches", "fuels"),
    *("feed_passages", "return_passages", "feed/fittings", "return_line/fittings", "lift/line/fittings", "measured"),
    *("carburettor", "injectors", "targets", "options", "pumps/g1/part/curves"),
    *("high_side", "delivery", "auxiliary", "sensors", "ethanol_sensor", "high_side/pumps"),
]
TAKEN = ["filter", "lift", "suction/line", "suction/filter", "pickup", "split", "high_side", "delivery", "auxiliary"]
UNSAID = {"nan", "None", "inf", "-inf"}
STEPS = 60 if LONG else 14
TAG = re.compile(r"<(script|style)\b.*?</\1>|<[^>]*>", re.DOTALL)


def leaves(data, path=""):
    """Edit paths of every single value of a build."""
    if isinstance(data, dict):
        for key, value in data.items():
            yield from leaves(value, f"{path}/{key}" if path else key)
    elif isinstance(data, list):
        for index, value in enumerate(data):
            step = value["id"] if isinstance(value, dict) and "id" in value else index
            yield from leaves(value, f"{path}/{step}")
    elif not path.endswith("/id"):
        yield path


def typed(pick, build):
    """A field and something to type into it: nonsense, a bound, or a choice."""
    while True:
        path = pick.choice(list(leaves(dump(build))))
        try:
            spec = field_at(path)
        except BadValue:
            continue
        bounds = [str(bound) for bound in (spec.low, spec.high) if bound is not None] * 3
        return path, pick.choice(list(spec.choices) or TEXTS + bounds)


@pytest.mark.parametrize("seed", range(20 if LONG else 1))
def test_nothing_pressed_or_typed_breaks_a_page(client, workshop, seed):
    pick = random.Random(seed)
    ids = [row.id for row in workshop.garage.page().rows]
    refused = saved = 0
    for _ in range(STEPS):
        number = pick.choice(ids)
        bench = workshop.judging.bench(number)
        option, target = pick.choice(bench.build.options).id, pick.choice(bench.build.targets).id
        page = pick.choice(sorted(PAGES))
        where = {"base": bench.stored.number, "page": page, "option": option, "target": target}
        kind = pick.random()
        if kind < 0.7:
            path, text = typed(pick, bench.build)
            answer = client.post(f"/builds/{number}/edit", data={**where, "path": path, "value": text})
        elif kind < 0.9:
            answer = client.post(f"/builds/{number}/add", data={**where, "what": pick.choice(ADDED)})
        else:
            path = f"options/{option}/{pick.choice(TAKEN)}"
            answer = client.post(f"/builds/{number}/remove", data={**where, "path": path})
        assert answer.status_code in (200, 422)
        refused, saved = refused + (answer.status_code == 422), saved + (answer.status_code == 200)
        if answer.status_code == 422:
            messages = parsed(answer.text).select("[role=alert]")
            assert any(message.text.strip() for message in messages)
        shown = client.get(f"/builds/{number}/{page}?option={option}&target={target}")
        assert shown.status_code == 200
        words = set(TAG.sub(" ", shown.text).split())
        assert not UNSAID & words, (number, page)
        point = {"option": option, "target": target, "rpm": pick.randint(0, 9000), "manifold_kpa": pick.randint(-90, 400)}
        drawn = client.get(f"/builds/{number}/diagram", params=point)
        assert drawn.status_code == 200
        assert not UNSAID & set(TAG.sub(" ", drawn.text).split()), (number, point)
    assert refused > 2
    assert saved > STEPS // 3
