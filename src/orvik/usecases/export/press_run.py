"""What a press needs of a project: its profile, and the colours that were typed as percentages."""

from __future__ import annotations

import numpy as np

from orvik.core.colour.text import typed_numbers
from orvik.core.errors import FileRefused
from orvik.core.sheet.output.export_settings import PLATES, ExportSettings
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.press.inks import PressInks, Profile, Shares
from orvik.press.pdf import Page
from orvik.press.pdf_standard import ARCHIVE, SCREEN, Standard
from orvik.press.plates import most_ink, plate, plate_png, plates, total
from orvik.store.files import kept_file
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.imprint import imprint_of
from orvik.usecases.export.press_profile import LARGEST_PROFILE
from orvik.usecases.sheet.composing import composed

# The ink of a page is counted with so many dots per inch.
INK_DPI = 60.0
# And a plate is looked at with so many.
PLATE_DPI = 110.0
NO_PROFILE = (
    "A PDF for the press needs the profile of that press: choose the ICC file that the printer names. "
    "Without it no colour can be turned into inks."
)


def profile_of(name: str, data: bytes) -> KeptFile:
    """The profile of a press to be kept with a project; raises FileRefused where it is none."""
    if len(data) > LARGEST_PROFILE:
        raise FileRefused(f"{name} has more than {LARGEST_PROFILE // 1_000_000} MB; the profile of a press is smaller.")
    Profile.of(data, name)
    return KeptFile(name, "profile", data)


def press_inks(project: Reader, given: Profile | None = None) -> PressInks:
    """The inks that a project is printed in.

    Parameters
    ----------
    given
        The profile of another press than the project's.

    Raises
    ------
    FileRefused
        No profile is chosen, or it is no longer in the project.
    """
    if given is None:
        checksum = imprint_of(project).profile
        kept = kept_file(project, checksum) if checksum else None
        if kept is None or kept.kind != "profile":
            raise FileRefused(NO_PROFILE)
        given = Profile.of(kept.data, kept.name)
    return PressInks(given, typed_shares(project))


def typed_shares(project: Reader) -> dict[str, Shares]:
    """Colours that were typed as percentages, with these as shares."""
    out: dict[str, Shares] = {}
    for unit in project.units_by_code().values():
        for typed, colour in ((unit.colour_typed, unit.colour), (unit.pattern_colour_typed, unit.pattern_colour)):
            numbers = typed_numbers(typed, "CMYK").replace(",", ".").split()
            if len(numbers) == 4 and colour:
                c, m, y, k = (float(number) / 100 for number in numbers)
                out[colour.upper()] = (c, m, y, k)
    return out


def standard_of(
    project: Reader, way: ExportSettings, profile: Profile | None = None
) -> tuple[Standard, PressInks | None]:
    """What a PDF keeps to, and the inks that it is written in; None for the screen's colours."""
    if way.made_for == "press":
        inks = press_inks(project, profile)
        return Standard(press=inks.profile), inks
    return (ARCHIVE if way.made_for == "archive" else SCREEN), None


def ink_words(page: Page, inks: PressInks, way: ExportSettings) -> list[str]:
    """What is to be said of the ink of a page: where there is more than the press takes."""
    found = most_ink(plates(page, inks, INK_DPI), INK_DPI)
    if found.per_cent <= way.most_ink + 0.5:
        return []
    x, y = found.x - page.edge, found.y - page.edge
    return [
        f"Up to {found.per_cent:.0f} % of ink lie over one another, {x:.0f} mm from the left and {y:.0f} mm from the "
        f"top; the press takes {way.most_ink:.0f} %. Choose lighter colours there, or a lighter relief."
    ]


def plate_of(project: ReadProject, sheet_id: int, name: str) -> bytes:
    """A plate of a sheet as a PNG, or all of them together as how much ink lies at each place.

    Raises
    ------
    FileRefused
        No profile is chosen.
    """
    inks = press_inks(project)
    made = composed(project, sheet_id, PLATE_DPI)
    page = Page(made.groups, made.sheet.width, made.sheet.height)
    if name in PLATES:
        return plate_png(plate(page, inks, PLATES.index(name), PLATE_DPI))
    return plate_png(np.rint(total(plates(page, inks, PLATE_DPI)) / 400 * 255).astype(np.uint8))
