"""What a car is used for decides: what holds fuel at the pickup, how much is wanted in hand, whether fuel comes back."""

from typing import Any

from iron_gulp.core.model import DRIVEN_HARD, LiftStage, Line, Option, Pickup
from iron_gulp.core.plan import Answers, Reason
from iron_gulp.shelf import Shelf

from .starter import NEW_CIRCUIT

# Headroom wanted by use, per cent: what is long at load gets hotter, and its pumps with it.
HEADROOM_PCT = {"street": 10.0, "drag": 10.0, "rally": 15.0, "hill climb": 15.0, "track": 15.0, "salt flat": 20.0}
METHANOL = (
    "Methanol burns with no flame that can be seen and poisons through the skin: gloves, water at hand, every part fit "
    "for it; flush with gasoline before it stands."
)
STRONG = "Strong ethanol burns with a faint flame and takes up water: every part fit for alcohol, the blend measured."


def in_use(shelf: Shelf, option: Option, answers: Answers, strong: bool, assumed: list[Reason]) -> Option:
    """The option with what its use takes; what was added is told."""
    if answers.fuel == "methanol":
        assumed.append(Reason(METHANOL, caution=True))
    elif strong:
        assumed.append(Reason(STRONG, caution=True))
    if answers.feeding == "carburettor":
        return _covered(option, answers, assumed)
    wanted = answers.surge == "a surge tank" or (answers.surge == "by its use" and answers.use in DRIVEN_HARD)
    if wanted:
        return _with_surge_tank(shelf, option, answers, assumed)
    return _covered(option, answers, assumed)


def _covered(option: Option, answers: Answers, assumed: list[Reason]) -> Option:
    """A pickup that stays covered, where the car is driven so that an open one would not."""
    if answers.pickup != "by its use" or answers.use not in (*DRIVEN_HARD, "drag"):
        return option
    use: dict[str, float | str] = {"use": answers.use}
    assumed.append(
        Reason(
            "For {use} use the pickup sits in a baffled sump: enter what there is.", use, path="options/o1/pickup/kind"
        )
    )
    return option.model_copy(update={"pickup": Pickup(kind="baffled sump")})


def _with_surge_tank(shelf: Shelf, option: Option, answers: Answers, assumed: list[Reason]) -> Option:
    lift = LiftStage(
        part=shelf.part("pumps", "pump-lift-200"),
        wiring=NEW_CIRCUIT,
        line=Line(part=shelf.part("lines", "rubber-8"), length_m=1.5, k_sum=3.0),
        surge_l=1.6,
    )
    told: dict[str, float | str] = {"use": answers.use, "dry_s": lift.uncovered_s}
    assumed.append(
        Reason(
            "For {use} use a surge tank carries the main pumps while the tank's pickup is dry, {dry_s} at a time.",
            told,
            path="options/o1/lift/uncovered_s",
        )
    )
    if answers.pumps_sit == "outside":
        assumed.append(Reason("The main pumps sit in the surge tank, not outside.", path="options/o1/suction/place"))
    place: dict[str, Any] = {"suction": option.suction.model_copy(update={"place": "in a surge tank"})}
    return option.model_copy(update={"lift": lift, **place})
