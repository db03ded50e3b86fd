"""What a PDF states of the standard that it keeps: PDF/X-4 for a press, PDF/A-2b for an archive.

PDF/X-4 is ISO 15930-7:2010, PDF/A-2 is ISO 19005-2:2011; what they ask for is written down here from memory.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from pathlib import Path

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from orvik.press.inks import Profile

# The screen's colours as a profile; see the licence beside it.
_SRGB = Path(__file__).with_name("profiles") / "sRGB.icc"
_X_NAMESPACE = "http://www.npes.org/pdfx/ns/id/"
_NOT_DATED = datetime(2000, 1, 1, tzinfo=UTC)


@dataclass(frozen=True)
class About:
    """What a document says of itself; ``made`` is a time with its zone."""

    title: str
    author: str = ""
    subject: str = ""
    made: datetime | None = None


@dataclass(frozen=True)
class Standard:
    """What a PDF keeps to.

    Attributes
    ----------
    archive
        Whether it is PDF/A-2b.
    press
        The profile of the press that it is PDF/X-4 for.
    """

    archive: bool = False
    press: Profile | None = None


SCREEN, ARCHIVE = Standard(), Standard(archive=True)


@lru_cache(maxsize=1)
def screen_profile() -> bytes:
    """The profile of the screen's colours."""
    return _SRGB.read_bytes()


def describe(pdf: pikepdf.Pdf, about: About, standard: Standard) -> None:
    """The document information, and the same as XMP; with what a standard asks for."""
    dated = about.made or (_NOT_DATED if standard != SCREEN else None)
    made = _whole(dated) if dated is not None else None
    stamp = made.isoformat(timespec="seconds") if made else ""
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
        meta["dc:title"] = about.title
        meta["pdf:Producer"] = "Orvik"
        if about.author:
            meta["dc:creator"] = [about.author]
        if about.subject:
            meta["dc:description"] = about.subject
        if made is not None:
            meta["xmp:CreateDate"] = stamp
        if standard.archive:
            meta["pdfaid:part"] = "2"
            meta["pdfaid:conformance"] = "B"
        if standard.press is not None:
            meta.register_xml_namespace(_X_NAMESPACE, "pdfxid")
            meta["pdfxid:GTS_PDFXVersion"] = "PDF/X-4"
            meta["xmp:ModifyDate"] = meta["xmp:MetadataDate"] = stamp
            meta["xmpMM:DocumentID"] = f"uuid:{uuid.uuid5(uuid.NAMESPACE_URL, f'{about.title} {stamp}')}"
            meta["xmpMM:VersionID"] = "1"
            meta["xmpMM:RenditionClass"] = "default"
            meta["pdf:Trapped"] = "False"
    info = {"/Title": about.title, "/Producer": "Orvik", "/Author": about.author, "/Subject": about.subject}
    for name, words in info.items():
        if words:
            pdf.docinfo[name] = words
    if made is not None:
        pdf.docinfo["/CreationDate"] = made.strftime("D:%Y%m%d%H%M%SZ")
    if standard.press is not None and made is not None:
        pdf.docinfo["/ModDate"] = made.strftime("D:%Y%m%d%H%M%SZ")
        pdf.docinfo["/Trapped"] = Name("/False")
    _output_intent(pdf, standard)


def _whole(made: datetime) -> datetime:
    """A time in whole seconds of universal time, so that both notes of it say the same."""
    return made.astimezone(UTC).replace(microsecond=0)


def _output_intent(pdf: pikepdf.Pdf, standard: Standard) -> None:
    """What the colours of the document are meant for (ISO 32000-2, 14.11.5)."""
    if standard.press is not None:
        profile, kind, name, inks = standard.press.data, "/GTS_PDFX", standard.press.name, 4
    elif standard.archive:
        profile, kind, name, inks = screen_profile(), "/GTS_PDFA1", "sRGB IEC61966-2.1", 3
    else:
        return
    stream = pdf.make_stream(profile)
    stream.N = inks
    pdf.Root.OutputIntents = Array(
        [
            Dictionary(
                Type=Name.OutputIntent,
                S=Name(kind),
                OutputConditionIdentifier=String("Custom" if inks == 4 else name),
                Info=String(name),
                DestOutputProfile=stream,
            )
        ]
    )
