"""A rig over Modbus TCP: its channels read in a few requests, its devices set."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ModbusException

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.registers import number_of, shown, spans, words_of

if TYPE_CHECKING:
    from wolfsbane.rig.rig import Device, Rig

#: how long a rig may take to answer, s
_TIMEOUT_S = 1.0


class RigSilentError(OSError):
    """A rig that does not answer, or answers with an error; the message says which."""


def host_and_port(address: str) -> tuple[str, int]:
    """("host", port) of an address; port 502 where none stands. Raises BadInputError."""
    host, _, port = address.rpartition(":") if ":" in address else (address, "", "502")
    if not host or not port.isdigit() or not 0 < int(port) < 65_536:
        raise BadInputError("address", address, "host:port, as 192.0.2.10:502")
    return host, int(port)


class RigLine:
    """A connection to one rig, opened when it is first used and again after it was lost."""

    def __init__(self, rig: Rig) -> None:
        self.rig = rig
        host, port = host_and_port(rig.address)
        self._client = ModbusTcpClient(host, port=port, timeout=_TIMEOUT_S, retries=0)

    def close(self) -> None:
        """Hang up."""
        self._client.close()

    def read(self) -> tuple[float | None, dict[str, float | None]]:
        """(seconds of the rig's clock or None, SI value of each point or None where no sensor could show it).

        Raises RigSilentError.
        """
        held: dict[tuple[str, int], int] = {}
        for table, first, count in spans(self.rig.channels):
            for i, word in enumerate(self._registers(table, first, count)):
                held[table, first + i] = word
        found: dict[str, float | None] = {}
        for channel in self.rig.channels:
            words = [held[key] for i in (0, 1) if (key := (channel.table, channel.register + i)) in held]
            found[channel.point] = shown(channel, number_of(channel.type, words))
        clock = None if self.rig.clock is None else number_of("uint32", self._registers("input", self.rig.clock, 2))
        return clock, found

    def positions(self) -> dict[str, float]:
        """Where each device that can be asked stands. Raises RigSilentError."""
        return {
            d.id: number_of("float32", self._registers("holding", d.register, 2))
            for d in self.rig.devices
            if d.register is not None
        }

    def set(self, device: Device, position: float) -> None:
        """Moves a device. Raises BadInputError for one that only a hand moves, RigSilentError where nobody answers."""
        if device.register is None:
            raise BadInputError("device", device.name, "a device with a register; this one is set by hand")
        self._asked(
            lambda: self._client.write_registers(
                device.register, words_of("float32", position), device_id=self.rig.unit_id
            )
        )

    def _registers(self, table: str, first: int, count: int) -> list[int]:
        ask: Any = self._client.read_input_registers if table == "input" else self._client.read_holding_registers
        words = list(self._asked(lambda: ask(first, count=count, device_id=self.rig.unit_id)).registers)
        if len(words) < count:
            raise RigSilentError(f"it sent {len(words)} of {count} registers from {first} on")
        return words

    def _asked(self, ask: Any) -> Any:
        try:
            if not self._client.connected and not self._client.connect():
                raise RigSilentError(f"nobody answers at {self.rig.address}")
            reply = ask()
        except (ModbusException, OSError) as error:
            self._client.close()
            if isinstance(error, RigSilentError):
                raise
            raise RigSilentError(f"{self.rig.address} stopped answering") from error
        if reply.isError():
            raise RigSilentError(f"{self.rig.address} refuses a register of the map ({reply})")
        return reply
