"""HTML to PDF with the shipped fonts; nothing is loaded from outside."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import Any

from flask import Response

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.errors import Busy

STATIC = Path(__file__).parent / "static"


class Forbidden(ValueError):
    """A document asked for something that is not shipped."""


def _fetcher() -> Any:
    """Serve the shipped files and pictures that stand in the document itself; refuse every other address."""
    from weasyprint.urls import URLFetcher

    class OnlyOurs(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            drawn_here = url.startswith(("data:image/png;base64,", "data:image/jpeg;base64,"))
            if not drawn_here and (not url.startswith(STATIC.as_uri() + "/") or ".." in url):
                raise Forbidden(_("a document may not load {url}", url=url[:80]))
            return super().fetch(url, headers)

    return OnlyOurs(allowed_protocols={"file", "data"}, fail_on_errors=False)


#: One document is rendered at a time, and one more may wait: readers never hold all threads.
AT_ONCE = threading.BoundedSemaphore(2)
RENDERING = threading.Lock()


def pdf_of(html: str) -> bytes:
    """Render a document, one after the other.

    Raises
    ------
    Busy
        One is rendered and another waits; ask again in a moment.
    """
    if not AT_ONCE.acquire(blocking=False):
        raise Busy(_("Two PDFs are being made for others. Ask for yours again in a few seconds."))
    try:
        with RENDERING:
            return _rendered(html)
    finally:
        AT_ONCE.release()


def _rendered(html: str) -> bytes:
    """Render a document; ``url("static:...")`` and ``href="static:..."`` name shipped files. Any other address is not loaded."""
    from weasyprint import HTML

    ours = html.replace('url("static:', f'url("{STATIC.as_uri()}/').replace(
        'href="static:', f'href="{STATIC.as_uri()}/'
    )
    document: bytes = HTML(string=ours, url_fetcher=_fetcher(), base_url=STATIC.as_uri() + "/").write_pdf()
    return document


def download(content: bytes | str, mime: str, name: str) -> Response:
    """A file to take away."""
    return Response(content, mimetype=mime, headers={"Content-Disposition": f'attachment; filename="{name}"'})
