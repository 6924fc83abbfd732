"""A delivery as the writers of libraries want it: a stream of bytes that knows how many were written."""

from __future__ import annotations

from typing import Any

from mangler.formats.delivery import Delivery


class DeliveryStream:
    """A delivery as a stream that is written from start to end."""

    closed = False

    def __init__(self, delivery: Delivery) -> None:
        self._delivery, self._position = delivery, 0
        self.abandoned = False
        """Whether what a writer still writes, when it is taken away, goes nowhere."""

    def write(self, content: Any) -> int:
        view = memoryview(content)
        if not self.abandoned:
            self._delivery.write(view)
        self._position += view.nbytes
        return view.nbytes

    def tell(self) -> int:
        return self._position

    def flush(self) -> None:
        pass

    def close(self) -> None:
        pass

    def seekable(self) -> bool:
        return False

    def readable(self) -> bool:
        return False

    def writable(self) -> bool:
        return True
