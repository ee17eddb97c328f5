"""The database: engine, types, naming convention, migrations."""
