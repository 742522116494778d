"""Rules about what pump circuits share: one output or relay cannot switch groups at two places."""

from collections.abc import Iterator

from ..model import Edit, PumpGroup, Shared, shared_by
from ..study import CONDITIONS
from .base import Context, Finding, Remedy
from .words import groups_listed

SWITCHING = ("output", "relay")


def _switched(group: PumpGroup) -> tuple[object, ...]:
    """When a group runs, for another to be compared with."""
    limits = tuple(getattr(group, name) for name in CONDITIONS)
    several = sum(limit is not None for limit in limits) > 1
    return (*limits, group.when if several else "")


def one_switch(context: Context) -> Iterator[Finding]:
    """Groups on one output or relay that are meant to join at different places."""
    option = context.option
    for one in shared_by(option):
        groups = [option.pumps[at] for at in one.groups]
        if one.field not in SWITCHING or len({_switched(group) for group in groups}) < 2:
            continue
        yield Finding(
            "switch-shared",
            "warn",
            "pump",
            "One switch, two switching points",
            "{groups} hang on {shared} and are meant to join at different places: it switches them all at once.",
            "What one output or relay feeds comes and goes together. The switching points reckoned with here are those "
            "entered for each group.",
            {"groups": groups_listed([at + 1 for at in one.groups]).capitalize(), "shared": one.words},
            (),
            (
                Remedy(f"Give each of them {A[one.field]} of its own", tuple(_parted(context, one))),
                Remedy("Let them all join where {first} does", tuple(_alike(context, groups)), {"first": _first(one)}),
            ),
        )


A = {"output": "an output", "relay": "a relay"}


def _first(one: Shared) -> str:
    return groups_listed([one.groups[0] + 1])


def _parted(context: Context, one: Shared) -> Iterator[Edit]:
    for at in one.groups[1:]:
        group = context.option.pumps[at]
        yield context.path(f"pumps/{group.id}/wiring/{one.field}"), ""
        if one.field == "output" and group.wiring.relay:
            # A relay of its own hangs on the output of its own.
            yield context.path(f"pumps/{group.id}/wiring/relay"), ""


def _alike(context: Context, groups: list[PumpGroup]) -> Iterator[Edit]:
    first = groups[0]
    for group in groups[1:]:
        for name in (*CONDITIONS, "when"):
            if getattr(group, name) != getattr(first, name):
                yield context.path(f"pumps/{group.id}/{name}"), getattr(first, name)


RULES = (one_switch,)
