"""What can go wrong in a way that the person at work can put right.

Every message is one sentence or two that say what is wrong and what to do.
"""

# For what nobody foresaw: what is shown in place of its trace, which goes to the log.
OWN_FAULT = "Orvik has met an error of its own; nothing was saved."
CHANGED_MEANWHILE = (
    "This was changed in another window or by another program meanwhile. It is shown here as it is now; "
    "make your change again."
)


class OrvikError(Exception):
    """Anything that is refused with a sentence for the person at work."""

    @property
    def sentence(self) -> str:
        return str(self)


class CrsRefused(OrvikError):
    """A coordinate system that is unknown or cannot serve a map."""


class ScaleRefused(OrvikError):
    """A scale that cannot be read or that breaks the digitizing rule."""


class CoordinateRefused(OrvikError):
    """A coordinate that cannot be read or cannot be right."""


class ReadingRefused(OrvikError):
    """An attitude reading that cannot be read or cannot be right."""


class FeatureRefused(OrvikError):
    """A feature whose geometry or attributes cannot be kept."""


class OverlapUndecided(FeatureRefused):
    """A new area lies over others, and nobody has said yet which is cut."""


class SymbolMissing(OrvikError):
    """A symbol or a pen that the symbol book does not hold."""


class SymbolRefused(OrvikError):
    """A symbol, a pattern or a symbol book that cannot be as it is given."""


class SheetRefused(OrvikError):
    """A sheet or a part that cannot be as asked."""


class FindingRefused(OrvikError):
    """A finding that cannot be accepted or fixed as asked."""


class ProjectRefused(OrvikError):
    """A file that is not a project, or a project that cannot be opened or made."""


class FitRefused(OrvikError):
    """Control points that cannot hold a fit."""


class ReliefRefused(OrvikError):
    """A way of showing heights that cannot be."""


class StructureRefused(OrvikError):
    """A plane, a thickness or a section that what is there does not determine."""


class TookTooLong(OrvikError):
    """Work that was ended because it took too long, or more memory than it may have."""


class Stale(OrvikError):
    """An edit on something that has changed since it was shown."""


class NeighbourRefused(OrvikError):
    """A neighbouring sheet that cannot be joined."""


class NotFound(OrvikError):
    """Something that is not, or no longer, in the project."""


class FileRefused(OrvikError):
    """A file imported that cannot be read or cannot serve."""
