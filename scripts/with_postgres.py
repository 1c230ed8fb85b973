"""Runs a command beside a PostgreSQL of its own: a new cluster in a folder that is thrown away, served by the user postgres.

    python scripts/with_postgres.py pytest tests/api/test_store.py

The command finds the address of the server in SPHAGNUM_POSTGRES.
"""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

USER = "postgres"
PORT = 54_399


def binaries() -> Path:
    """Where Debian's package keeps the programs of the newest version."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin"))
    if not found:
        sys.exit("PostgreSQL is not here: apt-get install postgresql")
    return found[-1]


def main(command: list[str]) -> int:
    """Start the server, run the command, stop the server."""
    programs, owner = binaries(), pwd.getpwnam(USER)
    folder = Path(tempfile.mkdtemp(prefix="sphagnum-postgres-"))
    if os.getuid() == 0:
        os.chown(folder, owner.pw_uid, owner.pw_gid)

    def as_owner(*args: object) -> None:
        become = ["setpriv", f"--reuid={USER}", f"--regid={owner.pw_gid}", "--clear-groups"] if os.getuid() == 0 else []
        subprocess.run([*become, *map(str, args)], check=True, stdout=subprocess.DEVNULL, cwd=folder)

    try:
        as_owner(programs / "initdb", "--pgdata", folder / "data", "--auth", "trust", "--encoding", "UTF8", "--no-sync")
        options = f"-p {PORT} -c listen_addresses=127.0.0.1 -c unix_socket_directories={folder} -c fsync=off"
        as_owner(programs / "pg_ctl", "--pgdata", folder / "data", "-o", options, "-l", folder / "log", "-w", "start")
        try:
            address = f"postgresql+psycopg://{USER}@127.0.0.1:{PORT}"
            return subprocess.run(command, env={**os.environ, "SPHAGNUM_POSTGRES": address}).returncode
        finally:
            as_owner(programs / "pg_ctl", "--pgdata", folder / "data", "-m", "immediate", "stop")
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
