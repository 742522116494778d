"""Formulas as MathML, from the plain way they are written in the core: `V_pump = V − I × R`.

The plain text is turned into LaTeX and converted by `latex2mathml`; words stay words.
"""

import re
from functools import lru_cache

from latex2mathml.converter import convert
from markupsafe import Markup, escape

_GREEK = {"ρ": r"\rho", "λ": r"\lambda", "μ": r"\mu", "Δ": r"\Delta ", "Σ": r"\sum ", "π": r"\pi", "η": r"\eta"}
_SIGNS = {"×": r"\times ", "÷": r"\div ", "−": "-", "√": r"\sqrt", "²": "^{2}", "∞": r"\infty", "₀": "_{0}", "₁": "_{1}"}
# Words in a row are a phrase and keep their spaces.
_PHRASE = r"\b[^\W\d_]{2,}\b(?:[ ,;'-]+[^\W\d_]+\b)+"
_TOKEN = re.compile(_PHRASE + r"|[^\W\d_]\u0307?(?:_\w+)+|[^\W\d_]+\u0307?|\d+(?:\.\d+)?|⟨[^⟩]*⟩|\s+|.", re.UNICODE)
# Letters that stand for quantities; longer words are words.
_NAMES = {"VE", "LHV", "AFR", "Re", "RVP"}


def _latex(formula: str) -> str:
    return "".join(_token(token) for token in _TOKEN.findall(formula))


def _token(token: str) -> str:
    if token.startswith("⟨"):
        return rf"\langle\text{{{token[1:-1]}}}\rangle "
    if " " in token and not token.isspace():
        return rf"\text{{{token}}}"
    if token.isspace():
        return " "
    if token in _SIGNS:
        return _SIGNS[token]
    if "_" in token:
        head, *tails = token.split("_")
        below = ",".join(rf"\text{{{tail}}}" for tail in tails)
        return f"{_symbol(head)}_{{{below}}}"
    if token[0].isalpha():
        return _symbol(token)
    return {"%": r"\%", "#": r"\#", "&": r"\&", "{": r"\{", "}": r"\}"}.get(token, token)


def _symbol(name: str) -> str:
    dotted = name.endswith("\u0307") or name in ("ṁ", "V̇")
    plain = name.replace("\u0307", "").replace("ṁ", "m")
    if plain[:1] in _GREEK and len(plain) <= 2:
        letters = _GREEK[plain[0]] + plain[1:]
    elif len(plain) == 1 or plain in _NAMES:
        letters = plain if len(plain) == 1 else rf"\mathrm{{{plain}}}"
    else:
        letters = rf"\text{{{plain}}}"
    return rf"\dot{{{letters}}}" if dotted else letters


@lru_cache(maxsize=1024)
def mathml(formula: str) -> Markup:
    """A formula as MathML, its plain text as what assistive technology may fall back on."""
    found = convert(_latex(formula), display="block")
    return Markup(found.replace("<math ", f'<math aria-label="{escape(formula)}" ', 1))


@lru_cache(maxsize=1024)
def symbols(name: str) -> Markup:
    """A symbol of a formula in running text, as MathML."""
    return Markup(convert(_latex(name), display="inline"))
