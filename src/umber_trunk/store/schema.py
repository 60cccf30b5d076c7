"""The tables of a harness file and of a shop’s file, at every version there was."""

from __future__ import annotations

SCHEMA_VERSION = 6


FLOOR_4 = {
    "log": "CREATE TABLE log (n INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, build TEXT NOT NULL, made INTEGER NOT "
    "NULL, body TEXT NOT NULL)",
    "coil": "CREATE TABLE coil (id TEXT PRIMARY KEY, body TEXT NOT NULL)",
    "booking": "CREATE TABLE booking (id TEXT PRIMARY KEY, coil TEXT NOT NULL, tenths INTEGER NOT NULL, what TEXT NOT "
    "NULL)",
}
FLOOR_5 = FLOOR_4 | {
    "log": "CREATE TABLE log (n INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, build TEXT NOT NULL, made INTEGER NOT "
    "NULL, body TEXT NOT NULL, seal TEXT NOT NULL, unit INTEGER NOT NULL, UNIQUE (build, unit, n))",
    "mark": "CREATE TABLE mark (word TEXT NOT NULL, build TEXT NOT NULL, unit INTEGER NOT NULL, PRIMARY KEY (word, "
    "build, unit)) WITHOUT ROWID",
}
FLOOR = FLOOR_5 | {"input": "CREATE TABLE input (digest TEXT PRIMARY KEY, body BLOB NOT NULL)"}
"""What happens on the floor: the sealed log of builds, the words units are found by, what builds and proofs were frozen
with, coils and what was cut from them; only ever added to."""
SHOP = {
    "item": "CREATE TABLE item (kind TEXT NOT NULL, id TEXT NOT NULL, body TEXT NOT NULL, seal TEXT NOT NULL, PRIMARY "
    "KEY (kind, id))",
    "act": "CREATE TABLE act (n INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, made INTEGER NOT NULL, who TEXT NOT "
    "NULL, body TEXT NOT NULL, seal TEXT NOT NULL)",
}
"""What a shop's file has beside coils and bookings: its lists row by row, and every change of them, sealed in a
chain."""
TABLES = {
    1: {"revision": "CREATE TABLE revision (seq INTEGER PRIMARY KEY, label TEXT NOT NULL, design TEXT NOT NULL)"},
    2: {
        "revision": "CREATE TABLE revision (seq INTEGER PRIMARY KEY, label TEXT NOT NULL, design TEXT NOT NULL)",
        "state": "CREATE TABLE state (name TEXT PRIMARY KEY, value TEXT NOT NULL)",
    },
    3: {
        "revision": "CREATE TABLE revision (seq INTEGER PRIMARY KEY, parent INTEGER, base INTEGER, made INTEGER NOT "
        "NULL, "
        "label TEXT NOT NULL, body BLOB NOT NULL, seal BLOB NOT NULL)",
        "frozen": "CREATE TABLE frozen (seq INTEGER PRIMARY KEY, name TEXT NOT NULL, made INTEGER NOT NULL)",
        "state": "CREATE TABLE state (name TEXT PRIMARY KEY, value TEXT NOT NULL)",
    },
}
TABLES[4] = TABLES[3] | FLOOR_4
TABLES[5] = TABLES[3] | FLOOR_5
TABLES[6] = TABLES[3] | FLOOR
"""Schema version → its tables, each by the very statement that makes it."""
