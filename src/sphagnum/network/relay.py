"""TLS before the server: bytes passed between a caller and the server on loopback, with the caller's address told first."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import ssl
import threading

HANDSHAKE_S = 10.0
MOST_CONNECTIONS = 400
CHUNK = 65536


class Relay:
    """Takes connections on a socket of its own, in a thread of its own, until it is closed.

    ``word``: what the server knows the relay by; it and the caller's address go before the first byte.
    """

    def __init__(self, listening: socket.socket, server_port: int, word: str, leaf: str, key: str) -> None:
        self._listening, self._port, self._word = listening, server_port, word
        self._tls = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        self._tls.minimum_version = ssl.TLSVersion.TLSv1_2
        self.renewed(leaf, key)
        self._open = 0
        self._loop = asyncio.new_event_loop()
        self._ready = threading.Event()
        threading.Thread(target=self._run, name="relay", daemon=True).start()
        self._ready.wait(5.0)

    def renewed(self, leaf: str, key: str) -> None:
        """From now on, the certificate that callers are shown."""
        self._tls.load_cert_chain(leaf, key)

    def close(self) -> None:
        """No more connections; those there are end."""
        with contextlib.suppress(RuntimeError):
            self._loop.call_soon_threadsafe(self._loop.stop)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        self._loop.set_exception_handler(lambda *_: None)  # a caller that goes away in the midst is nobody's fault
        serving = asyncio.start_server(self._pass_on, sock=self._listening, ssl=self._tls, ssl_handshake_timeout=HANDSHAKE_S,
                                       ssl_shutdown_timeout=2.0, backlog=128)
        self._loop.run_until_complete(serving)
        self._ready.set()
        self._loop.run_forever()

    async def _pass_on(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if self._open >= MOST_CONNECTIONS:
            writer.transport.abort()
            return
        self._open += 1
        inside: asyncio.StreamWriter | None = None
        try:
            caller = str((writer.get_extra_info("peername") or ("",))[0])
            answers, inside = await asyncio.open_connection("127.0.0.1", self._port)
            inside.write(f"{self._word} {caller}\r\n".encode())
            ways = [asyncio.ensure_future(_pump(reader, inside)), asyncio.ensure_future(_pump(answers, writer))]
            _, left = await asyncio.wait(ways, return_when=asyncio.FIRST_COMPLETED)
            for way in left:  # what was already on its way back gets there; nobody waits for what may never come
                with contextlib.suppress(asyncio.TimeoutError, OSError):
                    await asyncio.wait_for(way, 0.5 if way is ways[0] else 30.0)
        except OSError:
            pass
        finally:
            self._open -= 1
            for end in (inside, writer):
                if end is not None:
                    with contextlib.suppress(OSError, RuntimeError):
                        end.close()


async def _pump(source: asyncio.StreamReader, sink: asyncio.StreamWriter) -> None:
    with contextlib.suppress(OSError, ssl.SSLError):
        while data := await source.read(CHUNK):
            sink.write(data)
            await sink.drain()
