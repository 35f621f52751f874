"""Project files: archive and plain JSON, blob store, atomic saving, migration, demos."""
