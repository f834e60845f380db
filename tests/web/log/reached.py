"""Something that answers at an address of this machine, well or badly, and a broker."""

from __future__ import annotations

import asyncio
import json
import threading
import time
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer


class Answering(BaseHTTPRequestHandler):
    """Answers by its path."""

    def do_GET(self):
        self.server.asked.append(self.path)
        kind = self.path.strip("/").split("?")[0]
        try:
            getattr(self, f"_{kind}", self._json)()
        except OSError:
            return

    def do_POST(self):
        told = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        self.server.told.append(told)
        self.server.says["on"] = told["on"]
        self._json()

    def _send(self, body, kind="application/json", status=200, **headers):
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        for key, value in headers.items():
            self.send_header(key, value)
        self.end_headers()
        self.wfile.write(body)

    def _json(self):
        says = self.server.says
        self._send(json.dumps(says() if callable(says) else says).encode())

    def _html(self):
        self._send(b"<!doctype html><title>Sign in</title>", "text/html")

    def _away(self):
        self._send(b"", status=302, Location="http://127.0.0.1:1/secret")

    def _broken(self):
        self._send(b'{"error": "no"}', status=500)

    def _hangs(self):
        self.server.gone.wait(30)

    def _drips(self):
        """Headers at once, then a byte now and then."""
        self.send_response(200)
        self.end_headers()
        for _ in range(100):
            self.wfile.write(b" ")
            self.wfile.flush()
            if self.server.gone.wait(0.1):
                return

    def _huge(self):
        """A hundred megabytes, as far as anybody reads them."""
        self.send_response(200)
        self.end_headers()
        for _ in range(1600):
            self.wfile.write(b"1" * 65536)
            self.server.wrote += 65536

    def log_message(self, *args):
        pass


@contextmanager
def answering(says):
    """A server that says something; gives it, with what it was asked and told."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), Answering)
    server.says, server.asked, server.told, server.wrote = says, [], [], 0
    server.gone = threading.Event()
    server.daemon_threads = True
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield server
    finally:
        server.gone.set()
        server.shutdown()
        server.server_close()
        thread.join(5)


@contextmanager
def broker(port):
    """A broker that lets anybody in; gives what says something at it."""
    from amqtt.broker import Broker

    loop = asyncio.new_event_loop()
    found = None
    ready = threading.Event()

    def run():
        nonlocal found
        asyncio.set_event_loop(loop)

        async def begin():
            nonlocal found
            plugins = {"amqtt.plugins.authentication.AnonymousAuthPlugin": {"allow_anonymous": True}}
            listens = {"default": {"type": "tcp", "bind": f"127.0.0.1:{port}"}}
            found = Broker({"listeners": listens, "plugins": plugins})
            await found.start()
            ready.set()

        loop.run_until_complete(begin())
        loop.run_forever()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert ready.wait(20)

    def say(messages, retain=False, apart_s=0.0):
        async def publish():
            import aiomqtt

            async with aiomqtt.Client("127.0.0.1", port) as client:
                for topic, payload in messages:
                    await client.publish(topic, payload, retain=retain, qos=1)
                    if apart_s:
                        await asyncio.sleep(apart_s)

        asyncio.run(publish())

    try:
        yield say
    finally:
        asyncio.run_coroutine_threadsafe(found.shutdown(), loop).result(10)
        time.sleep(0.1)
        loop.call_soon_threadsafe(loop.stop)
        thread.join(5)
