"""HTML to PDF with the shipped fonts; nothing is loaded from outside."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import Response

STATIC = Path(__file__).parent / "static"


def _only_ours(url: str, *_args: Any, **_kwargs: Any) -> dict[str, Any]:
    """Serve ``static:`` addresses from the shipped files and refuse every other."""
    if not url.startswith("static:"):
        raise ValueError(f"a document may not load {url}")
    file = (STATIC / url.removeprefix("static:")).resolve()
    if not file.is_relative_to(STATIC):
        raise ValueError("outside the shipped files")
    return {"string": file.read_bytes(), "mime_type": "font/woff2"}


def pdf_of(html: str) -> bytes:
    """Render a document."""
    from weasyprint import HTML

    document: bytes = HTML(string=html, url_fetcher=_only_ours, base_url="static:").write_pdf()
    return document


def download(content: bytes | str, mime: str, name: str) -> Response:
    """A file to take away."""
    return Response(content, mimetype=mime, headers={"Content-Disposition": f'attachment; filename="{name}"'})
