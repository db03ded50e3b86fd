"""Names of columns in tables that know no longer ones."""

# Names of at most ten letters, for the tables of shapefiles (dBASE III), by our own.
SHORT = {
    "questionable": "question",
    "inclination": "inclin",
    "capture_scale": "capt_scale",
    "band_width_m": "band_m",
    "band_width_mm": "band_mm",
    "band_cut_by": "band_cut",
    "unit_colour": "unit_col",
    "unit_colour_typed": "col_typed",
    "unit_pattern_colour_typed": "patt_typed",
    "unit_position": "unit_pos",
    "unit_age_from": "age_from",
    "unit_age_to": "age_to",
    "unit_parent": "unit_part",
    "unit_heading": "unit_head",
    "unit_pattern": "unit_patt",
    "unit_pattern_colour": "patt_col",
    "unit_pattern_opacity": "patt_opac",
}
# Short names that files of ours have had before, with the names they stand for.
FORMER_SHORT = {"patt_str": "unit_pattern_opacity"}
