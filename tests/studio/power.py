"""What a power cut leaves.
The writes of a session are replayed up to any point, and only what was settled by then is kept.

``strace`` writes down every call by which a session changes files (:func:`traced`). A :class:`Disk` carries them out in
memory and knows two things of each file and folder: how it is, and how it was when it was last settled (``fsync(2)``:
of a file its bytes, of a folder its names). :meth:`Disk.left` is what a cut leaves of it, in one of several ways.
"""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

__all__ = ["WAYS", "Disk", "File", "Folder", "traced"]

CALLS = "openat,write,pwrite64,sendfile,copy_file_range,lseek,fsync,fdatasync,rename,renameat2,unlink,unlinkat,rmdir,mkdir,ftruncate"
#: What a cut may leave of what was not settled: nothing; names, but not what is in the files; half of what is in them;
#: all.
WAYS = ("nothing", "names", "half", "all")


@dataclass
class File:
    """Bytes as they are, and as they were settled."""

    data: bytearray = field(default_factory=bytearray)
    settled: bytes = b""


@dataclass
class Folder:
    """Names as they are, and as they were settled."""

    names: dict[str, File | Folder] = field(default_factory=dict)
    settled: dict[str, File | Folder] = field(default_factory=dict)


def traced(command: list[str], log: Path, environment: dict[str, str]) -> Iterator[tuple[str, list[str], int]]:
    """Run a command and give its calls in the order in which they came to an end.
    Name, arguments with strings as they are, and result.
    """
    tracer = [
        "strace",
        "-f",
        "--seccomp-bpf",
        "-qq",
        "-y",
        "-xx",
        "-s",
        "100000000",
        "-e",
        f"trace={CALLS}",
        "-o",
        str(log),
    ]
    done = subprocess.run([*tracer, *command], env=environment, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-3000:]
    begun: dict[str, str] = {}
    with log.open() as lines:
        for line in lines:
            process, _, said = line.rstrip("\n").partition(" ")
            said = said.strip()
            if said.endswith("<unfinished ...>"):
                begun[process] = said.removesuffix("<unfinished ...>")
                continue
            resumed = re.match(r"<\.\.\. \w+ resumed>", said)
            if resumed:
                said = begun.pop(process, "") + said[resumed.end() :]
            found = re.fullmatch(r"(\w+)\((.*)\)\s+= (-?\d+).*", said)
            if found and int(found[3]) >= 0:
                yield found[1], _arguments(found[2]), int(found[3])


def _arguments(text: str) -> list[str]:
    """Arguments of a call: strings as their hexadecimal digits, files by number and path."""
    return [a.strip() for a in text.split(", ")]


def _path(word: str) -> str:
    """The path in ``"\\x2f…"`` or ``3<\\x2f…>``."""
    found = re.search(r'[<"]((?:\\x[0-9a-f]{2})*)[>"]', word)
    return bytes.fromhex(found[1].replace("\\x", "")).decode() if found else ""


class Disk:
    """The files below a ``root`` folder."""

    def __init__(self, root: Path) -> None:
        self.root, self.top = str(root), Folder()
        self._at: dict[tuple[str, str], int] = {}

    def _found(self, path: str) -> tuple[Folder, str] | None:
        """The folder that a path is in, and its name there; ``None`` for what lies elsewhere."""
        if not path.startswith(self.root + "/"):
            return None
        folder: File | Folder | None = self.top
        *above, name = path[len(self.root) + 1 :].split("/")
        for step in above:
            folder = folder.names.get(step) if isinstance(folder, Folder) else None
        return (folder, name) if isinstance(folder, Folder) else None

    def _file(self, path: str) -> File | None:
        found = self._found(path)
        file = found and found[0].names.get(found[1])
        return file if isinstance(file, File) else None

    def carry_out(self, call: str, words: list[str], result: int) -> bool:
        """Carry a call out; whether it changed or settled anything here."""
        if call in ("rename", "renameat2"):
            names = [self._found(_path(w)) for w in words if '"' in w]
            if len(names) == 2 and names[0] and names[1]:
                (old, name), (new, other) = names[0], names[1]
                new.names[other] = old.names.pop(name)
                return True
            return False
        path = (
            _path(next((w for w in words if '"' in w), ""))
            if call in ("openat", "unlink", "unlinkat", "rmdir", "mkdir")
            else _path(words[0])
        )
        if call in ("unlinkat", "mkdir", "openat") and not path.startswith("/"):
            path = f"{_path(words[0])}/{path}"
        if path == self.root:
            if call in ("fsync", "fdatasync"):
                self.top.settled = dict(self.top.names)
            return call in ("fsync", "fdatasync")
        found = self._found(path)
        if found is None:
            return False
        folder, name = found
        key = (words[0].partition("<")[0], path)
        if call == "openat":
            self._at[(str(result), path)] = 0
            if "O_CREAT" in words[2] and name not in folder.names:
                folder.names[name] = File()
                return True
            if "O_TRUNC" in words[2]:
                folder.names[name].data.clear()  # type: ignore[union-attr]
                return True
            return False
        if call == "mkdir":
            folder.names[name] = Folder()
        elif call in ("unlink", "unlinkat", "rmdir"):
            folder.names.pop(name, None)
        elif call in ("fsync", "fdatasync"):
            one = folder.names.get(name)
            if isinstance(one, Folder):
                one.settled = dict(one.names)
            elif one is not None:
                one.settled = bytes(one.data)
        elif call == "lseek":
            self._at[key] = result
            return False
        else:
            file = self._file(path)
            if file is None:
                return False
            if call == "ftruncate":
                size = int(words[1])
                del file.data[size:]
                file.data.extend(bytes(size - len(file.data)))
                return True
            if call == "write":
                data, at = bytes.fromhex(words[1].strip('"').replace("\\x", "")), self._at.get(key, 0)
                self._at[key] = at + len(data)
            elif call == "pwrite64":
                data, at = bytes.fromhex(words[1].strip('"').replace("\\x", "")), int(words[3])
            else:  # sendfile: the rest of another file, which lies here too
                source = self._file(_path(words[1]))
                assert source is not None, words
                other = (words[1].partition("<")[0], _path(words[1]))
                begin, at = self._at.get(other, 0), self._at.get(key, 0)
                data = bytes(source.data[begin : begin + result])
                self._at[other], self._at[key] = begin + result, at + result
            file.data.extend(bytes(max(0, at + len(data) - len(file.data))))
            file.data[at : at + len(data)] = data
        return True

    def left(self, way: str, to: Path, folder: Folder | None = None) -> None:
        """Lay down what a cut leaves now."""
        folder = folder or self.top
        to.mkdir(parents=True)
        for name, one in (folder.settled if way == "nothing" else folder.names).items():
            if isinstance(one, Folder):
                self.left(way, to / name, one)
            elif way == "all":
                (to / name).write_bytes(one.data)
            elif way == "half" and bytes(one.data) != one.settled:
                half = (len(one.settled) + len(one.data)) // 2
                (to / name).write_bytes((one.data if len(one.data) >= len(one.settled) else one.settled)[:half])
            else:
                (to / name).write_bytes(one.settled)


# -- What is done while it is traced, in a process of its own


def session(acknowledged: int) -> None:
    """Work on a study through the application's own doors; tell on a file what was acknowledged."""
    import django

    django.setup()
    import io

    import numpy as np
    from django.conf import settings
    from django.core.files.uploadedfile import SimpleUploadedFile
    from django.core.management import call_command
    from django.test import Client
    from PIL import Image

    call_command("migrate", verbosity=0)
    import studio.stock.work
    import studio.studies.model_work
    import studio.studies.out_work
    import studio.studies.work  # noqa: F401
    from studio.jobs.models import Job
    from studio.jobs.queue import huey
    from studio.studies.models import Study
    from tests.conftest import box, model_of
    from warmgraphite.model.glb import write_glb

    huey.immediate = True
    settings.ALLOWED_HOSTS.append("testserver")
    client = Client()

    def tell(**said: object) -> None:
        os.write(acknowledged, json.dumps(said).encode() + b"\n")

    def job(answer: object) -> Job:
        found: Job = Job.objects.get(pk=answer.json()["id"])  # type: ignore[attr-defined]
        assert found.state == "done", found.message
        return found

    def brought(name: str, tall: float, study: str = "") -> str:
        path = settings.DATA / f"{name}.glb"
        write_glb(
            model_of(("Wall", box((0, 0, 0), (5, 4, tall)), 0), ("Yard", box((-3, -3, -0.4), (9, 6, 0)), 2)), path
        )
        read = job(client.post("/api/uploads", {"files": [path.open("rb")]}))
        tell(read=read.pk)
        body = {"name": name, "units": "m", "up": "y", "study": study}
        slug: str = job(client.post(f"/api/uploads/{read.pk}/accept", body, content_type="application/json")).result[
            "slug"
        ]
        told(slug)
        return slug

    def told(slug: str) -> None:
        head = Study.objects.select_related("head").get(slug=slug).head
        assert head is not None
        tell(study=slug, revision=head.number, text=hash_of(head.text), model=head.model_version)

    def post(slug: str, path: str, **body: object) -> None:
        base = Study.objects.select_related("head").get(slug=slug).head.number  # type: ignore[union-attr]
        answer = client.post(f"/api/studies/{slug}{path}", {"base": base, **body}, content_type="application/json")
        assert answer.status_code == 200, answer.content
        told(slug)

    slug = brought("House", 3.0)
    for k in range(6):
        change = {"path": ["name"], "value": f"View {k}"}
        post(
            slug, "/edits", commands=[{"do": "view", "changes": [change], "label": "Call it otherwise"}], token=f"t{k}"
        )
    mask = {"id": "m", "name": "Brushed", "tiles": ""}
    post(
        slug, "/edits", commands=[{"do": "view", "changes": [{"path": ["masks"], "value": [mask]}], "label": "A mask"}]
    )
    for k in range(3):
        post(slug, "/masks/m/strokes", stroke={"points": [[10 * k, 0], [10 * k + 20, 12]], "size": 14})
    post(slug, "/model", edits=[{"do": "role", "parts": [1], "role": "context"}])
    post(slug, "/undo")
    post(slug, "/redo")
    picture = io.BytesIO()
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (40, 60, 3), np.uint8)).save(picture, "PNG")
    tell(
        picture=job(
            client.post("/api/pictures", {"file": SimpleUploadedFile("bricks.png", picture.getvalue())})
        ).result["digest"]
    )
    brought("Taller", 4.0, slug)
    tell(job=job(client.post(f"/api/studies/{slug}/archive", {}, content_type="application/json")).pk)
    packed = next((settings.DATA / "exports").rglob("*.zip")).read_bytes()
    second = job(client.post("/api/archives", {"file": SimpleUploadedFile("House.study.zip", packed)})).result["slug"]
    told(second)
    post(
        second,
        "/edits",
        commands=[{"do": "view", "changes": [{"path": ["name"], "value": "Other"}], "label": "Call it otherwise"}],
    )
    assert client.delete(f"/api/studies/{second}").status_code == 204
    tell(gone=second)
    post(
        slug,
        "/edits",
        commands=[{"do": "view", "changes": [{"path": ["name"], "value": "Last"}], "label": "Call it otherwise"}],
    )


def hash_of(text: str) -> str:
    """A text, short."""
    import hashlib

    return hashlib.sha256(text.encode()).hexdigest()[:16]


# -- What is looked at after a cut, in a process of its own that is forked for each


def start_and_look(data: Path, acknowledged: list[dict]) -> str:
    """Start on what a cut left, and look for all that was acknowledged; what is wrong, or nothing."""
    from django.conf import settings
    from django.core.management import call_command
    from django.db import connections
    from django.test import Client

    settings.DATA = data
    settings.ALLOWED_HOSTS.append("testserver")
    connections["default"].settings_dict["NAME"] = data / "studio.sqlite3"
    from studio import start
    from studio.jobs.models import Job
    from studio.jobs.queue import huey, recover_lost, sweep
    from studio.jobs.received import AS_READ, received_in
    from studio.stock.models import kept_pictures
    from studio.studies.archive import shown_masks
    from studio.studies.clearing import clear_unused
    from studio.studies.models import Study, model_store

    huey.immediate = True
    if start._has_lost_its_database(data):
        return "the database is lost"
    call_command("migrate", verbosity=0)
    recover_lost(), sweep()

    def look() -> str:
        gone = {a["gone"] for a in acknowledged if "gone" in a}
        for said in acknowledged:
            if "study" in said and said["study"] not in gone:
                study = Study.objects.select_related("head").filter(slug=said["study"]).first()
                if study is None or study.head is None:
                    return f"study {said['study']} is gone"
                row = study.revisions.filter(number=said["revision"]).first()
                if row is None or hash_of(row.text) != said["text"]:
                    return f"revision {said['revision']} of {said['study']} is gone"
                model_store().load(said["model"])
                if any(kept_pictures().masks.is_damaged(m) for m in shown_masks(row.read())):
                    return f"what was painted at revision {said['revision']} is gone"
            if "picture" in said and kept_pictures().pixels(said["picture"]) is None:
                return "a picture is gone"
            if "read" in said:
                job = Job.objects.get(pk=said["read"])
                taken = any(
                    j.kind == "take" and j.arguments["folder"] == job.arguments["folder"] for j in Job.objects.all()
                )
                if not taken and not (received_in(job) / AS_READ).exists():
                    return "a model that was read is gone"
            if "job" in said and Client().get(f"/api/jobs/{said['job']}/file").status_code != 200:
                return "a file that was written is gone"
        for study in Study.objects.all():
            answer = Client().get(f"/api/studies/{study.slug}")
            if answer.status_code != 200:
                return f"study {study.slug} does not open: {answer.content!r}"
        return ""

    return look() or (clear_unused(young=-1) and "") or look()


def main() -> None:
    """``session`` does the work.
    ``look`` answers on each line of standard input, a folder and what was acknowledged by then.
    """
    if sys.argv[1] == "session":
        session(os.open(sys.argv[2], os.O_WRONLY | os.O_CREAT | os.O_APPEND))
        return
    import django

    django.setup()
    import logging
    import traceback

    import studio.stock.work
    import studio.studies.model_work
    import studio.studies.out_work
    import studio.studies.work
    import studio.urls  # noqa: F401

    logging.disable(logging.CRITICAL)
    for line in sys.stdin:
        folder, acknowledged = json.loads(line)
        reading, writing = os.pipe()
        if os.fork() == 0:
            try:
                said = start_and_look(Path(folder), acknowledged)
            except BaseException:
                said = traceback.format_exc()
            os.write(writing, said.encode()[-3000:] or b"-")
            os._exit(0)
        os.close(writing)
        with os.fdopen(reading, "rb") as answer:
            print(json.dumps(answer.read().decode()), flush=True)
        os.wait()


if __name__ == "__main__":
    main()
