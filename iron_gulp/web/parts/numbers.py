"""Numbers that open: the button around a number of a table or a sentence."""

from collections.abc import Callable, Mapping
from typing import Any
from urllib.parse import urlencode

from markupsafe import Markup

Opens = Callable[..., Markup]  # kind and text of a number, and its place by name
NOTHING = "\u2013"
_BUTTON = Markup(
    '<button type="button" class="number" hx-get="{}/number/{}?{}" hx-target="#explain-body" '
    'hx-swap="innerHTML">{}</button>'
)


def opening(build: str, where: Mapping[str, str], kind: str, text: str, place: Mapping[str, Any] | None = None) -> Markup:
    """A number as it reads, opening on what the core's numbers say of it; `place` says which. Nothing stays nothing."""
    if text == NOTHING:
        return Markup(NOTHING)
    asked = {key: str(value).lower() if isinstance(value, bool) else value for key, value in (place or {}).items()}
    return _BUTTON.format(build, kind, urlencode({**where, **asked}), text)


def opener(build: str, where: Mapping[str, str]) -> Opens:
    """Opens the numbers of a piece: called with kind, text and place."""

    def opens(kind: str, text: str, **place: Any) -> Markup:
        return opening(build, where, kind, text, place)

    return opens
