"""The work that a job worker does for the stock: taking pictures in."""

from __future__ import annotations

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.jobs.received import put_away, received
from studio.stock.models import StockPicture, kept_pictures
from warmgraphite.canvas.own_faces import take_face


@work("take-picture", after=put_away)
def take_picture(job: Job, watch: Watch) -> dict:
    """Take a received picture into the stock."""
    file = received(job)
    row = StockPicture.take_in(file, file.name, watch)
    return {"digest": row.digest, "notes": row.notes}


@work("take-face", after=put_away)
def take_own_face(job: Job, watch: Watch) -> dict:
    """Take a received face into the stock."""
    file = received(job)
    watch("Opening the face", 0.2)
    found = take_face(file, file.name, kept_pictures().folder / "faces", watch)
    return {"face": f"own-{found.digest}", "name": found.name, "letters": found.letters}
