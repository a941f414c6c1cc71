"""Nobody else's page may change a study: a writing request must come from the application's own pages."""

from __future__ import annotations

from collections.abc import Callable
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, JsonResponse

__all__ = ["SameOriginMiddleware"]


class SameOriginMiddleware:
    """Refuses writing requests whose ``Origin`` is another host's. Programs without a browser send none."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        origin = request.headers.get("Origin")
        if request.method not in ("GET", "HEAD", "OPTIONS") and origin and urlsplit(origin).netloc != request.get_host():
            return JsonResponse({"message": "This request came from another page and was refused."}, status=403)
        return self.get_response(request)
