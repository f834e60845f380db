"""Serve the application: one process, a few threads, every request taken in whole before a thread looks at it."""

from __future__ import annotations

import argparse
import os
from collections.abc import Sequence

from canopy_web.tidying import Tidied, spare_memory

THREADS = 4
# A request that is not whole by then is dropped; so is a client that reads nothing of its answer [s].
PATIENCE_S = 30
# What a body may have: a picture with its form [bytes].
LARGEST = 20_000_000


def parser() -> argparse.ArgumentParser:
    """What may be said on the command line."""
    found = argparse.ArgumentParser(prog="mild-canopy serve", description="Serve Mild Canopy.")
    found.add_argument(
        "--host", default="127.0.0.1", help="address to listen at (default 127.0.0.1: this machine only)"
    )
    found.add_argument("--port", type=int, default=8000)
    found.add_argument(
        "--https",
        type=int,
        default=None,
        help="port for encrypted connections, with a certificate of this server's own (default 8443 where it listens "
        "to the network and there is no proxy; 0 for none)",
    )
    found.add_argument("--no-worker", action="store_true", help="begin no worker beside: it runs by itself elsewhere")
    found.add_argument("--threads", type=int, default=THREADS)
    found.add_argument(
        "--proxy",
        default=os.environ.get("MILD_CANOPY_PROXY", ""),
        help="address of a trusted reverse proxy in front, such as 127.0.0.1",
    )
    return found


def main(argv: Sequence[str] | None = None) -> None:
    """Serve what is ready already."""
    run(parser().parse_args(argv))


def run(given: argparse.Namespace) -> None:
    """Serve until stopped.

    A request waits in a buffer, not in a thread, until all of it is there: half-sent ones stop nobody. ``--proxy`` is
    the address of a reverse proxy whose word on address, scheme and host is taken; nobody else's is.
    """
    spare_memory()
    import waitress

    from canopy_web.beside import keep_out, run_beside

    keep_out()
    from canopy_web.wsgi import application

    run_beside()
    trusted = {}
    if given.proxy:
        trusted = {
            "trusted_proxy": given.proxy,
            "trusted_proxy_count": 1,
            "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"},
            "log_untrusted_proxy_headers": True,
        }
    waitress.serve(
        Tidied(application),
        host=given.host,
        port=given.port,
        threads=given.threads,
        channel_timeout=PATIENCE_S,
        cleanup_interval=5,
        max_request_body_size=LARGEST,
        clear_untrusted_proxy_headers=True,
        ident=None,
        **trusted,
    )


if __name__ == "__main__":
    main()
