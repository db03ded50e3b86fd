-- A project is one GeoPackage (OGC 12-128r18). Tables of the standard first, then the project's own.
PRAGMA application_id = 0x47504B47;
PRAGMA user_version = 10301;

CREATE TABLE gpkg_spatial_ref_sys (
  srs_name TEXT NOT NULL,
  srs_id INTEGER NOT NULL PRIMARY KEY,
  organization TEXT NOT NULL,
  organization_coordsys_id INTEGER NOT NULL,
  definition TEXT NOT NULL,
  description TEXT,
  definition_12_063 TEXT NOT NULL DEFAULT 'undefined'
);

CREATE TABLE gpkg_contents (
  table_name TEXT NOT NULL PRIMARY KEY,
  data_type TEXT NOT NULL,
  identifier TEXT UNIQUE,
  description TEXT DEFAULT '',
  last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')),
  min_x DOUBLE,
  min_y DOUBLE,
  max_x DOUBLE,
  max_y DOUBLE,
  srs_id INTEGER,
  CONSTRAINT fk_gc_r_srs_id FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id)
);

CREATE TABLE gpkg_geometry_columns (
  table_name TEXT NOT NULL,
  column_name TEXT NOT NULL,
  geometry_type_name TEXT NOT NULL,
  srs_id INTEGER NOT NULL,
  z TINYINT NOT NULL,
  m TINYINT NOT NULL,
  CONSTRAINT pk_geom_cols PRIMARY KEY (table_name, column_name),
  CONSTRAINT uk_gc_table_name UNIQUE (table_name),
  CONSTRAINT fk_gc_tn FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name),
  CONSTRAINT fk_gc_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id)
);

CREATE TABLE gpkg_extensions (
  table_name TEXT,
  column_name TEXT,
  extension_name TEXT NOT NULL,
  definition TEXT NOT NULL,
  scope TEXT NOT NULL,
  CONSTRAINT ge_tce UNIQUE (table_name, column_name, extension_name)
);

-- One row: what the project is.
CREATE TABLE project (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL CHECK (id = 1),
  name TEXT NOT NULL,
  crs TEXT NOT NULL,
  publication_scale INTEGER NOT NULL,
  digitizing_scale INTEGER NOT NULL,
  rungs TEXT NOT NULL DEFAULT '',
  imprint TEXT NOT NULL DEFAULT ''
);

CREATE TABLE units (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  code TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  age TEXT NOT NULL DEFAULT '',
  colour TEXT NOT NULL,
  description TEXT NOT NULL DEFAULT '',
  position INTEGER NOT NULL,
  label TEXT NOT NULL DEFAULT '',
  rock TEXT NOT NULL DEFAULT '',
  age_from TEXT NOT NULL DEFAULT '',
  age_to TEXT NOT NULL DEFAULT '',
  rank TEXT NOT NULL DEFAULT '',
  parent TEXT NOT NULL DEFAULT '',
  heading TEXT NOT NULL DEFAULT '',
  pattern TEXT NOT NULL DEFAULT '',
  pattern_colour TEXT NOT NULL DEFAULT '',
  pattern_opacity REAL NOT NULL DEFAULT 1.0,
  colour_typed TEXT NOT NULL DEFAULT '',
  pattern_colour_typed TEXT NOT NULL DEFAULT ''
);

CREATE TABLE sources (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  file TEXT NOT NULL DEFAULT '',
  checksum TEXT NOT NULL DEFAULT '',
  crs TEXT NOT NULL DEFAULT '',
  transform TEXT NOT NULL DEFAULT '',
  fit TEXT NOT NULL DEFAULT '',
  relief TEXT NOT NULL DEFAULT '',
  multiply INTEGER NOT NULL DEFAULT 1,
  position INTEGER NOT NULL DEFAULT 0,
  grouping TEXT NOT NULL DEFAULT '',
  aside INTEGER NOT NULL DEFAULT 0,
  colour TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  look TEXT NOT NULL DEFAULT '',
  heights TEXT NOT NULL DEFAULT '',
  credit TEXT NOT NULL DEFAULT ''
);

-- Neighbouring sheets: where each lies, and what it shows along the border, as JSON.
CREATE TABLE neighbours (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL,
  sheet_number TEXT NOT NULL DEFAULT '',
  place TEXT NOT NULL,
  file TEXT NOT NULL DEFAULT '',
  read TEXT NOT NULL DEFAULT '',
  edge TEXT NOT NULL DEFAULT ''
);

CREATE TABLE lines (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  geom LINESTRING NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  stretches TEXT NOT NULL DEFAULT '',
  knots TEXT NOT NULL DEFAULT '',
  band TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT ''
);

CREATE TABLE areas (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  geom POLYGON NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT ''
);

CREATE TABLE points (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  geom POINT NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT ''
);

CREATE INDEX lines_by_kind ON lines (kind, id);
CREATE INDEX areas_by_kind ON areas (kind, id);
CREATE INDEX points_by_kind ON points (kind, id);
CREATE INDEX lines_by_unit ON lines (map_unit);
CREATE INDEX areas_by_unit ON areas (map_unit);
CREATE INDEX points_by_unit ON points (map_unit);

CREATE TABLE sheets (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  paper TEXT NOT NULL,
  width REAL NOT NULL,
  height REAL NOT NULL,
  layout TEXT NOT NULL DEFAULT '{}'
);

-- The templates that sheets follow, each as it was when its sheet took it up, as JSON.
CREATE TABLE followed_templates (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  sheet_id INTEGER NOT NULL UNIQUE REFERENCES sheets(id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  for_all INTEGER NOT NULL DEFAULT 0,
  template TEXT NOT NULL
);

CREATE TABLE parts (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  sheet_id INTEGER NOT NULL REFERENCES sheets(id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  x REAL NOT NULL,
  y REAL NOT NULL,
  width REAL NOT NULL,
  height REAL NOT NULL,
  position INTEGER NOT NULL,
  locked INTEGER NOT NULL DEFAULT 0,
  settings TEXT NOT NULL DEFAULT '{}',
  -- Which part of that template it was made as; 0 for none.
  made_as INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX parts_by_sheet ON parts (sheet_id, position);

-- Places and scales by name.
CREATE TABLE views (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  x REAL NOT NULL,
  y REAL NOT NULL,
  denominator INTEGER NOT NULL,
  position INTEGER NOT NULL,
  crs TEXT NOT NULL DEFAULT ''
);

-- What is asked of section lines: how they are drawn, and how far beside them readings speak. `line_id` is the line on
-- the map; a row outlives it, so that undo brings both back. Metres and degrees.
CREATE TABLE section_settings (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  line_id INTEGER NOT NULL UNIQUE,
  exaggeration REAL NOT NULL DEFAULT 1.0,
  base REAL,
  corridor REAL NOT NULL DEFAULT 250.0,
  axis_trend REAL,
  axis_plunge REAL
);

-- The sections as features: the lines of the map that they run along, with what is asked of them; null is as usual.
CREATE VIEW sections AS
  SELECT lines.id AS id, lines.geom AS geom, lines.note AS note, section_settings.exaggeration AS exaggeration,
    section_settings.base AS base, section_settings.corridor AS corridor,
    section_settings.axis_trend AS axis_trend, section_settings.axis_plunge AS axis_plunge
  FROM lines LEFT JOIN section_settings ON section_settings.line_id = lines.id
  WHERE lines.kind = 'section_line';

-- What is drawn on sections: metres along and up. `section_id` is the line of the map that a section runs along; the
-- ends of lines were put where lines of the map of these numbers cross it.
CREATE TABLE section_lines (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  section_id INTEGER NOT NULL,
  geom LINESTRING NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  stretches TEXT NOT NULL DEFAULT '',
  knots TEXT NOT NULL DEFAULT '',
  band TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT '',
  first_meets INTEGER,
  last_meets INTEGER
);

CREATE TABLE section_areas (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  section_id INTEGER NOT NULL,
  geom POLYGON NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT ''
);

CREATE TABLE section_points (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  section_id INTEGER NOT NULL,
  geom POINT NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL DEFAULT 'certain',
  questionable INTEGER NOT NULL DEFAULT 0,
  map_unit TEXT,
  azimuth REAL,
  inclination REAL,
  capture_scale INTEGER,
  source_id INTEGER REFERENCES sources(id),
  note TEXT NOT NULL DEFAULT '',
  fields TEXT NOT NULL DEFAULT ''
);

CREATE INDEX section_lines_by_section ON section_lines (section_id, id);
CREATE INDEX section_areas_by_section ON section_areas (section_id, id);
CREATE INDEX section_points_by_section ON section_points (section_id, id);

-- Kinds of one's own: a pen, its symbol, its fields.
CREATE TABLE kinds (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  label TEXT NOT NULL,
  family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')),
  symbol TEXT NOT NULL DEFAULT '{}',
  fields TEXT NOT NULL DEFAULT '[]',
  position INTEGER NOT NULL
);

-- The pens of the tray and their keys. Without any, the tray is the one that the symbol book comes with.
CREATE TABLE pens (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  kind TEXT NOT NULL,
  certainty TEXT NOT NULL,
  key TEXT NOT NULL DEFAULT '',
  position INTEGER NOT NULL
);

-- Looks that the project has drawn for itself, and by which symbols of the book they are worn; `body` is JSON.
CREATE TABLE symbols (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  family TEXT NOT NULL CHECK (family IN ('points', 'lines', 'patterns')),
  title TEXT NOT NULL,
  body TEXT NOT NULL,
  position INTEGER NOT NULL
);

-- What features of a kind look like on condition; the first that holds counts. `body` is JSON.
CREATE TABLE symbol_rules (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')),
  kind TEXT NOT NULL,
  body TEXT NOT NULL,
  position INTEGER NOT NULL
);

-- Ways of showing the map, with its ground held back; `body` is JSON.
CREATE TABLE emphases (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  body TEXT NOT NULL,
  position INTEGER NOT NULL
);

-- What the fields and values of other people's files mean here; `body` is JSON.
CREATE TABLE mappings (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  body TEXT NOT NULL
);

-- What hands have done to labels. `x` and `y` are millimetres from a point's place, else ground coordinates; `scope` is 0
-- for the publication scale, or the number of a panel. A move outlives its feature, so that undo brings both back.
CREATE TABLE label_moves (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')),
  feature INTEGER NOT NULL,
  number INTEGER NOT NULL DEFAULT 0,
  scope INTEGER NOT NULL DEFAULT 0,
  x REAL,
  y REAL,
  angle REAL,
  hidden INTEGER NOT NULL DEFAULT 0,
  UNIQUE (family, feature, number, scope)
);

-- What the labels of kinds say, where that is not as their symbols have it.
CREATE TABLE label_rules (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')),
  kind TEXT NOT NULL,
  pattern TEXT NOT NULL,
  size REAL NOT NULL,
  italic INTEGER NOT NULL DEFAULT 0,
  placing TEXT NOT NULL DEFAULT 'above',
  UNIQUE (family, kind)
);

-- The field notebook: stations to be ticked off. `point_id` is the feature that logs a station's reading.
CREATE TABLE stations (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL,
  x REAL NOT NULL,
  y REAL NOT NULL,
  kind TEXT NOT NULL DEFAULT 'bedding',
  azimuth REAL,
  inclination REAL,
  note TEXT NOT NULL DEFAULT '',
  point_id INTEGER
);

-- Lines begun and not finished, one for each window; they outlive a reload and a crash.
CREATE TABLE drafts (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  window_id TEXT NOT NULL UNIQUE,
  drawing TEXT NOT NULL
);

-- Every change. The id is the revision of the project after it. `changes` holds the rows before and after, as JSON; what
-- is no text in them, such as geometry, stands in `blobs` one after another, and in the JSON where it begins and how long
-- it is. `of` names the entry that an undo or redo turns on; a barrier is a change from outside.
CREATE TABLE journal (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  at TEXT NOT NULL,
  author TEXT NOT NULL DEFAULT '',
  kind TEXT NOT NULL CHECK (kind IN ('edit', 'undo', 'redo', 'barrier')),
  of INTEGER REFERENCES journal(id),
  label TEXT NOT NULL,
  changes TEXT NOT NULL,
  blobs BLOB NOT NULL DEFAULT x''
);

-- What undo asks of a long journal.
CREATE INDEX journal_turns ON journal (of, id) WHERE of IS NOT NULL;
CREATE INDEX journal_barriers ON journal (id) WHERE kind = 'barrier';

-- Pictures, drawings and fonts that sheets use. Settings name them by the checksum of what they hold, so that they
-- never change and are in no journal entry; they stay for what undoing may bring back.
CREATE TABLE files (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  checksum TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('picture', 'drawing', 'font', 'profile')),
  data BLOB NOT NULL
);

-- Sheets as they are laid out, to lay others out alike: the page and its parts, as JSON.
CREATE TABLE templates (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  name TEXT NOT NULL UNIQUE,
  sheet TEXT NOT NULL
);

-- Findings that somebody has let stand: by the key of the finding, with what it rested on, as JSON.
CREATE TABLE acceptances (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  key TEXT NOT NULL UNIQUE,
  state TEXT NOT NULL,
  message TEXT NOT NULL,
  reason TEXT NOT NULL,
  signed TEXT NOT NULL,
  dated TEXT NOT NULL
);

-- Margin notes that somebody has pinned to a sheet, or that say what was answered to a finding, by its key.
CREATE TABLE margin_notes (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  sheet_id INTEGER REFERENCES sheets(id) ON DELETE CASCADE,
  key TEXT NOT NULL DEFAULT '',
  message TEXT NOT NULL,
  author TEXT NOT NULL,
  made_at TEXT NOT NULL,
  given_to TEXT NOT NULL DEFAULT '',
  settled INTEGER NOT NULL DEFAULT 0 CHECK (settled IN (0, 1)),
  pinned_to TEXT NOT NULL DEFAULT '' CHECK (pinned_to IN ('', 'ground', 'part', 'page')),
  x REAL,
  y REAL,
  part INTEGER,
  origin TEXT NOT NULL DEFAULT ''
);

-- What was answered to a margin note; `origin` is the checksum of the annotation of a PDF that it was read from.
CREATE TABLE answers (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  note_id INTEGER NOT NULL REFERENCES margin_notes(id) ON DELETE CASCADE,
  author TEXT NOT NULL,
  made_at TEXT NOT NULL,
  text TEXT NOT NULL,
  origin TEXT NOT NULL DEFAULT ''
);

-- The proofs of sheets that were taken: what each told, as checksums of the keys of findings, JSON.
CREATE TABLE proofs (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  sheet_id INTEGER NOT NULL REFERENCES sheets(id) ON DELETE CASCADE,
  author TEXT NOT NULL,
  made_at TEXT NOT NULL,
  told TEXT NOT NULL
);

-- Rules of the checks that this project has set to rest.
CREATE TABLE turned_off_rules (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  rule TEXT NOT NULL UNIQUE
);

-- Which form of the file this is: the highest number counts, and each tells when the file took it.
CREATE TABLE forms (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now'))
);

-- One row: a random word, another one each time that the log has moved into the file. By it a file is told from a
-- copy of it that has gone on elsewhere.
CREATE TABLE rests (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL CHECK (id = 1),
  token TEXT NOT NULL
);

-- How the stack stands: what is seen, locked and how strong. A way of looking, so not in the journal.
CREATE TABLE stack (
  id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
  layer TEXT NOT NULL UNIQUE,
  shown INTEGER NOT NULL DEFAULT 1,
  locked INTEGER NOT NULL DEFAULT 0,
  opacity REAL NOT NULL DEFAULT 1.0
);
