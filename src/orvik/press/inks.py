"""Inks: how the colours of a page are written, for the screen, for a press, or for one plate of a press alone."""

from __future__ import annotations

import io
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import ClassVar

import numpy as np
from PIL import Image, ImageCms

from orvik.core.arrays import Bytes
from orvik.core.colour.hex import channels, is_colour
from orvik.core.errors import FileRefused
from orvik.core.ink.primitives import INK
from orvik.core.sheet.output.export_settings import PLATES

Shares = tuple[float, float, float, float]
# What is set and drawn in these is printed in black alone, over what lies below.
BLACKS = frozenset({INK, "#000000"})
BLACK: Shares = (0.0, 0.0, 0.0, 1.0)


class Inks(ABC):
    """A way of writing colours.

    Attributes
    ----------
    space
        The name of the colour space, in which groups are laid over one another, too.
    press
        Whether black lines and letters overprint.
    """

    space: ClassVar[str]
    press: ClassVar[bool] = False
    # Whether pictures are shown smoother than their dots.
    smooth: bool = True

    @abstractmethod
    def operators(self, colour: str) -> str:
        """The numbers of a colour, without their operator."""

    # The operators that set the colour of areas and of lines.
    fill: ClassVar[str]
    stroke: ClassVar[str]

    @abstractmethod
    def pixels(self, rgb: Bytes) -> Bytes:
        """Pixels of a picture, (h, w, 3), in this space."""

    def overprints(self, colour: str) -> bool:
        """Whether lines and letters of a colour are printed over what lies below."""
        return self.press and colour.upper() in BLACKS

    def leaves_out(self, colour: str) -> bool:
        """Whether lines and letters of a colour leave nothing on this plate, not even bare paper."""
        return False


@dataclass(frozen=True)
class ScreenInks(Inks):
    """Red, green and blue as they are."""

    smooth: bool = True

    space = "/DeviceRGB"
    fill, stroke = "rg", "RG"

    def operators(self, colour: str) -> str:
        shares = channels(colour) if is_colour(colour) else (0.0, 0.0, 0.0)
        return " ".join(f"{share:.4g}" for share in shares)

    def pixels(self, rgb: Bytes) -> Bytes:
        return rgb


@dataclass(frozen=True)
class Profile:
    """A profile of a press (ISO 15076-1): its file, and what it calls itself."""

    data: bytes
    name: str

    @staticmethod
    def of(data: bytes, called: str = "The profile") -> Profile:
        """Read a profile.

        Raises
        ------
        FileRefused
            It is none, or not of a press with four inks.
        """
        try:
            opened = ImageCms.ImageCmsProfile(io.BytesIO(data))
            space, device = opened.profile.xcolor_space.strip(), opened.profile.device_class.strip()
            name = ImageCms.getProfileDescription(opened).strip() or called
        except (OSError, ImageCms.PyCMSError, ValueError, AttributeError) as error:
            raise FileRefused(f"{called} is no colour profile; choose the ICC file of the press.") from error
        if (space, device) != ("CMYK", "prtr"):
            raise FileRefused(f"{called} is not the profile of a press with four inks; choose an ICC file for CMYK.")
        try:
            _transform(data)
        except (OSError, ImageCms.PyCMSError) as error:
            raise FileRefused(f"{called} tells no way from the screen's colours to inks; choose another.") from error
        return Profile(data, name)


def _transform(data: bytes) -> ImageCms.ImageCmsTransform:
    """From the screen's colours to inks: relative colorimetric with black point compensation (common practice)."""
    return ImageCms.buildTransform(
        ImageCms.createProfile("sRGB"),
        ImageCms.ImageCmsProfile(io.BytesIO(data)),
        "RGB",
        "CMYK",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )


@dataclass(frozen=True)
class PressInks(Inks):
    """Cyan, magenta, yellow and black: as they were typed where they were, else through the profile.

    Attributes
    ----------
    typed
        Shares of the four inks, 0 to 1, by colours in six digits.
    """

    profile: Profile
    typed: Mapping[str, Shares] = field(default_factory=dict)
    _known: dict[str, Shares] = field(default_factory=dict, compare=False, repr=False)

    space = "/DeviceCMYK"
    press = True
    fill, stroke = "k", "K"

    @cached_property
    def _way(self) -> ImageCms.ImageCmsTransform:
        return _transform(self.profile.data)

    def shares(self, colour: str) -> Shares:
        """How much of each ink a colour is printed with, 0 to 1."""
        colour = colour.upper() if is_colour(colour) else "#000000"
        if colour in BLACKS:
            return BLACK
        if colour in self.typed:
            return self.typed[colour]
        if colour not in self._known:
            rgb = np.rint(np.array(channels(colour)) * 255).astype(np.uint8).reshape(1, 1, 3)
            c, m, y, k = (round(int(v) / 255, 4) for v in self.pixels(rgb)[0, 0])
            # Bare paper stays bare.
            self._known[colour] = (0.0, 0.0, 0.0, 0.0) if colour == "#FFFFFF" else (c, m, y, k)
        return self._known[colour]

    def operators(self, colour: str) -> str:
        return " ".join(f"{share:.4g}" for share in self.shares(colour))

    def pixels(self, rgb: Bytes) -> Bytes:
        picture = ImageCms.applyTransform(Image.fromarray(rgb, "RGB"), self._way)
        out = np.array(picture)
        out[(rgb == 255).all(axis=2)] = 0
        return out


@dataclass(frozen=True)
class PlateInks(Inks):
    """One plate of a press as a grey picture: white where it prints nothing.

    Where areas multiply, greys multiply as the shares of an ink do (ISO 32000-2, 11.3.5.2: blending subtractive colours
    is done on their complements).
    """

    of: PressInks
    plate: int

    space = "/DeviceGray"
    press = True
    fill, stroke = "g", "G"

    def operators(self, colour: str) -> str:
        return f"{1 - self.of.shares(colour)[self.plate]:.4g}"

    def pixels(self, rgb: Bytes) -> Bytes:
        return np.asarray(255 - self.of.pixels(rgb)[:, :, self.plate])

    def overprints(self, colour: str) -> bool:
        return False

    def leaves_out(self, colour: str) -> bool:
        return self.plate != PLATES.index("black") and colour.upper() in BLACKS
