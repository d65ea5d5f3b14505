"""The browser's way out: a proxy on this machine that holds every connection against the rule for private addresses.

A page can lead a browser to an address in many ways: redirects, WebSockets, names that resolve to the user's own
network, once or on the second look. All of them are connections in the end, so connections are what is held against
the rule, by the address that is connected to. SOCKS protocol version 5 (RFC 1928), without authentication.
"""

import asyncio
import ipaddress
import socket
import struct
import threading
from collections import OrderedDict
from collections.abc import Coroutine
from contextlib import suppress
from typing import Any

from pickcrate.fetch.exchange import Failure
from pickcrate.fetch.private import REFUSED, is_private
from pickcrate.values.cause import Cause

_VERSION, _CONNECT, _NO_AUTHENTICATION = 5, 1, b"\x05\x00"
_IPV4, _NAME, _IPV6 = 1, 3, 4
_GRANTED, _NOT_ALLOWED, _UNREACHABLE, _REFUSED, _NOT_A_COMMAND = 0, 2, 4, 5, 7
_PIECE = 65_536
_MOST_KEPT = 2_000
_UNKNOWN_HOST = Failure(Cause.HOST, "unknown host")
_NO_CONNECTION = Failure(Cause.REFUSED, "no connection: the server refused it or cannot be reached")


class Guard:
    """The proxy, in a thread of its own. Private addresses can be reached while ``allows_private`` is set."""

    def __init__(self, timeout: float) -> None:
        self.failures: OrderedDict[str, Failure] = OrderedDict()
        """why hosts could not be connected to, the last ones"""
        self.port = 0
        self._timeout = timeout
        self._allows_private = False
        self._loop = asyncio.new_event_loop()
        self._server: asyncio.Server | None = None
        self._relays: set[asyncio.Task[None]] = set()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True, name="pickcrate-guard")

    def start(self) -> None:
        """Listen on a free port of this machine."""
        self._thread.start()
        self.port = self._done(self._listen())

    def close(self) -> None:
        """End all connections, and listen no more."""
        with suppress(RuntimeError, TimeoutError):
            self._done(self._end())
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(5)
        self._loop.close()

    def allow_private(self, *, allowed: bool) -> None:
        """Let connections to private addresses through from now on, or no more; what is open is cut in that case."""
        allowed_before, self._allows_private = self._allows_private, allowed
        if allowed_before and not allowed:
            self._done(self._cut())

    def _done(self, work: Coroutine[Any, Any, Any]) -> Any:
        return asyncio.run_coroutine_threadsafe(work, self._loop).result(10)

    async def _listen(self) -> int:
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0)
        return int(self._server.sockets[0].getsockname()[1])

    async def _end(self) -> None:
        if self._server is not None:
            self._server.close()
        await self._cut()

    async def _cut(self) -> None:
        relays = list(self._relays)
        for relay in relays:
            relay.cancel()
        await asyncio.gather(*relays, return_exceptions=True)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        task = asyncio.current_task()
        if task is not None:
            self._relays.add(task)
            task.add_done_callback(self._relays.discard)
        try:
            await self._relay(reader, writer)
        except (OSError, EOFError, TimeoutError, ValueError):
            pass  # one of the two sides went away
        except asyncio.CancelledError:
            pass  # only ``_cut`` cancels; asyncio of Python 3.11 prints a traceback of a handler that ends as cancelled
        finally:
            writer.close()

    async def _relay(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        version, methods = await reader.readexactly(2)
        await reader.readexactly(methods)
        if version != _VERSION:
            return
        writer.write(_NO_AUTHENTICATION)
        _, command, _, kind = await reader.readexactly(4)
        host = await _host(reader, kind)
        (port,) = struct.unpack("!H", await reader.readexactly(2))
        code = _NOT_A_COMMAND
        outer = None
        if command == _CONNECT:
            code, outer = await self._connect(host, port)
        try:
            writer.write(bytes((_VERSION, code, 0, _IPV4)) + bytes(6))
            await writer.drain()
            if outer is not None:
                outer_reader, outer_writer = outer
                await asyncio.gather(_pass(reader, outer_writer), _pass(outer_reader, writer))
        finally:
            if outer is not None:
                outer[1].close()

    async def _connect(
        self, host: str, port: int
    ) -> tuple[int, tuple[asyncio.StreamReader, asyncio.StreamWriter] | None]:
        """Return a code of RFC 1928, 6, and the connection if there is one."""
        try:
            found = await self._loop.getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError):
            self._note(host, _UNKNOWN_HOST)
            return _UNREACHABLE, None
        addresses = list(dict.fromkeys(str(where[0]) for *_, where in found))
        allowed = addresses if self._allows_private else [one for one in addresses if not is_private(one)]
        if not allowed:
            self._note(host, REFUSED)
            return _NOT_ALLOWED, None
        for address in allowed:
            with suppress(OSError):  # which a TimeoutError is as well
                # Not ``wait_for``: that of Python 3.11 lets a cancellation go that comes as the connection does.
                async with asyncio.timeout(self._timeout):
                    return _GRANTED, await asyncio.open_connection(address, port)
        self._note(host, _NO_CONNECTION)
        return _REFUSED, None

    def _note(self, host: str, failure: Failure) -> None:
        self.failures[host] = failure
        self.failures.move_to_end(host)
        if len(self.failures) > _MOST_KEPT:
            self.failures.popitem(last=False)


async def _host(reader: asyncio.StreamReader, kind: int) -> str:
    """Return the name or the address that is asked for (RFC 1928, 5)."""
    if kind == _NAME:
        (length,) = await reader.readexactly(1)
        return (await reader.readexactly(length)).decode("ascii", "replace")
    if kind not in {_IPV4, _IPV6}:
        raise ValueError("no kind of address")
    return str(ipaddress.ip_address(await reader.readexactly(4 if kind == _IPV4 else 16)))


async def _pass(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    """Pass on what comes until it ends."""
    while piece := await reader.read(_PIECE):
        writer.write(piece)
        await writer.drain()
    with suppress(OSError):
        writer.write_eof()
