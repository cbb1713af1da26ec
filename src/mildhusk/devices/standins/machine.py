"""A two-axis machine that is simulated: ramps, backlash, an emergency stop, a belt that slips."""

import math

from mildhusk.devices.protocol import Line, ProtocolError, line

_SAYS_EVERY_S = 0.1
_RAMP_RPM_S = 6.0
"""How fast its rates change. [1/min/s]"""
_FASTEST_RPM = 40.0
_BACKLASH_DEG = 2.5
"""An axis that turns the other way first takes up so much play. [deg]"""


class _Axis:
    """One axis: its motor's rate, and the angle of what it turns."""

    def __init__(self) -> None:
        self.rpm = self.wants_rpm = self.deg = 0.0
        self._play_deg = 0.0
        self.slips = False

    def advance(self, took_s: float, ramp_rpm_s: float) -> None:
        most = ramp_rpm_s * took_s
        self.rpm += max(-most, min(most, self.wants_rpm - self.rpm))
        turned = 0.0 if self.slips else 6.0 * self.rpm * took_s
        # The play lies before it in the sense it last turned.
        left = _BACKLASH_DEG - self._play_deg if turned > 0.0 else self._play_deg
        taken = min(abs(turned), left)
        self._play_deg += math.copysign(taken, turned) if turned else 0.0
        self.deg = (self.deg + turned - math.copysign(taken, turned)) % 360.0


class MachineStandIn:
    """A machine that carries a mould, with its emergency stop beside it."""

    def __init__(self) -> None:
        self.boot = 1
        self._over, self._round = _Axis(), _Axis()
        self._rates, self._reverse_s, self._begun_s = (0.0, 0.0), 0.0, 0.0
        self._now_s, self._says_s = 0.0, 0.0
        self._state, self._fault = "still", ""

    def hello(self) -> str:
        """Return how it introduces itself."""
        return line("hello", kind="machine", boot=str(self.boot), max_rpm=_FASTEST_RPM, standin=1)

    def advance(self, now_s: float) -> list[str]:
        """Go on until now [s], and return what it says."""
        while self._now_s < now_s:
            took_s = min(now_s - self._now_s, 0.02)
            self._now_s += took_s
            if self._state == "turning" and self._reverse_s > 0.0:
                sense = 1.0 if (self._now_s - self._begun_s) // self._reverse_s % 2 == 0 else -1.0
                self._wants(sense)
            for axis in (self._over, self._round):
                axis.advance(took_s, _RAMP_RPM_S if self._state == "turning" else 60.0)
        if self._now_s < self._says_s:
            return []
        self._says_s = self._now_s + _SAYS_EVERY_S
        return [self._told()]

    def _told(self) -> str:
        over, round_ = self._over, self._round
        fault = {"fault": self._fault} if self._fault else {}
        return line(
            "machine", state=self._state, over_rpm=round(over.rpm, 2),
            round_rpm=round(round_.rpm, 2), over_deg=round(over.deg, 1),
            round_deg=round(round_.deg, 1), at=round(self._now_s, 2), **fault,
        )  # fmt: skip

    def _wants(self, sense: float) -> None:
        self._over.wants_rpm, self._round.wants_rpm = (sense * rate for rate in self._rates)

    def hear(self, said: Line, now_s: float) -> list[str]:
        """Take a line, and return what it answers."""
        match said.word:
            case "hello":
                return [self.hello()]
            case "start":
                return [self._start(said, now_s), self._told()]
            case "stop":
                self._halt("still")
                return [line("done", order="stop"), self._told()]
            case "order":
                self._order(said)
                return [self._told()]
        return []

    def _start(self, said: Line, now_s: float) -> str:
        if self._fault:
            return line("refused", order="start", why=self._fault)
        rates = (said.number("over_rpm"), said.number("round_rpm"))
        if max(map(abs, rates)) > _FASTEST_RPM:
            return line("refused", order="start", why="too-fast")
        self._rates, self._begun_s = rates, now_s
        self._reverse_s = said.number_or("reverse_s", 0.0)
        self._state = "turning"
        self._wants(1.0)
        return line("done", order="start")

    def _halt(self, state: str) -> None:
        self._state, self._rates, self._reverse_s = state, (0.0, 0.0), 0.0
        self._wants(1.0)

    def _order(self, said: Line) -> None:
        match said.fields.get("fault"):
            case "emergency-stop":
                self._fault = "emergency-stop"
                self._halt("fault")
            case "belt":
                self._fault, self._round.slips = "belt", True
                self._halt("fault")
            case "none":
                self._fault, self._round.slips = "", False
                self._halt("still")
            case other:
                raise ProtocolError(f"There is no fault '{other}' here.")

    def reboot(self) -> None:
        """Be switched off and on: it stands still."""
        self.boot += 1
        self._halt("still")
