"""Readings as geologists write them: strike and dip, quadrant bearings, dip and dip direction, trend and plunge.

A figure alone is an azimuth, and a strike is read by the right-hand rule; letters say a side, and then they decide.
What contradicts itself, or could mean two things, is refused with what could be meant; nothing is guessed.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from orvik.core.errors import ReadingRefused
from orvik.core.features.attitude import (
    COMPASS,
    QUARTER,
    Attitude,
    apart,
    letters_of,
    right_hand_strike,
    three_figures,
)
from orvik.core.features.kind import USUAL_READING, kind_of
from orvik.core.ground.coordinates import decimal
from orvik.core.wording import not_a

_NUMBER = r"\d{1,3}(?:[.,]\d+)?"
_POINT = "|".join(sorted(COMPASS, key=len, reverse=True))
_QUADRANT = rf"(?P<from>[NS])\s*(?P<turn>{_NUMBER})\s*(?P<to>[EW])"
_PAIR = (
    r"(?P<pair>N\s*[-/]?\s*S|S\s*[-/]?\s*N|E\s*[-/]?\s*W|W\s*[-/]?\s*E"
    r"|NE\s*[-/]\s*SW|SW\s*[-/]\s*NE|NW\s*[-/]\s*SE|SE\s*[-/]\s*NW)"
)
_UPRIGHT = r"VERTICAL|VERT\.?|V|UPRIGHT"
_LEVEL = r"HORIZONTAL|HORIZ\.?|HOR\.?|H|FLAT|LEVEL"
_DIP = rf"(?P<dip>{_NUMBER}|{_UPRIGHT}|{_LEVEL})"
_SEPARATOR = r"(?:\s*[/,;:|]\s*|\s+-\s+|-|\s+)"
_SIDE = rf"(?:{_SEPARATOR}?(?:TO\s+)?(?:THE\s+)?(?P<side>{_POINT}))?"
_ARROW = r"\s*(?:>|TO(?:WARDS?)?(?:\s+THE)?\s)\s*"
_BY_AZIMUTH = re.compile(rf"(?P<azimuth>{_NUMBER}){_SEPARATOR}{_DIP}{_SIDE}")
_BY_BEARING = re.compile(rf"(?:{_QUADRANT}|{_PAIR}|(?P<point>{_POINT})){_SEPARATOR}?(?:{_DIP}{_SIDE})?")
_BY_DIRECTION = re.compile(rf"{_DIP}(?:{_ARROW})(?:(?P<azimuth>{_NUMBER})|{_QUADRANT}|(?P<point>{_POINT}))")
_WORDS = re.compile(r"\b(?:STRIKES?|STRIKING|DIPS?|DIPPING|TRENDS?|TRENDING|PLUNGES?|PLUNGING|DEG(?:REES)?\.?)\b")
_DEGREES = "°º˚∘"
# Of a table with many readings, the same figures are read once.
REMEMBERED = 4096
_DASHES = "‐‑‒–—−"


def parse_reading(text: str, dip_direction: bool = False, kind: str = USUAL_READING) -> Attitude:
    """The attitude that was written; a strike of 360 is 000.

    >>> parse_reading("N10W 60E").text
    '350/60'
    >>> parse_reading("045/30SE").words
    'strikes 045, dips 30 to the southeast'

    Parameters
    ----------
    text
        Such as ``350/60``, ``045/30SE``, ``N10W 60E``, ``E-W 30N``, ``N45E vert``, ``60→080`` or ``horizontal``;
        of a lineation ``120/30``, ``30→120`` or ``N60E 30``; of a kind that has only a direction ``045``,
        ``045SE`` or ``N60E``.
    dip_direction
        Whether the first figure is the dip direction instead of the strike.
    kind
        The kind of point that is read.

    Raises
    ------
    ReadingRefused
        It is not a reading, contradicts itself, or could mean two things.
    """
    plain = plain_text(text)
    linear = kind_of(kind).linear
    if kind_of(kind).reading in ("strike", "trend"):
        return _direction(text, dip_direction, linear)
    if re.fullmatch(_LEVEL, plain) and not linear:
        return Attitude(0.0, 0.0)
    if re.fullmatch(_UPRIGHT, plain):
        raise ReadingRefused(f"“{text.strip()}” lacks a strike; type it as 045/90 or N45E vert.")
    match = _BY_DIRECTION.fullmatch(plain)
    if match is not None:
        return _by_direction(match, linear)
    match = _BY_AZIMUTH.fullmatch(plain)
    if match is not None:
        return _by_azimuth(text, match, dip_direction, linear)
    match = _BY_BEARING.fullmatch(plain)
    if match is not None:
        return _by_bearing(text, match, linear)
    what = (
        "trend and plunge as 120/30, N60E 30 or 30→120"
        if linear
        else "strike and dip as 350/60 or N10W 60E, or dip and dip direction as 60→080"
    )
    raise ReadingRefused(not_a(text, "reading", what))


@lru_cache(maxsize=REMEMBERED)
def plain_text(text: str) -> str:
    """Capitals and plain signs: full-width figures, degree signs, dashes and arrows as one sort each."""
    for sign in _DEGREES:
        text = text.replace(sign, " ")
    # Normalization would break an arrow of two symbols no more than one; figures of any width become plain.
    text = unicodedata.normalize("NFKC", text).upper()
    for dash in _DASHES:
        text = text.replace(dash, "-")
    text = re.sub(r"-+>|=+>|→|⇒|➔|➝|⟶", ">", text)
    text = _WORDS.sub(" ", text.replace("'", " ").replace("′", " "))
    return re.sub(r"\s+", " ", text).strip(" .;,")


def parse_bearing(text: str) -> tuple[float, bool]:
    """A direction in degrees: ``315``, ``N10W``, ``NW``; and whether it names a side rather than a figure.

    Raises
    ------
    ReadingRefused
        It is not a direction.
    """
    plain = plain_text(text)
    if re.fullmatch(_NUMBER, plain):
        return _azimuth(decimal(plain)), False
    if plain in COMPASS:
        return COMPASS[plain], True
    match = re.fullmatch(_QUADRANT, plain)
    if match is not None:
        return _bearing(match), False
    raise ReadingRefused(not_a(text, "direction", "degrees as 315, or N45W, or NW"))


@lru_cache(maxsize=REMEMBERED)
def parse_strike(text: str) -> tuple[float, bool]:
    """A strike in degrees, and whether its direction counts: that of ``N10W`` or ``E-W`` does not.

    Raises
    ------
    ReadingRefused
        It is not a strike.
    """
    plain = plain_text(text)
    pair = re.fullmatch(_PAIR, plain)
    if pair is not None:
        ends = re.findall(r"[NS][EW]|[NSEW]", pair["pair"] if len(pair["pair"]) > 2 else " ".join(pair["pair"]))
        return COMPASS[ends[0]] % 180, False
    value, by_letters = parse_bearing(text)
    return value, not by_letters and re.fullmatch(_NUMBER, plain) is not None


@lru_cache(maxsize=REMEMBERED)
def parse_dip(text: str) -> tuple[float, str]:
    """A dip in degrees with the letters of the side it dips to, if they stand beside it: ``30 SE``, ``vert``.

    Raises
    ------
    ReadingRefused
        It is not a dip.
    """
    match = re.fullmatch(rf"{_DIP}{_SIDE}", plain_text(text))
    if match is None:
        raise ReadingRefused(not_a(text, "dip", "degrees from 0 (horizontal) to 90 (vertical)"))
    return _inclination(match["dip"]), match["side"] or ""


def _direction(text: str, dip_direction: bool, linear: bool) -> Attitude:
    """A strike by the right-hand rule or with the side of the dip, or a trend; without an inclination."""
    match = re.fullmatch(rf"(?P<strike>.+?)\s*(?P<side>{_POINT})", plain_text(text))
    if match is not None and not linear and re.search(r"\d", match["strike"]) and not _is_quadrant(plain_text(text)):
        return Attitude(_dipping(text, parse_strike(match["strike"])[0], 45.0, match["side"]).azimuth, None)
    azimuth = parse_bearing(text)[0]
    return Attitude((azimuth - 90) % 360 if dip_direction and not linear else azimuth, None, linear)


def _is_quadrant(plain: str) -> bool:
    return re.fullmatch(_QUADRANT, plain) is not None


def _by_direction(match: re.Match[str], linear: bool) -> Attitude:
    """Dip and where it dips to, or plunge and where it plunges to."""
    inclination = _inclination(match["dip"])
    if match["azimuth"]:
        towards = _azimuth(decimal(match["azimuth"]))
    else:
        towards = COMPASS[match["point"]] if match["point"] else _bearing(match)
    if linear:
        return Attitude(towards, inclination, True)
    return Attitude((towards - 90) % 360, inclination)


def _by_azimuth(text: str, match: re.Match[str], dip_direction: bool, linear: bool) -> Attitude:
    written = match["dip"]
    if re.fullmatch(r"\d+,\d+,\d+", plain_text(text)):
        raise ReadingRefused(f"“{text.strip()}” could mean two things; put a stroke between strike and dip: 045,5/30.")
    if re.fullmatch(r"\d{3}", written) and not re.fullmatch(r"\d{3}(?:[.,]\d+)?", match["azimuth"]):
        first, second = match["azimuth"], written
        meant = f"{'plunge' if linear else 'dip'} {first} towards {second}, which is written {first}→{second}"
        other = (
            ""
            if int(second) > 90
            else f", or {'trend' if linear else 'strike'} {three_figures(_azimuth(decimal(first)))} and {int(second)}, "
            f"which is written {first.zfill(3)}/{int(second)}"
        )
        raise ReadingRefused(f"“{text.strip()}” could mean {meant}{other}; type the one that is meant.")
    azimuth, inclination = _azimuth(decimal(match["azimuth"])), _inclination(written)
    side = match["side"] or ""
    if linear:
        return _plunging(text, azimuth, inclination, side, False)
    if dip_direction:
        if side and apart(COMPASS[side], azimuth) > QUARTER:
            raise ReadingRefused(
                f"“{text.strip()}” says twice where it dips to: {three_figures(azimuth)} and {side}; leave one out."
            )
        return Attitude((azimuth - 90) % 360, inclination)
    return _dipping(text, azimuth, inclination, side) if side else Attitude(azimuth, inclination)


def _by_bearing(text: str, match: re.Match[str], linear: bool) -> Attitude:
    """A bearing counted from north or south, or by letters, with the side of the dip."""
    if match["pair"]:
        bearing = parse_strike(match["pair"])[0]
    else:
        bearing = COMPASS[match["point"]] if match["point"] else _bearing(match)
    if match["dip"] is None:
        what = "a plunge" if linear else "a dip"
        raise ReadingRefused(
            f"“{text.strip()}” lacks {what}; type it behind the bearing: N10W 60{'' if linear else 'E'}."
        )
    inclination, side = _inclination(match["dip"]), match["side"] or ""
    if linear:
        return _plunging(text, bearing, inclination, side, bool(match["pair"]))
    if side:
        return _dipping(text, bearing, inclination, side)
    if inclination not in (0.0, 90.0):
        one, two = letters_of(bearing + 90), letters_of(bearing - 90)
        raise ReadingRefused(f"“{text.strip()}” does not say to which side it dips; add {one} or {two}.")
    return Attitude(bearing, inclination)


def _dipping(text: str, strike: float, inclination: float, side: str) -> Attitude:
    if inclination in (0.0, 90.0):
        # A level or upright plane dips to no side; its strike is as good either way.
        return Attitude(right_hand_strike(strike, COMPASS[side], QUARTER) or strike, inclination)
    held = right_hand_strike(strike, COMPASS[side], QUARTER)
    if held is None:
        one, two = strike + 90, strike - 90
        raise ReadingRefused(
            f"“{text.strip()}” contradicts itself: a plane that strikes {three_figures(strike)} dips to "
            f"{letters_of(one)} or {letters_of(two)}, not to {side}; check the two."
        )
    return Attitude(held, inclination)


def _plunging(text: str, trend: float, plunge: float, side: str, either: bool) -> Attitude:
    """A line by its trend; letters behind the plunge say which of its two ends goes down."""
    if not side:
        if either and plunge not in (0.0, 90.0):
            one, two = letters_of(trend), letters_of(trend + 180)
            raise ReadingRefused(f"“{text.strip()}” does not say to which end it plunges; add {one} or {two}.")
        return Attitude(trend, plunge, True)
    for end in (trend, (trend + 180) % 360):
        if apart(end, COMPASS[side]) <= QUARTER:
            return Attitude(end, plunge, True)
    raise ReadingRefused(
        f"“{text.strip()}” contradicts itself: a line that trends {three_figures(trend)} does not plunge to {side}."
    )


def _bearing(match: re.Match[str]) -> float:
    turn = decimal(match["turn"])
    if turn > 90:
        raise ReadingRefused(f"A bearing turns at most 90 from north or south, not {turn:g}.")
    base, sign = (0.0, 1.0) if match["from"] == "N" else (180.0, -1.0)
    return (base + sign * (turn if match["to"] == "E" else -turn)) % 360


def _inclination(written: str) -> float:
    if re.fullmatch(_UPRIGHT, written):
        return 90.0
    if re.fullmatch(_LEVEL, written):
        return 0.0
    return decimal(written)


def _azimuth(value: float) -> float:
    if value > 360:
        raise ReadingRefused(f"{value:g} is not a direction; directions run from 000 to 359, and 360 is 000.")
    return 0.0 if value == 360 else value
