"""Turns HTML into PDF in a process of its own: laying out takes seconds and memory, and the server goes on meanwhile.

The process starts with the first print, stays for the next ones, and ends with the server.
"""

import atexit
import threading
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path

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


class Printer:
    """The other process, started when it is needed; one print at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def pdf(self, html: str) -> bytes:
        """A paper as PDF.

        Raises
        ------
        OSError : it cannot be laid out, or the printing process has ended.
        """
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(1, mp_context=get_context("spawn"))
            try:
                return self._pool.submit(laid_out, html).result()
            except BrokenProcessPool as error:
                self.close()
                raise OSError("the printing process has ended; print again") from error

    def close(self) -> None:
        """End the process."""
        pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(cancel_futures=True)


PRINTER = Printer()
atexit.register(PRINTER.close)
