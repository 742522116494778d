"""What a search found, as plain data."""

from .search import Design, Found, worst_component


def front_told(found: Found) -> dict[str, object]:
    """What a search found, as plain data: the front cheapest first, the nearest where it is empty, and what fell."""

    def told(one: Design) -> dict[str, object]:
        worst = one.first_out
        return {
            "cost": round(one.bill.total, 2),
            "headroom": round(one.headroom, 4),
            "complexity": one.score.complexity,
            "first_out": {"target": worst.target.id, "component": worst_component(one.verdicts)},
            "option": one.option.model_dump(mode="json", by_alias=True, exclude_none=True),
        }

    return {
        "done": found.done,
        "combinations": found.total,
        "designs": [told(one) for one in sorted(found.front, key=lambda one: one.score)],
        "nearest": None if found.front or found.nearest is None else told(found.nearest),
        "fell": dict(found.fell.most_common()),
        "dominated": found.dominated,
    }
