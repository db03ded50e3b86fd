"""Project files: one GeoPackage each, with a journal of every change. Plain SQL, no rule of the job."""
