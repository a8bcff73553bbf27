"""What is made once, however many ask for it at the same time, and kept for a while."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Future
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Once(Generic[K, V]):
    """The last things made, by their key: asking for one again is looking up, asking while it is made is waiting."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._kept: OrderedDict[K, V] = OrderedDict()
        self._under_way: dict[K, Future[V]] = {}
        self._lock = threading.Lock()
        self.made = 0
        """How many were made, for those who measure."""

    def of(self, key: K, make: Callable[[], V]) -> V:
        """The one of that key, made if it is not there. What `make` raises, all who wait for it get, and nothing is kept."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
            waiting = self._under_way.get(key)
            if waiting is None:
                mine: Future[V] = Future()
                self._under_way[key] = mine
        if waiting is not None:
            return waiting.result()
        try:
            found = make()
        except BaseException as error:
            with self._lock:
                del self._under_way[key]
            mine.set_exception(error)
            raise
        with self._lock:
            del self._under_way[key]
            self._kept[key] = found
            self.made += 1
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)
        mine.set_result(found)
        return found
