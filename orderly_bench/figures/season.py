"""The days of a trial as one strip: checks with their windows, care, what happened, air against its band, light, and today."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from html import escape

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.care import CareState
from orderly_bench.figures import stakes, svg
from orderly_bench.figures.svg import PAGE, Palette

WIDTH, LEFT, RIGHT, ROW = 950.0, 124.0, 925.0, 27.0
#: Heights of the air and of the light, px.
AIR, LIGHT = 84.0, 78.0
#: Signs of a row's name that there is room for.
LONGEST_NAME = 17
FAR = "var(--color-dry)"


@dataclass(frozen=True)
class Span:
    """Something with a first and a last day: a check's window, an incident; ``at`` is the day that counts, ``filled`` when it is done."""

    first: date
    last: date
    words: str
    at: date | None = None
    filled: bool = False


@dataclass(frozen=True)
class Line:
    """A line of light: a name, the letter of its arm where it is one's, and its value by day."""

    name: str
    letter: str
    values: Sequence[tuple[date, float]]


@dataclass(frozen=True)
class Season:
    """Everything drawn; ``air`` is the lowest and highest of each day read, in °C."""

    first: date
    last: date
    today: date
    checks: Sequence[Span] = ()
    care: Sequence[tuple[str, Sequence[tuple[date, CareState]]]] = ()
    happened: Sequence[Span] = ()
    air: Sequence[tuple[date, float, float]] = ()
    band: tuple[float, float] = (0.0, 0.0)
    light: Sequence[Line] = field(default=())
    #: of each arm by its letter, or of all under a blank one, the stretches of one state of cover
    cover: Sequence[tuple[str, Sequence[Span]]] = ()

    @property
    def days(self) -> int:
        """From the first to the last."""
        return max(1, (self.last - self.first).days)


class _Strip:
    """The drawing, row after row."""

    def __init__(self, season: Season, palette: Palette) -> None:
        self.season, self.palette, self.y, self.body = season, palette, 52.0, ""

    def x(self, day: date) -> float:
        """Of a day."""
        return LEFT + (day - self.season.first).days / self.season.days * (RIGHT - LEFT)

    @property
    def day_width(self) -> float:
        """Of one day."""
        return (RIGHT - LEFT) / self.season.days

    def name(self, words: str, more: str = "") -> None:
        """Of a row."""
        short = words if len(words) <= LONGEST_NAME else words[: LONGEST_NAME - 1].rstrip() + "…"
        self.body += svg.text(0, self.y + 5, short, size=13, fill=self.palette.ink)
        if more:
            self.body += svg.text(0, self.y + 21, more, size=12, fill=self.palette.mid)

    def ruler(self) -> None:
        """Dates above, days after sticking below."""
        week = 7 * max(1, -(-self.season.days // 70))
        for number in range(self.season.days + 1):
            day = self.season.first + timedelta(days=number)
            tall = number % week == 0
            if self.season.days <= 140 or tall:
                self.body += svg.line(self.x(day), 23, self.x(day), 31 if tall else 26, self.palette.mid)
            if tall:
                self.body += svg.text(
                    self.x(day), 16, dated(day, "%-d %b"), size=12.5, fill=self.palette.ink, anchor="middle"
                )
                self.body += svg.text(self.x(day), 44, str(number), size=12, fill=self.palette.mid, anchor="middle")
        self.y = 66

    def checks(self) -> None:
        """Each with its window behind it."""
        self.name(_("Checks"))
        for one in self.season.checks:
            at, width = self.x(one.at or one.first), self.x(one.last) - self.x(one.first)
            fill = self.palette.ink if one.filled else self.palette.ground
            self.body += (
                f"<g><title>{escape(one.words)}</title>"
                f'<rect x="{self.x(one.first):.1f}" y="{self.y - 9:.1f}" width="{max(2, width):.1f}" height="18" fill="{self.palette.band}"/>'
                f'<rect x="{at - 4:.1f}" y="{self.y - 11:.1f}" width="8" height="22" fill="{fill}" stroke="{self.palette.ink}" stroke-width="2"/></g>'
            )
        self.y += ROW

    def care(self) -> None:
        """A row a kind of care: filled where done, a ring in another colour where missed, a faint one where it is to come."""
        radius = min(4.5, max(2.0, self.day_width * 0.9))
        for title, days in self.season.care:
            self.name(title)
            for day, state in days:
                told = f"{title}, {dated(day, '%-d %b')}: {_(state.value)}"
                self.body += f"<g><title>{escape(told)}</title>{self._care_mark(self.x(day), radius, state)}</g>"
            self.y += ROW

    def _care_mark(self, x: float, radius: float, state: CareState) -> str:
        if state is CareState.DONE:
            return f'<circle cx="{x:.1f}" cy="{self.y:.1f}" r="{radius:.1f}" fill="{self.palette.ink}"/>'
        if state is CareState.SKIPPED:
            return svg.line(x - radius, self.y, x + radius, self.y, self.palette.mid, 2)
        missed = state is CareState.MISSED
        colour, wide = (FAR, 2.0) if missed else (self.palette.line, 1.5)
        return f'<circle cx="{x:.1f}" cy="{self.y:.1f}" r="{radius:.1f}" fill="none" stroke="{colour}" stroke-width="{wide}"/>'

    def cover(self) -> None:
        """A bar for each arm, or one for all, parted where the cover changed, with its state where there is room."""
        for n, (letter, stretches) in enumerate(self.season.cover):
            self.name(_("Cover") if n == 0 else "")
            if letter:
                self.body += f'<g transform="translate({LEFT - 26:.1f} {self.y - 11:.1f}) scale(0.7)">{stakes.inside(letter)}</g>'
            for one in stretches:
                x, width = self.x(one.first), max(2.0, self.x(one.last) - self.x(one.first) + self.day_width * 0.9)
                told = f"{letter} {one.words}, {dated(one.first, '%-d %b')} - {dated(one.last, '%-d %b')}".strip()
                self.body += (
                    f'<g><title>{escape(told)}</title><rect x="{x:.1f}" y="{self.y - 9:.1f}" width="{width:.1f}" height="18" '
                    f'fill="{self.palette.band}" stroke="{self.palette.mid}"/>'
                )
                if width > 7 * len(one.words) + 8:
                    self.body += svg.text(x + 5, self.y + 4, one.words, size=12, fill=self.palette.ink)
                self.body += "</g>"
            self.y += ROW

    def happened(self) -> None:
        """Incidents as bars, with their words where there is room."""
        if not self.season.happened:
            return
        self.name(_("Happened"))
        for one in self.season.happened:
            width = max(3.0, self.x(one.last) - self.x(one.first) + self.day_width * 0.6)
            right = self.x(one.first) + width
            self.body += (
                f'<g><title>{escape(one.words)}</title><rect x="{self.x(one.first):.1f}" y="{self.y - 8:.1f}" width="{width:.1f}" height="16" '
                f'fill="{FAR}"/>'
            )
            room = int((WIDTH - right) / 7)
            words = one.words if len(one.words) <= room else one.words[: max(0, room - 1)] + "…" if room > 8 else ""
            self.body += svg.text(right + 6, self.y + 5, words, size=12.5, fill=FAR, halo=self.palette.ground) + "</g>"
            self.y += ROW

    def air(self) -> None:
        """A bar a day from the lowest to the highest read, before the band."""
        if not self.season.air:
            return
        self.y += 14
        low, high = self.season.band
        least = min(low, *(one[1] for one in self.season.air)) - 1
        most = max(high, *(one[2] for one in self.season.air)) + 1
        top = self.y

        def at(celsius: float) -> float:
            return top + AIR * (most - celsius) / (most - least)

        self.name(_("Air, °C"), _("low to high"))
        self.body += f'<rect x="{LEFT:.1f}" y="{at(high):.1f}" width="{RIGHT - LEFT:.1f}" height="{at(low) - at(high):.1f}" fill="var(--color-paper)"/>'
        for value in (low, high):
            self.body += svg.text(LEFT - 8, at(value) + 4, f"{value:g}", size=12, fill=self.palette.mid, anchor="end")
        wide = min(8.0, max(1.5, self.day_width * 0.7))
        for day, cold, warm in self.season.air:
            fill = FAR if cold < low or warm > high else self.palette.ink
            told = f"{dated(day, '%-d %b')}: {cold:.1f} to {warm:.1f} °C"
            self.body += (
                f'<rect x="{self.x(day) - wide / 2:.1f}" y="{at(warm):.1f}" width="{wide:.1f}" height="{max(2, at(cold) - at(warm)):.1f}" '
                f'fill="{fill}"><title>{told}</title></rect>'
            )
        self.y = top + AIR + 8

    def light(self) -> None:
        """A line for each arm, or for each place while arms are hidden."""
        lines = [one for one in self.season.light if one.values]
        if not lines:
            return
        self.y += 14
        top, most = self.y, max(value for one in lines for _, value in one.values) * 1.1 or 1.0
        self.name(_("Light"), _("mol/m² a day"))
        step = next(s for s in (1, 2, 5, 10, 20, 50) if most / s <= 3) if most <= 150 else most
        for k in range(int(most / step) + 1):
            y = top + LIGHT * (1 - k * step / most)
            self.body += svg.line(LEFT, y, RIGHT, y, self.palette.band)
            self.body += svg.text(LEFT - 8, y + 4, f"{k * step:g}", size=12, fill=self.palette.mid, anchor="end")
        ends: list[float] = []
        for i, one in enumerate(lines):
            points = [(self.x(day), top + LIGHT * (1 - value / most), day) for day, value in one.values]
            path = "".join(
                f"{'M' if n == 0 or (day - points[n - 1][2]).days > 1 else 'L'}{x:.1f} {y:.1f}"
                for n, (x, y, day) in enumerate(points)
            )
            colour = stakes.line_colour(one.letter, self.palette is PAGE) if one.letter else self.palette.ink
            dash = ("", "6 4", "2 3", "9 3 2 3")[i % 4]
            dashed = f' stroke-dasharray="{dash}"' if dash else ""
            self.body += f'<path d="{path}" stroke="{colour}" stroke-width="2" fill="none"{dashed}><title>{escape(one.name)}</title></path>'
            ends.append(self._name_line(one, points[-1], ends))
        self.y = top + LIGHT + 10

    def _name_line(self, one: Line, end: tuple[float, float, date], taken: Sequence[float]) -> float:
        """The name at the end of a line, below those that are near it; its height."""
        x, y = end[0] + 6, end[1]
        while any(abs(y - other) < 26 for other in taken):
            y += 13
        if one.letter:
            self.body += f'<g transform="translate({x:.1f} {y - 12:.1f}) scale(0.7)">{stakes.inside(one.letter)}</g>'
        else:
            fits = WIDTH - 7 * len(one.name[:14])
            self.body += svg.text(
                min(x, fits),
                y + (4 if x <= fits else -9),
                one.name[:14],
                size=12,
                fill=self.palette.ink,
                halo=self.palette.ground,
            )
        return y

    def now(self) -> None:
        """Today, through all rows."""
        if not self.season.first <= self.season.today <= self.season.last:
            return
        x, day = self.x(self.season.today), (self.season.today - self.season.first).days
        line = svg.line(x, 24, x, self.y, "var(--color-flag)", 4)
        anchor = "end" if x > WIDTH * 0.8 else "start"
        words = svg.text(
            x,
            self.y + 16,
            _("today, day {day}", day=day),
            size=12.5,
            fill=self.palette.ink,
            anchor=anchor,
            weight=600,
        )
        self.body = line + self.body + words


def along(season: Season) -> dict[str, object]:
    """Where the days lie on the drawing, for who drags over them: first day, number of days, left and right end."""
    return {"first": season.first.isoformat(), "days": season.days, "left": LEFT, "right": RIGHT}


def figure(season: Season, palette: Palette = PAGE) -> str:
    """The strip as svg markup."""
    strip = _Strip(season, palette)
    for draw in (strip.ruler, strip.checks, strip.care, strip.cover, strip.happened, strip.air, strip.light, strip.now):
        draw()
    label = _(
        "The days from {first} to {last}: {checks:check|checks}, {care:kind|kinds} of care, {n:thing|things} that happened; the same as a list below",
        first=dated(season.first), last=dated(season.last), checks=len(season.checks), care=len(season.care), n=len(season.happened),
    )  # fmt: skip
    return svg.drawing(WIDTH, strip.y + 24, label, strip.body)
