"""Symbols of the plumbing diagram, ISO 1219-style: what they look like, their words, and that they can be hovered and
focused. Black line work with words, so that it prints and exports as it is.
"""

from dataclasses import dataclass, field

from markupsafe import escape

from iron_gulp.core.model import Component

STYLE = (
    ".d{font:500 13px Barlow,'DejaVu Sans',sans-serif;fill:none;stroke:#182126;stroke-width:2}"
    ".d text{fill:#182126;stroke:none;text-anchor:middle}.d .q{font-size:12px;fill:#4c5a61}"
    ".d .fill{fill:#182126;stroke:none}.d .paper{fill:#fff}.d .thin{stroke-width:1.2}"
    ".d .pilot{stroke-dasharray:5 4;stroke-width:1.4}"
    ".d .idle{opacity:.38}.d .worst{stroke-width:4}.d .flag{fill:#182126;stroke:none}"
    ".d .flag-text{fill:#fff;font-weight:600;font-size:11px}"
)


@dataclass(frozen=True)
class Mark:
    """The component to be marked in the diagram, and what it is called there."""

    component: Component
    word: str


@dataclass(frozen=True)
class Element:
    """A symbol in a column: name above, words below, figures for hover and focus."""

    kind: str
    name: str
    words: tuple[str, ...]
    figures: tuple[tuple[str, str], ...]
    component: Component | None = None
    running: bool = True


@dataclass
class Drawing:
    """The diagram under construction: heights of the main line and of the return, and the SVG parts."""

    mid: float
    low: float
    parts: list[str] = field(default_factory=list)

    def add(self, *parts: str) -> None:
        self.parts.extend(parts)


def symbol(
    element: Element,
    x: float,
    y: float,
    body: str,
    worst: Mark,
    words_dx: float = 0.0,
    name_dy: float = 0.0,
    words_dy: float = 0.0,
    named: bool = True,
) -> str:
    """A symbol with its words; it can be hovered and focused. Words can be moved clear of lines."""
    marked = element.component == worst.component
    figures = "; ".join(f"{label}: {value}" for label, value in element.figures)
    flag = ""
    if marked:
        flag = (
            f'<rect class="flag" x="{x - 50}" y="{y - 76 + name_dy}" width="100" height="17" rx="2"/>'
            f'<text class="flag-text" x="{x}" y="{y - 63.5 + name_dy}">{worst.word}</text>'
        )
    name = "" if not named else _wrapped(element.name, x, y - (36 if len(element.name) <= 18 else 46) + name_dy)
    words = "".join(
        f'<text class="q" x="{x + words_dx}" y="{y + 40 + words_dy + index * 15}">{escape(word)}</text>'
        for index, word in enumerate(element.words)
    )
    kind = "el" if element.running else "el idle"
    label, told = escape(element.name), escape(figures)
    data = f'data-name="{label}" data-figures="{told}"'
    return (
        f'<g class="{kind}" tabindex="0" role="img" aria-label="{label}. {told}" {data}>'
        f'<title>{label}: {told}</title><g class="sym{" worst" if marked else ""}">{body}</g>{flag}{name}{words}</g>'
    )


def _wrapped(words: str, x: float, y: float) -> str:
    if len(words) <= 18:
        return f'<text x="{x}" y="{y}">{escape(words)}</text>'
    middle = min((i for i, c in enumerate(words) if c == " "), key=lambda i: abs(i - len(words) / 2), default=18)
    return (
        f'<text x="{x}" y="{y}">{escape(words[:middle][:24])}</text>'
        f'<text x="{x}" y="{y + 14}">{escape(words[middle:].strip()[:24])}</text>'
    )


def body_of(kind: str, x: float, y: float) -> str:
    """The symbol itself, centred."""
    return {
        "pump": f'<circle class="paper" cx="{x}" cy="{y}" r="19"/><path class="fill" d="M{x + 19} {y}l-14 -8v16z"/>',
        "high pump": f'<circle class="paper" cx="{x}" cy="{y}" r="19"/><path class="fill" d="M{x + 19} {y}l-14 -8v16z"/>'
        f'<path class="thin" d="M{x} {y + 19}v7"/><ellipse class="paper" cx="{x}" cy="{y + 31}" rx="8" ry="5"/>',
        "speed pump": f'<circle class="paper" cx="{x}" cy="{y}" r="19"/><path class="fill" d="M{x + 19} {y}l-14 -8v16z"/>'
        f'<path class="thin" d="M{x - 24} {y + 22}L{x + 22} {y - 24}m0 0l-9 2m9 -2l-2 9"/>',
        "check": f'<path d="M{x - 10} {y - 10}L{x + 2} {y}L{x - 10} {y + 10}"/>'
        f'<circle class="paper" cx="{x - 5}" cy="{y}" r="5"/>',
        "filter": f'<path class="paper" d="M{x} {y - 20}L{x + 20} {y}L{x} {y + 20}L{x - 20} {y}z"/>'
        f'<path class="pilot" d="M{x} {y - 20}V{y + 20}"/>',
        "cooler": f'<path class="paper" d="M{x} {y - 20}L{x + 20} {y}L{x} {y + 20}L{x - 20} {y}z"/>'
        f'<path class="thin" d="M{x} {y - 3}V{y - 16}m-4 6l4 -6l4 6M{x} {y + 3}V{y + 16}m-4 -6l4 6l4 -6"/>',
        "passage": f'<path d="M{x - 12} {y - 14}Q{x} {y - 2} {x + 12} {y - 14}"/>'
        f'<path d="M{x - 12} {y + 14}Q{x} {y + 2} {x + 12} {y + 14}"/>',
        "line": f'<path d="M{x - 40} {y}H{x + 40}"/><path class="fill" d="M{x + 8} {y}l-14 -6v12z"/>',
        "regulator": f'<rect class="paper" x="{x - 20}" y="{y - 20}" width="40" height="40"/>'
        f'<path class="thin" d="M{x + 8} {y - 20}V{y + 14}m-4 -8l4 8l4 -8"/>'
        f'<path class="thin" d="M{x + 20} {y}l5 -7l6 14l6 -14l5 7"/>',
    }[kind]
