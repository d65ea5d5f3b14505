"""The network of one run: libcurl and what earlier runs kept, loaded and opened when something is first asked for.

A page on disk, looked at as it is shown, needs neither, and loading them takes a fifth of what that takes.
"""

from collections.abc import Callable, Iterable, Iterator
from itertools import chain
from typing import TYPE_CHECKING

from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher, Manners, Reply, Request, Traffic
from pickcrate.values.trust import Trust

if TYPE_CHECKING:
    from pickcrate.fetch.cache import Cache
    from pickcrate.fetch.shared import Shared


class Network:
    """What the fetchers of one run go through."""

    def __init__(self, manners: Manners, open_cache: "Callable[[], Cache]") -> None:
        self._manners = manners
        self._open_cache = open_cache
        self._shared: Shared | None = None

    @property
    def shared(self) -> "Shared":
        """What the fetchers share."""
        if self._shared is None:
            from pickcrate.fetch.shared import Shared  # noqa: PLC0415

            self._shared = Shared(self._open_cache(), self._manners.cookies)
        return self._shared

    def fetcher(self, brought: Brought) -> "LateFetcher":
        """Return a fetcher, to be closed by who asked for it; it answers what sources brought along from that."""
        return LateFetcher(self._manners, brought, self)

    def close(self) -> None:
        """Close what was opened; the fetchers are closed before."""
        if self._shared is not None:
            self._shared.cache.close()


class LateFetcher:
    """A fetcher that loads libcurl for the first request that nothing at hand answers."""

    def __init__(self, manners: Manners, brought: Brought, network: Network) -> None:
        self._manners = manners
        self._brought = brought
        self._network = network
        self._fetcher: Fetcher | None = None

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, as they come. Raises what the fetcher over libcurl does."""
        pending = iter(requests)
        if self._fetcher is None:
            for request in pending:
                reply = self._brought.answer(request, self._manners.max_file)
                if reply is None:
                    pending = chain((request,), pending)
                    break
                yield reply
            else:
                return
        yield from self._connected().fetch(pending)

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source brought along for an address; empty if it did not."""
        return self._brought.version(url, trust)

    def close(self) -> None:
        """Close all connections."""
        if self._fetcher is not None:
            self._fetcher.close()

    def _connected(self) -> Fetcher:
        if self._fetcher is None:
            from pickcrate.fetch.transfer import CurlFetcher  # noqa: PLC0415

            self._fetcher = CurlFetcher(self._manners, self._brought, self._network.shared)
        return self._fetcher
