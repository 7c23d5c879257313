"""SQLite through ``sqlite3`` and plain SQL. Rows never leave this package: functions return dataclasses."""
