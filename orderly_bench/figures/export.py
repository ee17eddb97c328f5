"""A figure to take away: SVG, PDF or 300 dpi PNG, with its caption."""

from __future__ import annotations

from collections.abc import Callable
from html import escape

FORMATS = ("svg", "pdf", "png")
PAGE_MM = 180
DPI = 300
MIME = {"svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png"}


def document(drawing: str, caption: str) -> str:
    """An HTML page that holds the figure and its caption and nothing else."""
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><style>'
        '@font-face { font-family: Atkinson; src: url("static:fonts/atkinson-hyperlegible-next-latin-400-normal.woff2"); }'
        '@font-face { font-family: Atkinson; font-weight: 600; src: url("static:fonts/atkinson-hyperlegible-next-latin-600-normal.woff2"); }'
        f"@page {{ size: {PAGE_MM}mm 130mm; margin: 4mm; }} body {{ font: 9pt Atkinson; color: #10302a; margin: 0; }} svg {{ width: 100%; }} p {{ margin: 2mm 0 0; }}"
        f"</style><title>Figure</title></head><body>{drawing}<p>{escape(caption)}</p></body></html>"
    )


def as_svg(drawing: str, caption: str) -> bytes:
    """The drawing with its caption as description."""
    start = drawing.index(">") + 1
    text = drawing[:start] + f"<desc>{escape(caption)}</desc>" + drawing[start:]
    return text.replace('font-family="Atkinson"', 'font-family="Atkinson Hyperlegible Next, sans-serif"').encode()


def as_png(pdf: bytes) -> bytes:
    """The first page of a PDF at 300 dots per inch."""
    import io

    import pypdfium2

    page = pypdfium2.PdfDocument(pdf)[0]
    out = io.BytesIO()
    page.render(scale=DPI / 72).to_pil().save(out, "PNG", dpi=(DPI, DPI))
    return out.getvalue()


def export(drawing: str, caption: str, wanted: str, to_pdf: Callable[[str], bytes]) -> bytes:
    """The figure in one of ``FORMATS``; ``to_pdf`` renders HTML with the shipped fonts."""
    if wanted == "svg":
        return as_svg(drawing, caption)
    pdf = to_pdf(document(drawing, caption))
    return pdf if wanted == "pdf" else as_png(pdf)
