"""What stands before every view.
Whom the application answers, from where it may be changed, and in what words it refuses.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from urllib.parse import urlsplit

from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse, JsonResponse

from studio.sentences import refusal

__all__ = ["HEADERS", "FrontMiddleware", "bad_request", "not_found", "server_error"]

log = logging.getLogger(__name__)

Answer = Callable[[HttpRequest], HttpResponse]

#: Scripts, pictures and type come from the application alone; nobody may show it in a frame of theirs.
POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "connect-src 'self' blob:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HEADERS = {"Content-Security-Policy": POLICY, "X-Frame-Options": "DENY"}
HARMLESS = ("GET", "HEAD", "OPTIONS")


def _said(status: int, message: str = "") -> JsonResponse:
    return JsonResponse({"message": message or refusal(status)}, status=status)


class FrontMiddleware:
    """Answers only to hosts of its own name, so that no page can read it by rebinding a name of theirs.
    Takes changes only from its own pages, and nothing at all from a script of another one; and refuses in a sentence,
    never in HTML.

    Programs without a browser send neither ``Origin`` nor ``Sec-Fetch-Site``.
    """

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            host = request.get_host()
        except DisallowedHost:
            return _said(
                400, "This application does not answer under that name; open it at the address that ./run demo tells."
            )
        # Another port of this machine is the same site, and another program's page all the same.
        if request.headers.get("Sec-Fetch-Site", "none") not in ("same-origin", "none") and request.path.startswith(
            "/api/"
        ):
            return _said(403, "This request came from another page and was refused.")
        origin = request.headers.get("Origin")
        if request.method not in HARMLESS and origin and not _is_own(origin, host):
            return _said(403, "This request came from another page and was refused.")
        response = self.get_response(request)
        if (
            request.path.startswith("/api/")
            and response.status_code >= 400
            and "json" not in response.get("Content-Type", "")
        ):
            response = _said(response.status_code)
        for name, value in HEADERS.items():
            response[name] = value
        return response


def _is_own(origin: str, host: str) -> bool:
    try:
        found = urlsplit(origin)
        return found.scheme in ("http", "https") and found.netloc == host
    except ValueError:
        return False


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _said(400)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _said(404)


def server_error(request: HttpRequest) -> HttpResponse:
    return _said(500)
