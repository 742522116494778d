"""Rules about what a regulator is told by: fixed pressures on boosted engines, and regulators that have no port."""

from collections.abc import Iterator
from functools import partial

import numpy as np

from ..model import WITH_FILTER, Edit
from .base import Context, Finding, Remedy, highest, names
from .regulator import port_side_on_it
from .suction import filter_edit, filter_wanted
from .words import leaner


def fixed_reference(context: Context) -> Iterator[Finding]:
    """An atmospheric reference on a boosted engine: injector flow falls as boost rises."""
    boosted = [verdict for verdict in context.verdicts if verdict.target.boost_kpa > 10]
    regulator = context.option.regulator
    if regulator.reference != "atmosphere" or not boosted or not port_side_on_it(context):
        return
    if context.option.injectors is not None and context.option.injectors.sprays == "above the throttle":
        return  # boost never reaches these
    worst = max(boosted, key=lambda verdict: verdict.target.boost_kpa)
    left = regulator.base_kpa - worst.target.boost_kpa
    # Built for it and sized for it (returnless, above the throttle): nothing to object to while the injectors suffice.
    if left > 0 and not any(verdict.load("injectors").load > 1 for verdict in boosted):
        return
    vacuum = context.build.engine.idle_manifold_kpa
    yield Finding(
        "fixed-reference",
        "stop" if left <= 0 else "warn",
        "regulator",
        "Fixed pressure on a boosted engine",
        "At {boost_kpa} the injectors see {left_kpa} instead of {base_kpa}: their flow is × {factor}, {lean} where the "
        "controller does not know it. At idle it rises, × {idle_factor}, where it is not wanted.",
        "Flow follows the square root of the differential pressure. A boosted engine wants the regulator referenced "
        "to the manifold, one to one, by a line of its own.",
        {
            "boost_kpa": worst.target.boost_kpa,
            "left_kpa": left,
            "base_kpa": regulator.base_kpa,
            "factor": f"{np.sqrt(max(left, 0.0) / regulator.base_kpa):.3f}",
            "lean": leaner(float(np.sqrt(regulator.base_kpa / left)) if left > 0 else float("inf")),
            "idle_factor": f"{np.sqrt(max(regulator.base_kpa - vacuum, 0.0) / regulator.base_kpa):.3f}",
        },
        names(boosted),
        partial(referenced, context)
        if regulator.part.works == WITH_FILTER
        else (Remedy("Reference it to the manifold", ((context.path("regulator/reference"), "manifold"),)),),
    )


def referenced(context: Context) -> Iterator[Remedy]:
    """A combined filter and regulator has no port for a reference: one that has, after the rail, in its place."""
    path, now = context.path("regulator"), context.option.regulator
    fit = [
        one
        for one in context.catalogue.regulators
        if one.works == "by bypass" and one.min_base_kpa <= now.base_kpa <= one.max_base_kpa
    ]
    beside = filter_wanted(context) if context.option.filter is None else None  # the one in the unit goes with it
    filters = () if beside is None else (filter_edit(context, beside),)
    and_filter = "" if beside is None else ", {filter} before it"
    tried: list[tuple[Edit, ...]] = [
        (
            *filters,
            (f"{path}/part", one.model_dump(mode="json")),
            (f"{path}/arrangement", "bypass after the rail"),
            (f"{path}/reference", "manifold"),
        )
        for one in sorted(fit, key=lambda one: one.capacity_l_h)
    ]
    for edits, judged in zip(tried, context.trials(tried), strict=True):
        if judged and highest(judged, "regulator") <= 1:
            name = str(dict(edits)[f"{path}/part"]["name"])
            yield Remedy(
                "Fit {part} after the rail, referenced to the manifold, and a return from there" + and_filter,
                edits,
                {"part": name} | ({} if beside is None else {"filter": beside.name}),
            )
            return
    yield Remedy("Fit a regulator with a reference port after the rail, and a return from there")


def no_port(context: Context) -> Iterator[Finding]:
    """A combined filter and regulator that is told to follow the manifold: it has no port for it."""
    regulator = context.option.regulator
    if regulator.part.works != WITH_FILTER or regulator.reference == "atmosphere":
        return
    yield Finding(
        "no-reference-port",
        "stop",
        "regulator",
        "A regulator without a reference port",
        "{part} is a filter and a fixed regulator in one: it follows {reference} here, and has no port to be told by.",
        "It holds its pressure against the air. What is worked out with a reference is not the system fitted.",
        {"part": regulator.part.name, "reference": f"the {regulator.reference}"},
        (),
        lambda: (
            Remedy("Say what it does: a fixed pressure", ((context.path("regulator/reference"), "atmosphere"),)),
            *referenced(context),
        ),
    )


RULES = (fixed_reference, no_port)
