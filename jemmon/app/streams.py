"""How many screens may listen at once. Each holds a thread of the server while it does, so there is a cap, and one that never reads
what it is sent is let go."""

import threading

MOST_STREAMS = 12


class Streams:
    """Counts those who listen, each of whom gets a frame every `frame_s` [s] at the most; `stop` lets all go."""

    def __init__(self, frame_s: float, most: int = MOST_STREAMS):
        self.most, self.frame_s = most, frame_s
        self._lock, self._count, self._is_stopped = threading.Lock(), 0, False

    def enter(self) -> bool:
        """Take a place; return whether there was one."""
        with self._lock:
            if self._count >= self.most or self._is_stopped:
                return False
            self._count += 1
            return True

    def leave(self) -> None:
        """Give a place back."""
        with self._lock:
            self._count -= 1

    def stop(self) -> None:
        """Let all go: the server ends."""
        self._is_stopped = True

    @property
    def is_stopped(self) -> bool:
        """Whether the server ends."""
        return self._is_stopped
