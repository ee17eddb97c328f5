"""Arms are stakes: a letter, a head pattern and a colour, told apart without colour."""

from __future__ import annotations

from string import ascii_uppercase

FILLS = ("#1d4f86", "#b3541e", "#5b6a12", "#7b3f78", "#14736c", "#4c5a61")
BODIES = (
    "M2 2H20V26L11 34L2 26Z",
    "M2 2H8L11 6L14 2H20V26L11 34L2 26Z",
    "M2 2H20V26L11 34L2 26Z",
    "M2 2H20V26L11 34L2 26Z",
    "M7 2H15L20 7V26L11 34L2 26V7Z",
    "M2 2H5L7 5.5L9 2H13L15 5.5L17 2H20V26L11 34L2 26Z",
)
MARKS = {
    2: '<path d="M2 6.5H20" stroke="#fff" stroke-width="2"/>',
    3: '<circle cx="6.5" cy="6" r="1.6" fill="#fff"/><circle cx="11" cy="6" r="1.6" fill="#fff"/><circle cx="15.5" cy="6" r="1.6" fill="#fff"/>',
}


def fill_of(letter: str) -> str:
    """Colour of a stake; after six arms the colours shift against the patterns."""
    i = ascii_uppercase.index(letter[0])
    return FILLS[(i + i // len(FILLS)) % len(FILLS)]


def line_colour(letter: str, on_page: bool) -> str:
    """Colour for lines of an arm: follows the theme on a page, fixed in a file."""
    i = ascii_uppercase.index(letter[0])
    return f"var(--color-arm-{(i + i // len(FILLS)) % len(FILLS)})" if on_page else fill_of(letter)


def inside(letter: str) -> str:
    """The drawing of a stake in a 22 x 36 box, without its svg element."""
    i = ascii_uppercase.index(letter[0])
    pattern = i % len(BODIES)
    return (
        f'<path d="{BODIES[pattern]}" fill="{fill_of(letter)}" class="stake-edge"/>{MARKS.get(pattern, "")}'
        f'<text x="11" y="23" font-family="Atkinson" font-weight="600" font-size="15" fill="#fff" text-anchor="middle">{letter[0]}</text>'
    )


def stake(letter: str, size: float) -> str:
    """A stake of ``size`` px width as an svg element."""
    return (
        f'<svg class="stake" width="{size:g}" height="{size * 36 / 22:.1f}" viewBox="0 0 22 36" role="img" '
        f'aria-label="arm {letter[0]}">{inside(letter)}</svg>'
    )
