"""Would it be seen? The chance to find the difference over cuttings per arm, with its Monte Carlo band."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 470.0, 250.0, 46.0, 440.0, 14.0, 196.0
#: Two standard errors make the band.
BAND = 2.0
Scale = Callable[[float], float]


@dataclass(frozen=True)
class Found:
    """One size: cuttings per arm, share found, standard error of it."""

    per_arm: int
    share: float
    error: float


def figure(
    great: Sequence[Found],
    least: Sequence[Found],
    chosen: int,
    runs_out: tuple[int, str] | None,
    palette: Palette = PAGE,
) -> str:
    """The figure as svg markup.

    Parameters
    ----------
    great, least : sequence of Found
        For the greatest and the least difference guessed; ``least`` empty where they are one.
    chosen : int
        Cuttings per arm planned: the yellow line.
    runs_out : tuple of int and str, optional
        Cuttings per arm beyond which something runs out, and what: the hatched stretch.
    """
    sizes = [one.per_arm for one in great]
    low, high = min(sizes), max(*sizes, low_plus(sizes))

    def x(per_arm: float) -> float:
        return LEFT + (per_arm - low) / (high - low) * (RIGHT - LEFT)

    def y(share: float) -> float:
        return BOTTOM - min(1.0, max(0.0, share)) * (BOTTOM - TOP)

    body = (
        '<defs><pattern id="runs-out" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
    )
    body += f'<path d="M0 0V7" stroke="{palette.mid}" stroke-width="1.4" opacity=".55"/></pattern></defs>'
    for share in (0, 50, 80, 100):
        body += svg.line(LEFT, y(share / 100), RIGHT, y(share / 100), palette.line)
        body += svg.text(LEFT - 7, y(share / 100) + 4, str(share), fill=palette.mid, anchor="end", size=12)
    if runs_out is not None and runs_out[0] < high:
        start = x(max(low, runs_out[0]))
        body += f'<rect x="{start:.1f}" y="{TOP}" width="{RIGHT - start:.1f}" height="{BOTTOM - TOP}" fill="url(#runs-out)"/>'
    body += _curve(great, "", x, y, palette) + _curve(least, "5 4", x, y, palette)
    if runs_out is not None and runs_out[0] < high:
        body += svg.text(
            RIGHT - 4, BOTTOM - 8, runs_out[1], fill=palette.ink, anchor="end", size=12, halo=palette.ground
        )
    body += f'<path d="M{x(chosen):.1f} {TOP}V{BOTTOM}" stroke="var(--color-flag)" stroke-width="3"/>'
    here = next((p for p in great if p.per_arm == chosen), None)
    if here is not None:
        body += f'<circle cx="{x(chosen):.1f}" cy="{y(here.share):.1f}" r="5.5" fill="{palette.ink}"/>'
    for size in _labelled(sizes, chosen):
        body += svg.text(
            x(size),
            BOTTOM + 17,
            str(size),
            fill=palette.mid,
            anchor="middle",
            size=12,
            weight=600 if size == chosen else 400,
        )
    body += svg.text(RIGHT, BOTTOM + 34, _("stuck per arm in a wave"), fill=palette.mid, anchor="end", size=12)
    if least:
        body += svg.text(LEFT, BOTTOM + 34, _("line: greatest difference; dashed: least"), fill=palette.mid, size=12)
    said = (
        _("found in {share:.0f} of 100 trials at {chosen} per arm", share=100 * here.share, chosen=chosen)
        if here
        else _("no point at the number planned")
    )
    return svg.drawing(WIDTH, HEIGHT, _("Chance to find the difference by cuttings per arm; {said}", said=said), body)


def _curve(points: Sequence[Found], dash: str, x: Scale, y: Scale, palette: Palette) -> str:
    """A line with its band; nothing without points."""
    if not points:
        return ""
    upper = [f"{x(p.per_arm):.1f} {y(p.share + BAND * p.error):.1f}" for p in points]
    lower = [f"{x(p.per_arm):.1f} {y(p.share - BAND * p.error):.1f}" for p in points]
    around = "L".join([*upper, *reversed(lower)])
    path = "L".join(f"{x(p.per_arm):.1f} {y(p.share):.1f}" for p in points)
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    return (
        f'<path d="M{around}Z" fill="{palette.band}" stroke="none"/>'
        f'<path d="M{path}" fill="none" stroke="{palette.ink}" stroke-width="2.2"{dashed}/>'
    )


def low_plus(sizes: Sequence[int]) -> int:
    """An axis has some length even for one size."""
    return min(sizes) + 1


def _labelled(sizes: Sequence[int], chosen: int) -> list[int]:
    """Sizes that have room for a label, the chosen one always."""
    span = max(1, max(sizes) - min(sizes))
    kept = [chosen] if chosen in sizes else []
    for size in sizes:
        if all(abs(size - other) / span > 0.075 for other in kept):
            kept.append(size)
    return sorted(kept)
