"""Pictures of one's own: each is kept once for all studies, by the hash of its pixels."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

from warmgraphite.collage.kinds.picture import PictureTrace
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.stock import StockItem
from warmgraphite.errors import PictureError
from warmgraphite.progress import Stages, unwatched
from warmgraphite.specification import valid

__all__ = ["StockPicture", "kept_pictures"]


def kept_pictures() -> KeptPictures:
    """Where the pictures themselves are kept."""
    return KeptPictures(settings.DATA / "stock")


class StockPicture(models.Model):
    """What is known of a picture: its name, what it was in, and how it is laid, as fields of a trace."""

    digest = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=10)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    laid = models.JSONField(default=dict)
    notes = models.JSONField(default=list)
    #: Where a sheet of paper lies in it, in shares; nothing where a version took it in that did not look.
    corners = models.JSONField(default=list)
    added = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name

    @property
    def trace(self) -> PictureTrace:
        """The picture as it is laid when it is poured."""
        with valid(f"“{self.name}”"):
            return PictureTrace.model_validate(
                {
                    **self.laid,
                    "kind": "picture",
                    "id": "poured",
                    "name": self.name[:60] or "Picture",
                    "picture": self.digest,
                }
            )

    @property
    def item(self) -> StockItem:
        """The picture as it stands in the stock."""
        return StockItem(
            id=f"pictures-{self.digest}", group="pictures", sort="", label=self.name, trace=self.trace, pours=True
        )

    @classmethod
    def take_in(cls, path: Path, name: str, watch: Stages = unwatched) -> StockPicture:
        """Take a file in; what is there already is given back as it is.
        Raises :class:`PictureError` with one sentence.
        """
        found = kept_pictures().take_in(path, name, watch)
        called = Path(name).stem.strip()[:60] or "Picture"
        with transaction.atomic():
            row, _ = cls.objects.get_or_create(
                digest=found.digest,
                defaults={
                    "name": called,
                    "kind": found.kind,
                    "width": found.width,
                    "height": found.height,
                    "notes": list(found.notes),
                    "corners": [list(c) for c in found.corners],
                },
            )
        return row

    def change(self, name: str | None = None, laid: dict | None = None) -> None:
        """Call it otherwise, or lay it otherwise from now on. Traces that have it stay as they are."""
        if name is not None:
            if not name.strip():
                raise PictureError("A picture needs a name; type one.")
            self.name = name.strip()[:60]
        if laid:
            self.laid = {**self.laid, **laid}
        _ = self.trace  # which says what is not right
        self.save(update_fields=["name", "laid"])
