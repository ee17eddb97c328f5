"""The fixtures of the pages."""

from tests.web.conftest import app, sign_in

__all__ = ["app", "sign_in"]
