"""All checks of a sheet."""

from __future__ import annotations

from datetime import date

from orvik.core.findings.finding import Finding
from orvik.core.findings.page import essentials, explained, labels, lettering, pictures, placing
from orvik.core.findings.page.sheet_ground import SheetGround


def sheet_findings(ground: SheetGround, today: date) -> list[Finding]:
    """What there is to say of a sheet, rule by rule."""
    return [
        *explained.explained(ground),
        *placing.off_page(ground),
        *placing.hidden(ground),
        *placing.run_together(ground),
        *lettering.cut(ground),
        *placing.empty(ground),
        *placing.unshown(ground),
        *placing.figures_off(ground),
        *pictures.rough(ground),
        *pictures.scales(ground),
        *pictures.land_too_large(ground),
        *lettering.boxes(ground),
        *lettering.small(ground),
        *lettering.faint(ground),
        *lettering.thin(ground),
        *labels.without_room(ground.page.panels, ground.labels),
        *essentials.missing(ground, today),
    ]
