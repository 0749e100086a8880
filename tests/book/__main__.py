"""Prints a digest of each page, for processes to be compared."""

from __future__ import annotations

import hashlib

from tests.book.pages import PAGES

for name, page in PAGES.items():
    print(name, hashlib.sha256("\n".join(page()).encode()).hexdigest())
