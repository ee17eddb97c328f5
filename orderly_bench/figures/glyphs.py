"""The cutting glyph: above the soil line its top, below it what is known of its roots.

Shape first, colour second. Drawn in a 32 x 46 box; the same at 12 px on the map and 60 px in the pad.
"""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.vocabulary import FailureSign, Roots, Score, State, Top

MANY_ROOTS = 5
#: Their strokes stand in the styles: a score brings some of them with every answer.
STEM, ROOT = 'class="a-stem"', 'class="a-root"'
OPEN_LEAF = 'fill="none" stroke="var(--color-leaf)" stroke-width="1.8"'
SOIL = '<path d="M2 25H30" stroke="var(--color-line)" stroke-width="1.6"/>'
PAIR = (
    f'<path d="M16 24V8" {STEM}/>'
    '<path d="M16 15C10 15 6 11 5 6C11 6 15 9 16 15Z" fill="var(--color-leaf)"/>'
    '<path d="M16 12C22 12 26 8 27 3C21 3 17 6 16 12Z" fill="var(--color-leaf)"/>'
)
TOPS = {
    "fresh": PAIR,
    "growing": PAIR + '<path d="M16 9C12.6 6.5 12.6 3 16 0C19.4 3 19.4 6.5 16 9Z" fill="var(--color-leaf)"/>'
    '<path d="M16 20C12 20 9.5 18.5 8.5 16.5C12 15.5 15 17 16 20Z" fill="var(--color-leaf)"/>',
    "flower": PAIR
    + '<circle cx="16" cy="4.5" r="4" fill="var(--color-paper)" stroke="var(--color-ink)" stroke-width="2"/><circle cx="16" cy="4.5" r="1.2" fill="var(--color-ink)"/>',
    "wilting": f'<path d="M16 24V14C16 8 20 6 23 9" {STEM}/>'
    f'<path d="M16 14C11 13 7 16 6 22C11 21 15 19 16 14Z" {OPEN_LEAF}/><path d="M23 9C26 11 27 15 25 20C22 17 21 13 23 9Z" {OPEN_LEAF}/>',
    "dried": '<path d="M16 24V17" stroke="var(--color-ink)" stroke-width="2.2"/>'
    '<path d="M16 16L14.5 12L17 8.5L15 4" stroke="var(--color-dry)" stroke-width="2" fill="none" stroke-dasharray="3 2"/>',
    "gone": f'<path d="M16 24V20" {STEM}/><path d="M12 19H20" stroke="var(--color-mid)" stroke-width="1.8"/>',
    "unseen": f'<path d="M16 24V8" {STEM} stroke-dasharray="2 3"/>',
    "missing": '<path d="M11 12L21 20M21 12L11 20" stroke="var(--color-mid)" stroke-width="2.2"/>',
    "out": '<path d="M16 22V9M11 14L16 9L21 14" stroke="var(--color-mid)" stroke-width="2" fill="none"/>',
}
FEW = f'<path d="M16 25V31" {STEM}/><path d="M16 30C13 32 10 33 8 37M16 31C16 35 17 38 15.5 42M16 30C19 32 22 33 24 37" {ROOT}/>'
BELOW = {
    "not looked": '<g stroke="var(--color-line)" stroke-width="1.3"><path d="M8 40L20 28M12 42L24 30M8 35L15 28M17 42L24 35"/></g>',
    "none": f'<path d="M16 25V33" {STEM}/>',
    "callus": f'<path d="M16 25V31" {STEM}/><ellipse cx="16" cy="32.5" rx="4.6" ry="3.2" fill="var(--color-root)"/>',
    "few": FEW,
    "many": FEW
    + f'<path d="M16 28C11 29 7 29 4 32M16 28C21 29 25 29 28 32M16 31C13 35 12 38 10.5 41M16 31C19 35 20 38 21.5 41" {ROOT}/>',
    "seen": f'<path d="M16 25V31" {STEM}/><path d="M16 30C13 33 12 37 12 41M16 30C19 33 20 37 20 41" {ROOT}/>',
    "rot": '<path d="M11.5 19C13 18 19 18 20.5 19L19 35C18 37 14 37 13 35Z" fill="var(--color-rot)" stroke="var(--color-rot-edge)" stroke-width="1"/>',
    "nothing": "",
}
OUT_STATES = (State.TAKEN_OUT_OTHER, State.SAMPLED, State.POTTED_OUT, State.GIVEN_AWAY)


@dataclass(frozen=True)
class Look:
    """Which top and which below-ground part to draw, and whether it is dead."""

    top: str
    below: str
    dead: bool = False


UNSCORED = Look("unseen", "nothing")


def look_of(score: Score) -> Look:
    """How a score is drawn. Missing has its own mark, not that of a top that is gone."""
    if score.state is State.MISSING:
        return Look("missing", "nothing")
    below = _below(score)
    if score.state in OUT_STATES:
        return Look("out", below)
    dead = score.state in (State.DEAD, State.TAKEN_OUT_DEAD)
    if dead and score.top is None:
        return Look("dried", below, True)
    return Look(score.top.value if score.top else "unseen", below, dead)


def _below(score: Score) -> str:
    if score.failure is FailureSign.BLACK_BASE:
        return "rot"
    if score.roots is Roots.COUNTED:
        return "many" if (score.root_number or 0) >= MANY_ROOTS else "few"
    if score.roots is Roots.SEEN:
        return "seen"
    if score.roots is Roots.NOT_LOOKED:
        return "not looked"
    return "callus" if score.callus else "none"


def parts(look: Look) -> str:
    """The drawing without its svg element, for the bench map."""
    strike = '<path d="M4 44L28 2" stroke="var(--color-mid)" stroke-width="1.6"/>' if look.dead else ""

    return TOPS[look.top] + SOIL + BELOW[look.below] + strike


def glyph(look: Look, size: float, label: str = "") -> str:
    """A glyph of ``size`` px width; decorative unless it carries a label."""
    named = f'role="img" aria-label="{label}"' if label else 'aria-hidden="true"'
    return f'<svg class="glyph" width="{size:g}" height="{size * 46 / 32:.1f}" viewBox="0 0 32 46" {named}>{parts(look)}</svg>'


def top_only(top: Top) -> Look:
    """A button's picture for a top."""
    return Look(top.value, "nothing")
