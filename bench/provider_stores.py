#!/usr/bin/python3
"""The index of who defines what, as the mapped file that Fibula keeps, beside the same pairs in SQLite.

usage: provider_stores.py PROVIDER_INDEX FOLDER...
"""
import os
import random
import sqlite3
import subprocess
import sys
import tempfile
import time

with tempfile.TemporaryDirectory() as folder:
    pairs = os.path.join(folder, "pairs")
    environment = dict(os.environ, XDG_CACHE_HOME=folder)
    print(subprocess.run([sys.argv[1], pairs, *sys.argv[2:]], env=environment, capture_output=True, text=True, check=True).stdout.strip())
    kept = os.path.join(folder, "fibula", "providers")
    print(f"mapped files: {sum(os.path.getsize(os.path.join(kept, name)) for name in os.listdir(kept)) / 1e6:.0f} MB")
    rows = [tuple(map(int, line.split())) for line in open(pairs)]
    path = os.path.join(folder, "store.sqlite")
    start = time.perf_counter()
    store = sqlite3.connect(path)
    store.execute("pragma journal_mode=off")
    store.execute("create table names (digest integer, file integer, primary key (digest, file)) without rowid")
    store.executemany("insert or ignore into names values (?, ?)", sorted(rows))
    store.commit()
    built = time.perf_counter() - start
    store.close()
    store = sqlite3.connect(path)
    asked = random.Random(1).sample(rows, 1000)
    start = time.perf_counter()
    for digest, _ in asked:
        store.execute("select file from names where digest = ?", (digest,)).fetchall()
    looked = time.perf_counter() - start
    print(f"SQLite: {os.path.getsize(path) / 1e6:.0f} MB, filled in {built * 1000:.0f} ms (reading the libraries not counted), a lookup {looked * 1000:.1f} us")
