"""How well two colours are told apart: CIEDE2000, for normal sight and for the three colour deficiencies."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.colour.hex import channels, mixed

# How people see: as most do, and without the cones for long, middle or short waves.
SIGHTS = ("normal", "red-blind", "green-blind", "blue-blind")
# Machado, Oliveira and Fernandes (2009), A physiologically-based model for simulation of color vision deficiency,
# severity 1.0; on linear sRGB. From memory, tested against another library.
_MACHADO = {
    "red-blind": ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998)),
    "green-blind": ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881)),
    "blue-blind": ((1.255528, -0.076749, -0.178779), (-0.078411, 0.930809, 0.147602), (0.004733, 0.691367, 0.303900)),
}
# IEC 61966-2-1: linear sRGB to XYZ under D65, and its white.
_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
_WHITE = np.array([0.9504559, 1.0, 1.0890578])


def linear(rgb: Floats) -> Floats:
    """Linear light of sRGB channels, 0 to 1 (IEC 61966-2-1)."""
    out: Floats = np.where(rgb <= 0.04045, rgb / 12.92, ((np.maximum(rgb, 0) + 0.055) / 1.055) ** 2.4)
    return out


def gamma(light: Floats) -> Floats:
    """sRGB channels of linear light."""
    out: Floats = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 1e-12) ** (1 / 2.4) - 0.055)
    return out


def seen(rgb: Floats, sight: str) -> Floats:
    """Colours (n, 3), sRGB channels 0 to 1, as a sight of ``SIGHTS`` sees them."""
    if sight == "normal":
        return rgb
    light = np.clip(linear(rgb) @ np.array(_MACHADO[sight]).T, 0, 1)
    return np.clip(gamma(light), 0, 1)


def to_lab(rgb: Floats) -> Floats:
    """CIELAB under D65 of sRGB channels; any shape that ends in 3 (CIE 15)."""
    xyz = linear(rgb) @ _TO_XYZ.T / _WHITE
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def from_lab(lab: Floats) -> Floats:
    """sRGB channels of CIELAB under D65; outside 0 to 1 where no screen shows it."""
    y = (lab[..., 0] + 16) / 116
    f = np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], axis=-1)
    xyz = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * _WHITE
    light = xyz @ np.linalg.inv(_TO_XYZ).T
    return np.where(light < 0, light * 12.92, gamma(light))


def ciede2000(one: Floats, other: Floats) -> Floats:
    """Differences of CIELAB colours, any shapes that fit each other and end in 3.

    Sharma, Wu and Dalal (2005), The CIEDE2000 color-difference formula, with all weights 1.
    """
    l1, a1, b1 = np.moveaxis(one, -1, 0)
    l2, a2, b2 = np.moveaxis(other, -1, 0)
    mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean**7 / (mean**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    turn = (h2 - h1 + 180) % 360 - 180
    # A difference of exactly half a turn is positive.
    turn = np.where(turn == -180, np.where(h2 > h1, 180.0, -180.0), turn)
    turn = np.where(grey, 0.0, turn)
    dl, dc = l2 - l1, c2 - c1
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    total = h1 + h2
    apart = np.abs(h1 - h2)
    h_mean = np.where(apart <= 180, total / 2, np.where(total < 360, (total + 360) / 2, (total - 360) / 2))
    h_mean = np.where(grey, total, h_mean)
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c = 1 + 0.045 * c_mean
    s_h = 1 + 0.015 * c_mean * t
    rotation = -2 * np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7))
    rotation = rotation * np.sin(np.radians(60 * np.exp(-(((h_mean - 275) / 25) ** 2))))
    out: Floats = np.sqrt((dl / s_l) ** 2 + (dc / s_c) ** 2 + (dh / s_h) ** 2 + rotation * (dc / s_c) * (dh / s_h))
    return out


def printed(colours: Sequence[str], opacity: float) -> Floats:
    """Colours as channels (n, 3), laid on white paper at an opacity of 0 to 1."""
    return np.array([channels(mixed(colour, "#FFFFFF", opacity)) for colour in colours]).reshape(-1, 3)


def labs_by_sight(rgb: Floats) -> Floats:
    """CIELAB of colours (n, 3) for each of ``SIGHTS``: (n, sights, 3)."""
    return np.stack([to_lab(seen(rgb, sight)) for sight in SIGHTS], axis=1)


@lru_cache(maxsize=1)
def light_colours() -> tuple[str, ...]:
    """Light colours all over the range that screens show, on which ink can be read: some thousand."""
    steps = [f"{v:02X}" for v in range(0x78, 0x100, 9)]
    made = [f"#{r}{g}{b}" for r in steps for g in steps for b in steps]
    lightness = to_lab(printed(made, 1.0))[:, 0]
    return tuple(colour for colour, light in zip(made, lightness.tolist(), strict=True) if 68 <= light <= 95)


def farthest(choices: Sequence[str], used: Iterable[str]) -> str:
    """The colour of some that the eye tells best from those in use: by the least CIEDE2000 difference from any.

    >>> farthest(("#F4E6A8", "#A9CFC9"), ["#F4E6A8"])
    '#A9CFC9'
    """
    there = sorted(set(used))
    if not there:
        return choices[0]
    apart = ciede2000(to_lab(printed(choices, 1.0))[:, None], to_lab(printed(there, 1.0))[None])
    return choices[int(apart.min(axis=1).argmax())]
