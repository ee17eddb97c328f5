"""The trial run many times before it is stuck once: what it would find, and how often it would mislead.

Lies above ``design`` and ``compare``: trials are laid out by the one and judged by the other, with no rule of its own for either.
"""
