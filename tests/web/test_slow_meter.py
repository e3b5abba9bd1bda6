"""A meter that answers, but a byte at a time: the reading is ended, and says so."""

import socket
import threading
import time

import pytest

from volmek.meters import client
from volmek.meters.registers import MeterSettings, stand_in_map


def test_a_slow_meter_holds_nobody_for_long(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(client, "WHOLE_S", 1.0)
    over = threading.Event()
    with socket.create_server(("127.0.0.1", 0)) as server:

        def drip() -> None:
            connection, _ = server.accept()
            with connection:
                asked = connection.recv(300)
                answer = asked[:4] + bytes([0, 253, 1, 3, 250])  # a long answer is announced
                for byte in answer + bytes(250):
                    if over.wait(0.2):
                        return
                    try:
                        connection.send(bytes([byte]))
                    except OSError:
                        return

        threading.Thread(target=drip, daemon=True).start()
        began = time.monotonic()
        read = client.read_meter(MeterSettings(port=server.getsockname()[1], timeout_s=30, registers=stand_in_map()))
        over.set()
    assert "too slow: after 1 s the reading was ended" in read.problem and read.missing
    assert time.monotonic() - began < 15
