"""Files kept beside the database, named by what is in them: recordings, runs, photographs. Written atomically."""

from __future__ import annotations

import hashlib
import io
import os
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from ..core.errors import BadInput
from ..core.levels.logs import Run
from ..core.levels.recording import History

FOLDER = "files"
CHUNK = 1 << 20


class FileStore:
    """The folder of a data directory."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._new: list[str] | None = None

    def put(self, source: BinaryIO, suffix: str) -> str:
        """Keep a stream; returns its name. The same content is kept once."""
        self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        digest = hashlib.sha256()
        with tempfile.NamedTemporaryFile(dir=self.folder, prefix=".new-", delete=False) as fresh:
            try:
                while chunk := source.read(CHUNK):
                    digest.update(chunk)
                    fresh.write(chunk)
                fresh.flush()
                os.fsync(fresh.fileno())
            except BaseException:  # a full disk leaves no half of a file
                Path(fresh.name).unlink(missing_ok=True)
                raise
        name = f"{digest.hexdigest()}{suffix}"
        if self._new is not None and not (self.folder / name).exists():
            self._new.append(name)
        Path(fresh.name).replace(self.folder / name)
        return name

    @contextmanager
    def attempt(self) -> Iterator[FileStore]:
        """Files that are kept only if what they are kept for comes about: where it fails the new ones go again.

        Whoever is interrupted may have kept it already: then they stay, and go with what nothing points to.
        """
        trying = FileStore(self.folder)
        trying._new = []
        try:
            yield trying
        except Exception:
            for name in trying._new:
                (self.folder / name).unlink(missing_ok=True)
            raise

    def adopt(self, name: str) -> str:
        """A file that was kept for this attempt by somebody else; it goes with the others if the attempt fails."""
        if self._new is not None:
            self._new.append(name)
        return name

    def all(self) -> list[Path]:
        """Every file there is, and what interrupted ones left."""
        return [p for pattern in ("[0-9a-f]*.*", ".new-*") for p in self.folder.glob(pattern)]

    def path(self, name: str) -> Path:
        """Where a file is kept. BadInput when it is not there (a job file brings no recordings along)."""
        found = self.folder / Path(name).name
        if not name or not found.is_file():
            raise BadInput("the recording itself is not kept here", "reading", "its figures stand; bring the file in again")
        return found

    def put_photographs(self, pictures: Mapping[str, bytes]) -> None:
        """Keep pictures that were told by their content's name."""
        for data in pictures.values():
            self.put(io.BytesIO(data), ".jpg")

    def photograph(self, name: str) -> bytes | None:
        """A picture by name; None where it is not kept."""
        found = self.folder / Path(name).name
        return found.read_bytes() if found.is_file() else None

    def put_run(self, run: Run | History) -> str:
        """Keep a run so that a window of it can be chosen anew."""
        kind = "log" if isinstance(run, Run) else "recording"
        with tempfile.TemporaryFile() as out:
            arrays: dict[str, Any] = {"kind": np.array(kind), **{k: np.asarray(v) for k, v in run._asdict().items()}}
            np.savez_compressed(out, **arrays)
            out.seek(0)
            return self.put(out, ".npz")

    def run(self, name: str) -> Run | History:
        """A run kept before."""
        with np.load(self.path(name), allow_pickle=False) as data:
            values: dict[str, Any] = {k: data[k] if data[k].ndim else data[k].item() for k in data.files}
        return Run(**values) if values.pop("kind") == "log" else History(**values)
