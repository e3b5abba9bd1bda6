"""Reads a panel meter once: every quantity of its map, or as many as it gives, with one sentence on what went wrong."""

import logging
import socket
import threading
from collections.abc import Sequence
from contextlib import suppress
from math import isfinite

from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ConnectionException, ModbusException, ModbusIOException
from pymodbus.pdu import ModbusPDU

from volmek.meters.registers import QUANTITIES, MeterSettings, Readout, Register

logging.getLogger("pymodbus").setLevel(logging.CRITICAL)  # what goes wrong is said in the readout
#: Answers of a meter by code, in words.
ANSWERS = {
    1: "it does not know this kind of request",
    2: "it has no such register",
    3: "it does not accept the request",
    4: "it has a fault of its own",
}
#: A whole reading takes no longer, however long the meter may take for each register.
WHOLE_S = 20.0
#: Mains frequencies; another one shows a wrong map.
MAINS_HZ = (40.0, 70.0)


def read_meter(settings: MeterSettings, quantities: Sequence[str] = ()) -> Readout:
    """Read quantities, all of the map by default; what came before a fault is kept.

    Parameters
    ----------
    settings : address and register map
    quantities : names to be read; what has not come after 20 s is missing
    """
    over = threading.Event()
    mapped = {r.quantity: r for r in settings.registers}
    asked = list(quantities or mapped)
    unknown = [q for q in asked if q not in mapped]
    if unknown:
        return Readout({}, f"The register map does not say where {', '.join(unknown)} stands.", tuple(asked))
    where = f"{settings.host}:{settings.port}"
    values: dict[str, float] = {}
    client = ModbusTcpClient(settings.host, port=settings.port, timeout=settings.timeout_s, retries=0)
    problem = ""

    def end() -> None:
        """Hang up on a meter that is too slow, also in the middle of an answer."""
        over.set()
        if client.socket is not None:
            with suppress(OSError):
                client.socket.shutdown(socket.SHUT_RDWR)

    whole = threading.Timer(WHOLE_S, end)
    whole.daemon = True
    whole.start()
    try:
        if not client.connect():
            return Readout(
                {},
                f"The meter at {where} cannot be reached: check address, cable and whether it is switched on.",
                tuple(asked),
            )
        for name in asked:
            value, problem = _read(client, settings, mapped[name])
            if problem:
                break
            values[name] = value
    except ConnectionException:
        problem = f"The meter at {where} closed the connection."
    finally:
        whole.cancel()
        client.close()
    if over.is_set() and len(values) < len(asked):
        problem = f"The meter at {where} is too slow: after {WHOLE_S:g} s the reading was ended."
    missing = tuple(q for q in asked if q not in values)
    if missing and values and not problem.endswith("map."):
        problem += f" {len(values)} of {len(asked)} values had come and are kept."
    return Readout(values, problem, missing)


def _read(client: ModbusTcpClient, settings: MeterSettings, r: Register) -> tuple[float, str]:
    kind = getattr(client.DATATYPE, r.type.upper())
    count = kind.value[1]
    ask = client.read_holding_registers if settings.table == "holding" else client.read_input_registers
    try:
        answer: ModbusPDU = ask(r.address, count=count, device_id=settings.device_id)
    except ModbusIOException:
        return 0.0, f"The meter fell silent at {r.quantity} (register {r.address})."
    except ModbusException as error:
        return 0.0, f"The meter's answer at {r.quantity} cannot be read: {error}."
    if answer.isError():
        words = ANSWERS.get(getattr(answer, "exception_code", 0), "it refuses")
        return 0.0, f"The meter answers for {r.quantity} at register {r.address}: {words}; check the register map."
    raw = client.convert_from_registers(answer.registers, kind, word_order=settings.word_order)
    value = float(raw) * r.scale if isinstance(raw, int | float) else float("nan")
    unit, low, high = QUANTITIES[r.quantity]
    odd = not isfinite(value) or not low <= value <= high
    if odd or (r.quantity == "frequency" and value != 0 and not MAINS_HZ[0] <= value <= MAINS_HZ[1]):
        shown = f"{value:g}" if isfinite(value) else "no number"
        return (
            0.0,
            f"What stands at register {r.address} ({shown} {unit}".rstrip()
            + f") cannot be {r.quantity}: check the register map.",
        )
    return value, ""
