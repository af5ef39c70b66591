"""Run simulated rigs that speak Modbus TCP: ``python -m wolfsbane.server.rigs.simulated``.

Each runs the stepped machine with parameters of its own (from its seed) in real time or faster; its devices are holding
registers, its channels and its clock input registers.
"""

from __future__ import annotations

import argparse
import asyncio
import sys
import threading

from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.rig.points import from_si
from wolfsbane.rig.registers import number_of, words_of, written
from wolfsbane.rig.rig import RIG, Rig
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.server.rigs.panel import Panel
from wolfsbane.server.rigs.panel import served as served_fronts

#: the usual channels of a simulated rig, by what its machine has
_POINTS = (
    ("suction_pressure", "psig"),
    ("head_pressure", "psig"),
    ("suction_line", "°F"),
    ("liquid_line", "°F"),
    ("discharge_line", "°F"),
    ("return_db", "°F"),
    ("return_rh", "%"),
    ("supply_db", "°F"),
    ("outdoor_db", "°F"),
    ("compressor_amps", "A"),
    ("weight", "oz"),
)
_DEVICES = (
    "liquid_valve",
    "bypass",
    "indoor_fan",
    "outdoor_fan",
    "condenser_board",
    "bulb_strap",
    "orifice_bypass",
    "charge",
    "solenoid",
    "switch",
)
_CLOCK, _FIRST_DEVICE, _SPAN = 900, 100, 1000
_ROUND_S = 0.1


def usual_rig(name: str, machine_id: str, port: int, place: str = "") -> Rig:
    """A rig as the simulated one of this machine is: its address, register map, devices and usual limits."""
    profile = machine(machine_id)
    kinds = [
        k
        for k in _DEVICES
        if not (k == "bulb_strap" and profile.metering != "txv")
        and not (k == "orifice_bypass" and profile.metering != "fixed_orifice")
    ]
    points = [p for p in _POINTS if not (profile.refrigeration and p[0] == "return_rh")]
    return RIG.read(
        {
            "schema": 1,
            "name": name,
            "place": place,
            "machine": machine_id,
            "address": f"127.0.0.1:{port}",
            "clock": _CLOCK,
            "channels": [{"point": p, "register": 2 * i, "unit": u} for i, (p, u) in enumerate(points)],
            "devices": [{"kind": k, "register": _FIRST_DEVICE + 2 * i} for i, k in enumerate(kinds)],
        }
    )


class Served:
    """One simulated rig behind its registers. ``speed`` is machine seconds in a second."""

    def __init__(self, running: SimulatedRig, speed: float) -> None:
        self.running, self.speed = running, speed
        #: held while the machine steps, is read or set: its front runs on a thread of its own
        self.held = threading.Lock()

    def device(self) -> SimDevice:
        """What the Modbus server serves."""
        block = SimData(0, count=_SPAN, values=0, datatype=DataType.REGISTERS)
        return SimDevice(self.running.rig.unit_id, simdata=[block], action=self._asked)

    async def _asked(
        self,
        code: int,
        start: int,
        address: int,
        count: int,
        registers: list[int],
        values: list[int] | list[bool] | None,
    ) -> ExcCodes | None:
        if values is None:
            self._show(registers)
            return None
        for device in self.running.rig.devices:
            if device.register == address and count == 2:
                with self.held:
                    self.running.set(device.id, number_of("float32", values))
                self._show(registers)
                return None
        return ExcCodes.ILLEGAL_ADDRESS

    def _show(self, registers: list[int]) -> None:
        with self.held:
            shown = self.running.readings()
        for channel in self.running.rig.channels:
            value = shown[channel.point]
            raw = float("nan") if value is None else from_si(channel.point, channel.unit, value) / channel.scale
            registers[channel.register : channel.register + 2] = words_of("float32", raw)
        for device in self.running.rig.devices:
            if device.register is not None:
                position = self.running.positions.get(device.id, 0.0)
                registers[device.register : device.register + 2] = words_of("float32", position)
        registers[_CLOCK : _CLOCK + 2] = words_of("uint32", self.running.seconds % 2**32)

    async def run(self) -> None:
        """Steps the machine on, as fast as it is told to."""
        loop = asyncio.get_running_loop()
        begin, done = loop.time(), 0.0
        while True:
            await asyncio.sleep(_ROUND_S)
            due = (loop.time() - begin) * self.speed
            # after a stall it goes on from where it is: no reading is made up for what nobody saw
            part = min(due - done, 10.0 * max(self.speed, 1.0))
            done = due
            with self.held:
                self.running.step(part)


async def serve(rigs: list[tuple[Served, int]], host: str = "127.0.0.1") -> None:
    """Serve each rig on its port until cancelled."""
    servers = [ModbusTcpServer(served.device(), address=(host, port)) for served, port in rigs]
    await asyncio.gather(*(s.serve_forever() for s in servers), *(served.run() for served, _ in rigs))


def _arguments(argv: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--ports", default="5020,5021", help="a port for each rig by comma (default 5020,5021)")
    parser.add_argument(
        "--machines",
        default="split-3t-r410a-txv,split-3t-r410a-orifice",
        help="machines by comma, a rig for each",
    )
    parser.add_argument("--seed", type=int, default=1, help="what makes the first rig its own; the next ones follow")
    parser.add_argument("--speed", type=float, default=1.0, help="machine seconds in a second, 1 to 100 (default 1)")
    parser.add_argument("--dead", default=None, help="a point whose channel shows nothing")
    parser.add_argument("--panel", type=int, default=5120, help="port of the rigs' fronts, 0 for none (default 5120)")
    parser.add_argument("--map", action="store_true", help="print the register maps as CSV and end")
    return parser.parse_args(argv)


def main(argv: list[str] | None = None) -> int:
    """Run until told to stop."""
    args = _arguments(argv)
    try:
        if not 1.0 <= args.speed <= 100.0:
            raise BadInputError("--speed", args.speed, "1 to 100")
        machines, ports = (text.split(",") for text in (args.machines, args.ports))
        if len(machines) != len(ports) or not all(p.strip().isdigit() for p in ports):
            raise BadInputError("--ports", args.ports, f"{len(machines)} ports by comma, one for each machine")
        wanted = [(m.strip(), int(p)) for m, p in zip(machines, ports, strict=True)]
        rigs = [(usual_rig(f"Rig {i + 1}", m, port), port) for i, (m, port) in enumerate(wanted)]
    except BadInputError as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2
    if args.map:
        for rig, _ in rigs:
            print(written(rig))
        return 0
    served = [
        (
            Served(
                SimulatedRig(rig=rig, profile=MACHINES[rig.machine], seed=args.seed + i, dead=args.dead), args.speed
            ),
            port,
        )
        for i, (rig, port) in enumerate(rigs)
    ]
    for rig, port in rigs:
        print(f"{rig.name}: {rig.machine} at 127.0.0.1:{port}", flush=True)
    if args.panel:
        try:
            served_fronts([Panel(one.running, one.held) for one, _ in served], args.panel)
            print(f"what somebody at the rigs would see: http://127.0.0.1:{args.panel}/1/", flush=True)
        except OSError as error:
            print(
                f"wolfsbane: --panel {args.panel}: {error.strerror}; the rigs run without their fronts", file=sys.stderr
            )
    try:
        asyncio.run(serve(served))
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main())
