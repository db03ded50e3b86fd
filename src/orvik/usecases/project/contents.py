"""What is in a project, counted."""

from __future__ import annotations

from collections import Counter
from typing import Any

from orvik.core.features.kind import kind_words
from orvik.core.features.table import TABLES
from orvik.core.ground.scale import spaced
from orvik.core.pictures.source import IMPORTED
from orvik.store.reader import Reader
from orvik.usecases.structure.sections import letter_of, section_lines


def contents(project: Reader) -> dict[str, Any]:
    """What a project holds, for programs to read: its ground, features by kind, units, sheets and underlays."""
    scales, border = project.scales, project.border()
    features = {}
    used: Counter[str] = Counter()
    for table in TABLES:
        held = project.features(table)
        columns = held.columns if len(held) else {"kind": [], "map_unit": []}
        kinds = Counter(columns["kind"])
        features[table] = {"count": project.count(table), "kinds": dict(sorted(kinds.items()))}
        used.update(code for code in columns["map_unit"] if code)
    return {
        "name": project.name,
        "crs": project.crs.text,
        "publication_scale": scales.publication,
        "digitizing_scale": scales.digitizing,
        "border": list(border.bounds) if border is not None else None,
        "extent": list(extent) if (extent := project.extent()) is not None else None,
        "saved_at": project.saved_at,
        "features": features,
        "units": [
            {"code": unit.code, "name": unit.name, "age": unit.printed_age, "features": used[unit.code]}
            for _, unit in project.units()
        ],
        "sections": [
            {"letter": letter_of(line), "drawn": sum(len(f) for f in project.drawn_features(line.number).values())}
            for line in section_lines(project)
        ],
        "sheets": [{"name": s.name, "width_mm": s.width, "height_mm": s.height} for s in project.sheets()],
        "underlays": [{"name": s.name, "kind": s.kind} for s in project.sources() if s.kind != IMPORTED],
        "sources": [s.name for s in project.sources() if s.kind == IMPORTED],
        "views": [view.name for view in project.views()],
        "mappings": [row["name"] for row in project.mappings()],
    }


def contents_words(held: dict[str, Any]) -> list[str]:
    """The same in lines, for people."""
    lines = [
        f"{held['name']}, {held['crs']}",
        f"Published at 1:{spaced(held['publication_scale'])}, digitized at 1:{spaced(held['digitizing_scale'])}",
    ]
    box = held["border"] or held["extent"]
    if box:
        west, south, east, north = box
        what = "Border" if held["border"] else "No border; features"
        lines.append(f"{what}: {spaced(west)} to {spaced(east)} E, {spaced(south)} to {spaced(north)} N")
    for table, said in held["features"].items():
        kinds = ", ".join(f"{kind_words(kind)} {spaced(count)}" for kind, count in said["kinds"].items())
        lines.append(f"{table.capitalize()}: {spaced(said['count'])}{f' ({kinds})' if kinds else ''}")
    units = held["units"]
    unused = [unit["code"] for unit in units if not unit["features"]]
    beside = f"; not on the map: {', '.join(unused)}" if unused else ""
    lines.append(f"Map units: {len(units)}{beside}")
    if held["sections"]:
        told = [(one["letter"], spaced(one["drawn"])) for one in held["sections"]]
        listed = ", ".join(f"{letter}–{letter}′ ({drawn} drawn)" for letter, drawn in told)
        lines.append(f"Sections: {listed}")
    for what, called in (("sheets", "Sheets"), ("underlays", "Underlays")):
        if held[what]:
            lines.append(f"{called}: {', '.join(one['name'] for one in held[what])}")
    if held["mappings"]:
        lines.append(f"Mappings: {', '.join(held['mappings'])}")
    return lines
