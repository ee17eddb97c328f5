"""Two factors at once: rates of one along the other, so that lines that are not parallel show."""

from __future__ import annotations

from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.figures import svg
from orderly_bench.figures.curves import DASHES
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 300.0, 70.0, 640.0, 16.0, 256.0


def figure(arms: list[ArmResult], factors: tuple[str, str], palette: Palette = PAGE) -> str:
    """The figure as svg markup; the first factor along the axis, a line for each level of the second."""
    along = list(dict.fromkeys(arm.levels[factors[0]] for arm in arms))
    lines = list(dict.fromkeys(arm.levels[factors[1]] for arm in arms))
    width = (RIGHT - LEFT) / max(1, len(along))

    def y(share: float) -> float:
        return BOTTOM - share * (BOTTOM - TOP)

    body = svg.percent_axis(LEFT, RIGHT, TOP, BOTTOM, palette)
    for i, level in enumerate(along):
        body += svg.text(LEFT + width * (i + 0.5), BOTTOM + 20, level, fill=palette.ink, anchor="middle", size=14)
    for j, line in enumerate(lines):
        points = [
            (LEFT + width * (along.index(a.levels[factors[0]]) + 0.5) + 8 * (j - (len(lines) - 1) / 2), y(a.rate), a)
            for a in arms
            if a.levels[factors[1]] == line and a.rate is not None
        ]
        points.sort(key=lambda pair: pair[0])
        path = "M" + "L".join(f"{px:.1f} {py:.1f}" for px, py, _ in points)
        dash = DASHES[j % len(DASHES)]
        body += (
            f'<path d="{path}" fill="none" stroke="{palette.ink}" stroke-width="2.5"'
            + (f' stroke-dasharray="{dash}"' if dash else "")
            + "/>"
        )
        for px, py, a in points:
            if a.interval:
                body += svg.line(px, y(a.interval.low), px, y(a.interval.high), palette.ink, 1.5)
            body += f'<circle cx="{px:.1f}" cy="{py:.1f}" r="5.5" fill="{palette.ink}"/>'
        at = 30 + 26 * j
        body += (
            f'<path d="M{RIGHT + 30} {at}H{RIGHT + 80}" stroke="{palette.ink}" stroke-width="2.5"'
            + (f' stroke-dasharray="{dash}"' if dash else "")
            + "/>"
        )
        body += svg.text(RIGHT + 90, at + 5, line, fill=palette.ink, size=14)
    return svg.drawing(
        WIDTH, HEIGHT, _("Rates of {factors} by {factors2}", factors=factors[0], factors2=factors[1]), body
    )
