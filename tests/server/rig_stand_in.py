"""A lab without time: rigs that answer from memory, a clock that is moved by hand, and a logger that is turned."""

from datetime import UTC, datetime, timedelta

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.server.rigs import logger as logger_module
from wolfsbane.server.rigs.logger import Logger
from wolfsbane.server.rigs.modbus import RigSilentError
from wolfsbane.server.rigs.simulated import usual_rig


class Lab:
    """Rigs by address; ``tick`` moves their machines and the clock, and turns the logger."""

    def __init__(self, monkeypatch, db):
        self.rigs, self.silent, self.shift = {}, set(), {}
        # the clock of the tests runs up to the present, so that what asks for the last hour finds it
        self.now = datetime.now(UTC) - timedelta(hours=6)
        lab = self

        class Line:
            def __init__(self, rig):
                self.rig = rig

            def read(self):
                if self.rig.address in lab.silent:
                    raise RigSilentError(f"nobody answers at {self.rig.address}")
                running = lab.rigs[self.rig.address]
                shown = running.readings()
                shown.update(lab.shift.get(self.rig.address, {}))
                return running.seconds, shown

            def set(self, device, position):
                if self.rig.address in lab.silent:
                    raise RigSilentError(f"nobody answers at {self.rig.address}")
                lab.rigs[self.rig.address].set(device.id, position)

            def close(self):
                pass

        class AtOnce:
            """Threads that are done before they are asked."""

            def __init__(self, *given, **more):
                pass

            def submit(self, work, *given):
                from concurrent.futures import Future

                done = Future()
                try:
                    done.set_result(work(*given))
                except Exception as error:
                    done.set_exception(error)
                return done

            def shutdown(self, **more):
                pass

        for module in ("logger", "modbus"):
            monkeypatch.setattr(f"wolfsbane.server.rigs.{module}.RigLine", Line)
        monkeypatch.setattr("wolfsbane.server.api.rigs.RigLine", Line)
        monkeypatch.setattr(logger_module, "ThreadPoolExecutor", AtOnce)
        self.db, self.logger = db, Logger(db, lambda: self.now, period_s=10.0)

    def add(self, teacher, name="Rig 1", machine="split-3t-r410a-txv", seed=3, **more):
        """A rig in the school and its machine; returns its id."""
        rig = usual_rig(name, machine, 5020 + len(self.rigs))
        self.rigs[rig.address] = SimulatedRig(rig=rig, profile=MACHINES[machine], seed=seed, **more)
        from wolfsbane.rig.rig import RIG

        made = teacher.post("/rigs", {"rig": RIG.write(rig)})
        assert made.status_code == 201, made.json
        return made.json["row"]["id"]

    def tick(self, minutes, every_s=10.0):
        """So many minutes of the machines, read every few seconds."""
        for _ in range(round(60 * minutes / every_s)):
            self.now += timedelta(seconds=every_s)
            for running in self.rigs.values():
                running.step(every_s)
            # asked in one turn, taken in the next
            self.logger.turn()
        self.logger.turn()

    def restart(self):
        """The logger is killed and another one begins."""
        self.logger = Logger(self.db, lambda: self.now, period_s=10.0)
