"""A system at what its engine is expected to burn: the sizing figure holds a reserve on that on purpose (physics §2)."""

from collections.abc import Sequence

from ..judge import TargetVerdict, judge_many
from ..model import Build, Option, Target, bsfc_kg_kwh, expected_bsfc_kg_kwh, injects_directly


def burning_as_expected(build: Build, option: Option, target: Target) -> Target:
    """A target sized by what its engine is expected to burn; the same where the air or a log sizes it."""
    expected = expected_bsfc_kg_kwh(target, build.engine, injects_directly(option))
    return target.model_copy(update={"bsfc_kg_kwh": expected})


def at_expected(build: Build, option: Option, targets: Sequence[Target] | None = None) -> list[TargetVerdict]:
    """Targets (all) of a build judged on an option at the expected consumption, without ceilings."""
    asked = [burning_as_expected(build, option, one) for one in (targets or build.targets)]
    return judge_many([(build, option, one) for one in asked], ceilings=False)


def judged_beside(
    build: Build, option: Option, targets: Sequence[Target] | None = None, ceilings: bool = True
) -> tuple[list[TargetVerdict], list[TargetVerdict]]:
    """Targets (all) of a build judged on an option as they are sized, and beside it at the expected consumption.

    Both are solved as one set: the second costs little more than the first alone. Where the air or a log sizes a target
    the two are one and the same.
    """
    sized = list(targets or build.targets)
    moved = [burning_as_expected(build, option, one) if one.school == "consumption" else one for one in sized]
    apart = [(build, option, one) for one, own in zip(moved, sized, strict=True) if one is not own]
    found = judge_many([*((build, option, one) for one in sized), *apart], ceilings)
    verdicts, others = found[: len(sized)], iter(found[len(sized) :])
    return verdicts, [
        verdict if one is own else next(others) for verdict, one, own in zip(verdicts, moved, sized, strict=True)
    ]


def reserve(build: Build, option: Option, target: Target) -> float:
    """What the sizing figure holds over the expected one, a share: below nothing it holds no reserve."""
    direct = injects_directly(option)
    return bsfc_kg_kwh(target, build.engine, direct) / expected_bsfc_kg_kwh(target, build.engine, direct) - 1.0
