"""What no study refers to any more is cleared away when the application starts: states of models, received files."""

from __future__ import annotations

import json
import shutil
import time
from pathlib import Path

from django.conf import settings

from studio.studies.models import ModelFile, Revision

__all__ = ["clear_unused"]

#: Seconds for which something stays although nothing refers to it: what is being made is not yet referred to.
YOUNG = 3600.0


def clear_unused(young: float = YOUNG) -> int:
    """Remove what no history refers to; returns how many files and folders went. Nothing that undo can reach is touched."""
    wanted = set(Revision.objects.values_list("model_version", flat=True).distinct())
    for pair in ModelFile.objects.values_list("base_version", "last_version"):
        wanted.update(pair)
    models = settings.DATA / "models"
    kept: set[str] = set()
    gone = 0

    def is_old(path: Path) -> bool:
        return time.time() - path.stat().st_mtime > young

    for state in models.glob("*.json"):
        if state.stem not in wanted and is_old(state):
            state.unlink()
            gone += 1
        else:
            kept.add(json.loads(state.read_text("utf-8"))["body"])
    for body in models.glob("*.npz"):
        # A model of one file goes by its version, a body by the states that stand on it.
        if body.stem not in kept and body.stem not in wanted and is_old(body):
            body.unlink()
            gone += 1
    shown = {about.get("geometry") for about in Revision.objects.values_list("about_model", flat=True)}
    for mesh in models.glob("*.mesh.gz"):
        if mesh.name.removesuffix(".mesh.gz") not in shown and is_old(mesh):
            mesh.unlink()
            gone += 1
    folders = set(ModelFile.objects.values_list("folder", flat=True))
    for place in ("received", "incoming"):
        for folder in (settings.DATA / place).glob("*"):
            if folder.name not in folders and is_old(folder):
                shutil.rmtree(folder, ignore_errors=True)
                gone += 1
    return gone
