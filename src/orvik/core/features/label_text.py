"""Labels of units as they are typed: raised and lowered letters, and a line above, as Unicode has them."""

from __future__ import annotations

import re
import unicodedata

from orvik.core.errors import FeatureRefused

OVERLINE = "\u0305"
_RAISED = dict(
    zip(
        "0123456789+-abcdefghijklmnoprstuvwxyz",
        "⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻ᵃᵇᶜᵈᵉᶠᵍʰⁱʲᵏˡᵐⁿᵒᵖʳˢᵗᵘᵛʷˣʸᶻ",
        strict=True,
    )
)
_LOWERED = dict(zip("0123456789+-aehijklmnoprstuvx", "₀₁₂₃₄₅₆₇₈₉₊₋ₐₑₕᵢⱼₖₗₘₙₒₚᵣₛₜᵤᵥₓ", strict=True))
_SHIFTED = re.compile(r"([_^])(?:\{([^{}]*)\}|(.))")


def label_text(typed: str) -> str:
    """A label with what is raised (``^``), lowered (``_``) and under a line (``\\\\over{}``) in letters that are so.

    >>> label_text("J_h^2"), label_text("Q_{al}"), label_text("K^{w}s"), label_text("Jh")
    ('Jₕ²', 'Qₐₗ', 'Kʷs', 'Jh')
    >>> label_text("over{Jh}1") == "J\\u0305h\\u03051"
    True

    Raises
    ------
    FeatureRefused
        A letter has no form that is raised or lowered so.
    """

    def shifted(match: re.Match[str]) -> str:
        letters = match[2] if match[2] is not None else match[3]
        known, how = (_RAISED, "raised") if match[1] == "^" else (_LOWERED, "lowered")
        lacking = next((letter for letter in letters if letter not in known), None)
        if lacking is not None or not letters:
            raise FeatureRefused(
                f"“{(lacking or match[0])[:4]}” cannot be {how} in a label; digits and most small letters can."
            )
        return "".join(known[letter] for letter in letters)

    out = _SHIFTED.sub(shifted, typed)
    return re.sub(r"over\{([^{}]*)\}", lambda match: "".join(c + OVERLINE for c in match[1]), out)


def typed_label(label: str) -> str:
    """How a label is typed on any keyboard.

    >>> typed_label("Jₕ²"), typed_label("Qₐₗ"), typed_label("Kʷs")
    ('J_h^2', 'Q_a_l', 'K^ws')
    """
    raised = {shown: f"^{letter}" for letter, shown in _RAISED.items()}
    lowered = {shown: f"_{letter}" for letter, shown in _LOWERED.items()}
    spelled = "".join(raised.get(c) or lowered.get(c) or c for c in unicodedata.normalize("NFC", label))
    return re.sub(rf"((?:.{OVERLINE})+)", lambda match: f"over{{{match[1].replace(OVERLINE, '')}}}", spelled)
