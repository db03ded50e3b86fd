"""The rules: what each check looks for, how grave it is, and where the rule comes from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

# The groups of the margin notes, by name, in their order.
GROUPS: Mapping[str, str] = {
    "linework": "Linework and units",
    "signs": "Signs and explanation",
    "sheet": "Sheet and its parts",
    "letters": "Letters and colours",
    "essentials": "Essentials",
}
PRACTICE = "common practice"
# What severities ask of a person.
SEVERITIES = {"error": "to mend", "warning": "to look at", "error or warning": "to mend, or to look at"}


@dataclass(frozen=True)
class Rule:
    """One rule.

    Attributes
    ----------
    name
        What findings hold.
    group
        A name of ``GROUPS``.
    severity
        ``error``, ``warning``, or both where it depends.
    title
        What it looks for.
    source
        Where it comes from.
    """

    name: str
    group: str
    severity: str
    title: str
    source: str = PRACTICE


RULES: Mapping[str, Rule] = {
    name: Rule(name, group, severity, title, source)
    for group, rows in {
        "linework": (
            ("dangle", "error", "A contact or a shoreline ends in the open, or within 1 mm of another line", PRACTICE),
            ("near_miss", "warning", "A fault ends within 0.3 mm of another line", PRACTICE),
            ("crossing", "error", "Lines that bound units cross without a vertex in common", PRACTICE),
            (
                "doubled",
                "error or warning",
                "A line drawn again along another; two readings of one kind at one place: the same, or at odds",
                PRACTICE,
            ),
            (
                "unsound",
                "error",
                "An area crosses or touches itself, or a line has no length",
                "OGC 06-103r4, 6.1.4 and 6.1.11",
            ),
            ("overlap", "error", "Unit areas lie over one another", "OGC 06-103r4, 6.1.11"),
            ("sliver", "warning", "A face is too small or too narrow to be seen on the sheet", PRACTICE),
            ("untagged", "error", "No unit tag stands in a face", PRACTICE),
            ("undivided", "warning", "Areas of several units lie in one face, with no contact between them", PRACTICE),
            ("takes_ground", "error", "A tag says another unit than the areas in its face", PRACTICE),
            ("two_tags", "error", "Tags of several units stand in one face", PRACTICE),
            ("other_unit", "error", "An area has another unit than the tag in it says", PRACTICE),
            ("unformed", "error", "Areas are not as linework and tags have them", PRACTICE),
            ("same_unit", "warning", "One unit lies on both sides of a contact", PRACTICE),
            ("order", "warning", "Beds dip from a younger unit to an older one", "law of superposition"),
            ("older_cuts", "error", "A dyke or a sheet cuts a unit that is younger", "law of cross-cutting relations"),
            (
                "odd_attitude",
                "warning",
                "Beds dip more than 70° off the way of the readings around, which agree",
                PRACTICE,
            ),
            ("doubled_station", "warning", "A station of the notebook stands there twice", PRACTICE),
            ("coarse", "warning", "A feature was drawn at a coarser scale than the digitizing scale", PRACTICE),
            (
                "lost_file",
                "error",
                "The file of an underlay is missing, or was altered since it was brought in",
                PRACTICE,
            ),
            ("misfit", "warning", "A picture is georeferenced to no better than 0.5 mm on the sheet", PRACTICE),
            ("outside", "warning", "A feature lies wholly outside the sheet border", PRACTICE),
            ("unknown", "error", "A feature has a kind, unit or certainty that the project does not have", PRACTICE),
            ("row", "error", "A row of the project file holds nothing that can be shown", PRACTICE),
        ),
        "signs": (
            ("no_sense", "warning", "A line is too short for the ornament that says its sense", PRACTICE),
            ("column", "warning", "A unit that is wholly older stands above a younger one", "law of superposition"),
            ("unexplained", "error", "The map shows a unit or a sign that its explanation lacks", PRACTICE),
            ("nothing_shown", "warning", "The explanation has a row of which the map shows nothing", PRACTICE),
            ("row_cut", "error", "Rows of an explanation have no room", PRACTICE),
        ),
        "sheet": (
            ("off_page", "error", "A part reaches beyond the page", PRACTICE),
            ("hidden_part", "error", "A panel, a picture or a coloured ground lies over a part and hides it", PRACTICE),
            ("run_together", "warning", "Letters of two parts run into each other", PRACTICE),
            ("text_cut", "error", "A text is longer than its frame", PRACTICE),
            ("figures_off", "warning", "Figures of a graticule have no room on the page", PRACTICE),
            ("unshown", "error", "A panel cannot show all of its ground in its system", PRACTICE),
            ("empty_part", "error", "A part cannot show what it is there for", PRACTICE),
            ("rough_picture", "warning", "A picture has fewer than 200 dots per inch", PRACTICE),
            ("enlarged", "warning", "A panel is larger than what it shows was digitized at", PRACTICE),
            ("untrue_scale", "warning", "Lengths on a panel are off by more than 0.2 %", PRACTICE),
            ("land_too_large", "warning", "A panel is too large in scale for the outline of the land", PRACTICE),
        ),
        "letters": (
            ("letters", "error", "A text has letters for which no face of the sheet has a shape", PRACTICE),
            ("small_letters", "warning", "Letters are smaller than 5 points", PRACTICE),
            ("faint_letters", "warning", "Letters stand out from their ground by less than 3:1", "WCAG 2.2, 1.4.11"),
            ("thin_line", "warning", "A line is thinner than 0.1 mm", PRACTICE),
            ("alike", "warning", "Colours of units that touch can hardly be told apart", "CIE 142-2001 (CIEDE2000)"),
            ("label", "warning", "A label has no room", PRACTICE),
        ),
        "essentials": (("no_essential", "error", "A published sheet must carry this, and it does not", PRACTICE),),
    }.items()
    for name, severity, title, source in rows
}
