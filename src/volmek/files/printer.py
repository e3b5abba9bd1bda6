"""Turns HTML into PDF in a process of its own: laying out takes seconds and memory, and the server goes on meanwhile.

The process starts with the first print, stays for the next ones, and ends with the server.
"""

import atexit
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures import TimeoutError as NotYetError
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from volmek.files.background import give_way

TEMPLATES = Path(__file__).parent / "templates"


def laid_out(html: str) -> bytes:
    """A paper as PDF, in this process; nothing outside the package is read.

    Raises
    ------
    OSError : the system library that lays out text is missing, or the paper cannot be laid out.
    """
    try:
        import weasyprint  # needs libpango
        from weasyprint.urls import URLFetcher

        fetcher = URLFetcher(allowed_protocols={"file", "data"})
        data = weasyprint.HTML(string=html, base_url=f"{TEMPLATES}/", url_fetcher=fetcher).write_pdf(pdf_tags=True)
    except OSError:
        raise
    except Exception as error:  # said in words, since an error of the library may not travel between processes
        raise OSError(f"{type(error).__name__}: {error}") from None
    assert isinstance(data, bytes)
    return data


#: Seconds between two looks at whether a print is still wanted.
LOOK_S = 0.1


def _heed(stop: Any) -> None:
    """In the other process, first of all: it ends in the middle of a page when its print is not wanted any more."""
    give_way()

    def watch() -> None:
        while not stop.value:
            time.sleep(LOOK_S)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


class Printer:
    """The other process, started when it is needed; one print at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._context = get_context("spawn")
        self._stop: Any = None
        self._pool: ProcessPoolExecutor | None = None

    def pdf(self, html: str, look: Callable[[], None] = lambda: None) -> bytes:
        """A paper as PDF.

        Parameters
        ----------
        html : the paper
        look : called again and again while it is laid out; what it raises ends the print

        Raises
        ------
        OSError : it cannot be laid out, or the printing process has ended.
        """
        while not self._lock.acquire(timeout=LOOK_S):  # another paper is on the press
            look()
        try:
            return self._printed(html, look)
        finally:
            self._lock.release()

    def _printed(self, html: str, look: Callable[[], None]) -> bytes:
        try:
            printing = self._begun().submit(laid_out, html)
        except BrokenProcessPool:  # it was ended while it stood idle: a new one
            self.close()
            printing = self._begun().submit(laid_out, html)
        try:
            while True:
                try:
                    return printing.result(LOOK_S)
                except NotYetError:
                    look()
        except BrokenProcessPool as error:
            self.close()
            raise OSError("the printing process has ended; print again") from error
        except BaseException:
            if not printing.done():
                self._stop.value = 1
                self.close()
            raise

    def _begun(self) -> ProcessPoolExecutor:
        if self._pool is None:
            self._stop = self._context.Value("b", 0, lock=False)
            self._pool = ProcessPoolExecutor(1, self._context, _heed, (self._stop,))
        return self._pool

    def close(self) -> None:
        """End the process."""
        pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(cancel_futures=True)


PRINTER = Printer()
atexit.register(PRINTER.close)
