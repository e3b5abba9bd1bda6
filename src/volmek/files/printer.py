"""Turns HTML into PDF in a process of its own: laying out takes seconds and memory, and the server goes on meanwhile.

The process starts with the first print, stays for the next ones, and ends by itself when the server does, whose end closes
its input. Both sides write a length of eight bytes, then that many bytes; a negative length is that of a sentence on what
went wrong.
"""

import atexit
import struct
import subprocess
import sys
import threading
from pathlib import Path
from typing import IO

TEMPLATES = Path(__file__).parent / "templates"
LENGTH = struct.Struct(">q")


class Printer:
    """The other process, started when it is needed; one print at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def pdf(self, html: str) -> bytes:
        """A paper as PDF; nothing outside the package is read.

        Raises
        ------
        OSError : the system library that lays out text is missing, or the printing process has ended.
        """
        with self._lock:
            process = self._running()
            assert process.stdin is not None and process.stdout is not None
            try:
                _write(process.stdin, html.encode())
                length, data = _read(process.stdout)
            except (OSError, EOFError) as error:
                self.close()
                raise OSError("the printing process has ended; print again") from error
            if length < 0:
                raise OSError(data.decode())
            return data

    def _running(self) -> "subprocess.Popen[bytes]":
        if self._process is None or self._process.poll() is not None:
            command = [sys.executable, "-m", "volmek.files.printer"]
            self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        return self._process

    def close(self) -> None:
        """End the process."""
        process, self._process = self._process, None
        if process is not None and process.stdin is not None and process.stdout is not None:
            process.kill()
            process.wait()
            process.stdin.close()
            process.stdout.close()


def _write(to: IO[bytes], data: bytes, sign: int = 1) -> None:
    to.write(LENGTH.pack(sign * len(data)))
    to.write(data)
    to.flush()


def _read(from_: IO[bytes]) -> tuple[int, bytes]:
    head = from_.read(LENGTH.size)
    if len(head) < LENGTH.size:
        raise EOFError
    (length,) = LENGTH.unpack(head)
    data = from_.read(abs(length))
    if len(data) < abs(length):
        raise EOFError
    return length, data


def _print(html: bytes) -> bytes:
    import weasyprint  # needs libpango
    from weasyprint.urls import URLFetcher

    fetcher = URLFetcher(allowed_protocols={"file", "data"})
    data = weasyprint.HTML(string=html.decode(), base_url=f"{TEMPLATES}/", url_fetcher=fetcher).write_pdf()
    assert isinstance(data, bytes)
    return data


def main() -> None:
    """Print what comes in until nothing more comes."""
    out, sys.stdout = sys.stdout.buffer, sys.stderr
    while True:
        try:
            _, html = _read(sys.stdin.buffer)
        except EOFError:
            return
        try:
            _write(out, _print(html))
        except Exception as error:
            _write(out, f"{type(error).__name__}: {error}".encode(), -1)


PRINTER = Printer()
atexit.register(PRINTER.close)

if __name__ == "__main__":
    main()
