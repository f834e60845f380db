"""Simulations in a process of their own: they come out the same, and it ends with the server, however that ends."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent
_SERVER = """
import multiprocessing, sys, time
from canopy.climate.simulate import simulate
from canopy_web.beside import Beside
from tests.core.climate import cases

if __name__ == "__main__":
    system = cases.tent(days=0.1, dt=60.0)
    beside = Beside()
    there, here = beside(system), simulate(system)
    print(abs(there.enclosures - here.enclosures).max(), multiprocessing.active_children()[0].pid, flush=True)
    time.sleep(60)
"""


def _gone(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return True
    # What ended and was not yet collected is gone, too.
    return Path(f"/proc/{pid}/stat").read_text().split(")")[1].split()[0] == "Z"


def test_it_gives_the_same_and_ends_with_a_server_that_is_killed(tmp_path):
    script = tmp_path / "server.py"
    script.write_text(_SERVER)
    env = {**os.environ, "PYTHONPATH": str(ROOT)}
    with subprocess.Popen(
        [sys.executable, str(script)], env=env, cwd=ROOT, stdout=subprocess.PIPE, text=True
    ) as server:
        assert server.stdout is not None
        off, pid = server.stdout.readline().split()
        assert float(off) == 0.0
        assert not _gone(int(pid))
        server.send_signal(signal.SIGKILL)
        server.wait()
        end = time.monotonic() + 10
        while not _gone(int(pid)) and time.monotonic() < end:
            time.sleep(0.1)
        assert _gone(int(pid))
