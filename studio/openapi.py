"""Print the API's OpenAPI document, from which the front end's types are generated."""

from __future__ import annotations

import json
import os

import django

__all__ = ["document"]


def document() -> str:
    """The document as stable JSON text."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    django.setup()
    from studio.urls import api

    return json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(document(), end="")
