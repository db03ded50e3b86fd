"""Texts as XML can hold them."""

from __future__ import annotations

import re
from html import escape

# What XML 1.0, 2.2, has no character for: most control characters, halves of surrogates, and two non-characters.
_NO_CHARACTER = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def xml_text(text: str) -> str:
    """A text for an element or an attribute; what XML cannot hold becomes U+FFFD, the sign of a letter that is lost.

    >>> xml_text("Qal\\x0b & <b>")
    'Qal� &amp; &lt;b&gt;'
    """
    return escape(_NO_CHARACTER.sub("\ufffd", text))
