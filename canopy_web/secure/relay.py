"""Take encrypted connections in and hand what comes through them to the server beside, with who it came from."""

from __future__ import annotations

import argparse
import asyncio
import logging
import os
from collections.abc import AsyncIterator, MutableMapping
from pathlib import Path
from typing import Any

from canopy_web.children import stay_with_parent

# What concerns one connection only and is not handed on (RFC 9110, 7.6.1), and what others may have made up.
_OWN = {
    b"connection",
    b"keep-alive",
    b"proxy-authenticate",
    b"proxy-authorization",
    b"te",
    b"trailer",
    b"transfer-encoding",
    b"upgrade",
    b"forwarded",
    b"x-forwarded-for",
    b"x-forwarded-proto",
    b"x-forwarded-host",
}
_PATIENCE_S, _LOOK_S, _MOST_AT_ONCE = 60.0, 6 * 3600.0, 200
Scope = MutableMapping[str, Any]


class Relay:
    """An application (ASGI) that asks the server beside for every answer."""

    def __init__(self, host: str, port: int) -> None:
        self.base = f"http://{f'[{host}]' if ':' in host else host}:{port}"
        self._client: Any = None

    async def __call__(self, scope: Scope, receive: Any, send: Any) -> None:
        """Hand one request on, and its answer back, piece by piece."""
        import httpx

        if scope["type"] != "http":
            return
        if self._client is None:
            limits = httpx.Limits(max_connections=_MOST_AT_ONCE, max_keepalive_connections=20)
            self._client = httpx.AsyncClient(timeout=_PATIENCE_S, trust_env=False, limits=limits)
        query = f"?{scope['query_string'].decode('latin-1')}" if scope["query_string"] else ""
        url = self.base + scope["raw_path"].decode("latin-1") + query
        asked = self._client.build_request(
            scope["method"], url, headers=_headers(scope), content=_body(receive) if _has_body(scope) else None
        )
        try:
            answer = await self._client.send(asked, stream=True)
        except httpx.HTTPError:
            await send({"type": "http.response.start", "status": 502, "headers": [(b"content-type", b"text/plain")]})
            await send({"type": "http.response.body", "body": b"The server is starting, or has stopped. Try again."})
            return
        try:
            kept = [(key.lower(), value) for key, value in answer.headers.raw if key.lower() not in _OWN]
            await send({"type": "http.response.start", "status": answer.status_code, "headers": kept})
            async for piece in answer.aiter_raw():
                await send({"type": "http.response.body", "body": piece, "more_body": True})
            await send({"type": "http.response.body", "body": b""})
        finally:
            await answer.aclose()


def _has_body(scope: Scope) -> bool:
    return any(key in (b"content-length", b"transfer-encoding") for key, _ in scope["headers"])


def _headers(scope: Scope) -> list[tuple[bytes, bytes]]:
    kept = [(key, value) for key, value in scope["headers"] if key not in _OWN]
    host = next((value for key, value in scope["headers"] if key == b"host"), b"localhost")
    far = (scope.get("client") or ("127.0.0.1", 0))[0]
    return [
        *kept,
        (b"x-forwarded-for", far.encode()),
        (b"x-forwarded-proto", b"https"),
        (b"x-forwarded-host", host),
    ]


async def _body(receive: Any) -> AsyncIterator[bytes]:
    more = True
    while more:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise ConnectionError("gone")
        more = message.get("more_body", False)
        if message.get("body"):
            yield message["body"]


def main() -> None:
    """Take connections in until stopped; ends where its certificate runs out, to be begun again with a new one."""
    given = argparse.ArgumentParser(prog="mild-canopy https")
    given.add_argument("--host", default="0.0.0.0")
    given.add_argument("--https", type=int, required=True)
    given.add_argument("--to", default="127.0.0.1")
    given.add_argument("--port", type=int, required=True)
    given.add_argument("--data", default=os.environ.get("MILD_CANOPY_DATA", "."))
    stay_with_parent()
    logging.basicConfig(level=logging.WARNING)
    asyncio.run(_run(given.parse_args()))


async def _run(given: argparse.Namespace) -> None:
    import uvicorn

    from canopy_web.secure.certificates import make_sure, own_names, papers, runs_out

    found = papers(Path(given.data))
    make_sure(found, own_names())
    config = uvicorn.Config(
        Relay(given.to, given.port),
        host=given.host,
        port=given.https,
        ssl_certfile=str(found.server),
        ssl_keyfile=str(found.server_key),
        log_level="warning",
        lifespan="off",
        server_header=False,
        date_header=False,
        proxy_headers=False,
        timeout_keep_alive=20,
        limit_concurrency=_MOST_AT_ONCE,
        h11_max_incomplete_event_size=64_000,
    )
    server = uvicorn.Server(config)

    async def renewed() -> None:
        while not runs_out(found):
            await asyncio.sleep(_LOOK_S)
        server.should_exit = True

    watching = asyncio.create_task(renewed())
    await server.serve()
    watching.cancel()


if __name__ == "__main__":
    main()
