"""Ask an address or listen at a broker once, bounded in time and size; what comes is not read here."""

from __future__ import annotations

import asyncio
import ssl
from contextlib import suppress
from typing import Any

from canopy.errors import QuantityError
from canopy_web.logbook.outside import Outside, outside

HTTP, MQTT = ("http", "https"), ("mqtt", "mqtts")
# An answer may take so long in all [s], and be so long [bytes].
PATIENCE_S, MOST_BYTES = 8.0, 1_000_000
# Topics that are offered, and how long one waits for another [s].
_MOST_TOPICS, _NOTHING_NEW_S = 40, 2.5


async def fetch(address: str, told: bytes | None = None) -> bytes:
    """Ask an address for its answer, or tell it something; raises QuantityError with what went wrong, in words for the
    person.
    """
    try:
        async with asyncio.timeout(PATIENCE_S):
            return await _got(await asyncio.to_thread(outside, address, HTTP), told)
    except TimeoutError:
        raise QuantityError(f"{address} gave no whole answer within {PATIENCE_S:g} s") from None


async def _got(there: Outside, told: bytes | None) -> bytes:
    import httpx

    host = f"[{there.host}]" if ":" in there.host else there.host
    method = "GET" if told is None else "POST"
    asks = {"Host": f"{host}:{there.port}", "Accept": "application/json", "Accept-Encoding": "identity"}
    if told is not None:
        asks["Content-Type"] = "application/json"
    try:
        async with (
            httpx.AsyncClient(timeout=PATIENCE_S, follow_redirects=False, trust_env=False) as client,
            client.stream(
                method, there.url, content=told, headers=asks, extensions={"sni_hostname": there.host}
            ) as answer,
        ):
            if answer.is_redirect:
                raise QuantityError(f"{there.host} sends us elsewhere ({answer.status_code}); that is not followed")
            if answer.status_code != 200:
                raise QuantityError(f"{there.host} answered {answer.status_code} {answer.reason_phrase}".strip())
            content = bytearray()
            async for piece in answer.aiter_raw():
                content += piece
                if len(content) > MOST_BYTES:
                    raise QuantityError(f"{there.host} gave more than {MOST_BYTES / 1e6:.0f} MB")
            return bytes(content)
    except httpx.ConnectError as error:
        why = "its certificate is not known here" if "CERTIFICATE" in str(error) else "nothing answers there"
        raise QuantityError(f"{there.host}:{there.port}: {why}") from None
    except (httpx.HTTPError, httpx.InvalidURL, ssl.SSLError) as error:
        raise QuantityError(f"{there.host}: {str(error) or type(error).__name__}") from None


def client_of(there: Outside, username: str, password: str, version: str) -> Any:
    """A client of a broker, not yet connected."""
    import aiomqtt
    from paho.mqtt.client import MQTTv5, MQTTv311

    tls = ssl.create_default_context() if there.scheme == "mqtts" else None
    return aiomqtt.Client(
        there.host if tls else there.number,
        there.port,
        username=username or None,
        password=password or None,
        protocol=aiomqtt.ProtocolVersion(MQTTv5 if version == "5" else MQTTv311),
        timeout=PATIENCE_S,
        tls_context=tls,
        max_queued_incoming_messages=1000,
    )


def topic_of(there: Outside) -> str:
    """The topics that an address names after its host; all of them where it names none."""
    return there.path.lstrip("/").split("?")[0] or "#"


async def hear(address: str, username: str = "", password: str = "", version: str = "3.1.1") -> list[tuple[str, bytes]]:
    """Listen at a broker until each topic that speaks was heard once, or a few seconds are over."""
    import aiomqtt

    there = await asyncio.to_thread(outside, address, MQTT)
    heard: dict[str, bytes] = {}
    try:
        async with asyncio.timeout(PATIENCE_S):
            async with client_of(there, username, password, version) as client:
                await client.subscribe(topic_of(there))
                with suppress(TimeoutError):
                    await _listened(client, heard)
    except TimeoutError:
        raise QuantityError(f"{there.host} did not answer within {PATIENCE_S:g} s") from None
    except (aiomqtt.MqttError, OSError, ValueError) as error:
        raise QuantityError(f"{there.host}:{there.port}: {error}") from None
    if not heard:
        raise QuantityError(f"nothing was said under “{topic_of(there)}” within {PATIENCE_S / 2:g} s")
    return list(heard.items())


async def _listened(client: Any, heard: dict[str, bytes]) -> None:
    """Hear each topic once; over when nothing new was said for a while."""
    last = asyncio.get_running_loop().time() + PATIENCE_S / 2
    async with asyncio.timeout_at(last) as patience:
        async for message in client.messages:
            topic, payload = str(message.topic), bytes(message.payload or b"")
            if topic not in heard and len(payload) <= MOST_BYTES:
                heard[topic] = payload
                patience.reschedule(min(last, asyncio.get_running_loop().time() + _NOTHING_NEW_S))
            if len(heard) >= _MOST_TOPICS:
                return
