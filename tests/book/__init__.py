"""The book: what the core says and plans in many situations, written out as people would read it.

Each page is a generator of lines; ``tests/data/book`` holds what was read and found right.
"""
