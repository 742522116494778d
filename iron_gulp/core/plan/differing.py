"""What is another in one option than in another: the choices a specialist would name, in the order of the path."""

from ..model import Option, Part, PumpGroup

SUCTION = "suction"


def choices_of(option: Option) -> dict[str, str]:
    """The choices of an option in words, by what they are."""
    found = {"pumps": " + ".join(_pumps(group) for group in option.pumps)}
    suction = option.suction
    if suction.place == "external":
        parts = [one.part.name for one in (suction.line, suction.filter) if one is not None]
        found[SUCTION] = ", ".join(("outside", *parts))
    if option.lift is not None:
        found["lift"] = f"{option.lift.count} × {option.lift.part.name}, {option.lift.surge_l:g} L surge tank"
    if option.filter is not None:
        found["filter"] = option.filter.part.name
    found["feed"] = option.feed.part.name
    if option.injectors is not None:
        found["injectors"] = option.injectors.part.name
        if option.injectors.second is not None:
            found["second set"] = option.injectors.second.part.name
    if option.high_side is not None:
        found["high-pressure pumps"] = " + ".join(one.part.name for one in option.high_side.pumps)
        found["direct injectors"] = option.high_side.injectors.part.name
    if option.carburettor is not None:
        found["carburettor"] = option.carburettor.name
    found["base pressure"] = f"{option.regulator.base_kpa:g} kPa, {option.regulator.reference}"
    found["regulator"] = f"{option.regulator.part.name}, {option.regulator.arrangement}"
    if not option.regulator.arrangement.startswith("returnless"):
        found["return"] = option.return_line.part.name
    return found


def choices_text(option: Option) -> str:
    """The choices of an option, a line each, to be held against what they are later."""
    return "\n".join(f"{what}: {words}" for what, words in choices_of(option).items())


def moved_since(text: str, option: Option) -> list[tuple[str, str, str]]:
    """(what, before, after) of each choice that is another than when the text was written; "" where there is none."""
    was = dict(line.split(": ", 1) for line in text.splitlines() if ": " in line)
    now = choices_of(option)
    if SUCTION not in was:
        now.pop(SUCTION, None)  # earlier texts never told it
    return [(what, was.get(what, ""), now.get(what, "")) for what in {**now, **was} if was.get(what) != now.get(what)]


def _pumps(group: PumpGroup) -> str:
    staged = f" from {group.on_above_kpa:g} kPa of boost" if group.on_above_kpa is not None else ""
    boosted = "" if group.booster_v is None else f", boosted to {group.booster_v:g} V"
    helps = " in line, helping" if group.place != "in parallel" else ""
    return f"{group.count} × {group.part.name}{helps}{staged}{boosted}"


def differences(before: Option, after: Option) -> list[tuple[str, str, str]]:
    """(what, before, after) of each choice that is another; "" where there is none.

    Parts of one name whose data differ are two: one of them was typed over.
    """
    one, other = choices_of(before), choices_of(after)
    names = [*other, *(name for name in one if name not in other)]
    found = [(name, one.get(name, ""), other.get(name, "")) for name in names if one.get(name, "") != other.get(name, "")]
    named, had, has = {name for name, _, _ in found}, _parts_of(before), _parts_of(after)
    for name, was in one.items():
        if name not in named and name in has and not _alike(had.get(name, ()), has[name]):
            found.append((name, f"{was}, as entered", other[name]))
    return found


def _parts_of(option: Option) -> dict[str, tuple[Part, ...]]:
    """The parts that choices are made of."""
    found: dict[str, tuple[Part, ...]] = {
        "pumps": tuple(group.part for group in option.pumps),
        "feed": (option.feed.part,),
    }
    if option.lift is not None:
        found["lift"] = (option.lift.part,)
    if option.filter is not None:
        found["filter"] = (option.filter.part,)
    if option.injectors is not None:
        found["injectors"] = (option.injectors.part,)
        if option.injectors.second is not None:
            found["second set"] = (option.injectors.second.part,)
    if option.high_side is not None:
        found["high-pressure pumps"] = tuple(one.part for one in option.high_side.pumps)
        found["direct injectors"] = (option.high_side.injectors.part,)
    return found | {"regulator": (option.regulator.part,), "return": (option.return_line.part,)}


def _alike(some: tuple[Part, ...], others: tuple[Part, ...]) -> bool:
    """Whether parts are the same in all that the model knows of them, whatever they are called and cost."""
    return some == others or [_data(one) for one in some] == [_data(one) for one in others]


def _data(part: Part) -> tuple[object, ...]:
    said = Part.model_fields.keys() - {"alcohol_ok"}
    return tuple(getattr(part, name) for name in type(part).model_fields if name not in said)


def thrown_away(before: Option, after: Option) -> list[str]:
    """Parts of one option that another has no use for."""
    return [was for name, was, now in differences(before, after) if was and name not in ("base pressure",) and was != now]
