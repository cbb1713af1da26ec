"""The line protocol: read and said, over a real line, by whoever speaks it."""

import asyncio
import os
import pty
import socket
import subprocess
import sys
import threading
import time
from contextlib import contextmanager, suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st
from serial.urlhandler import protocol_socket

from mildhusk.core.errors import ConditionError
from mildhusk.devices.link import Link, check_address
from mildhusk.devices.protocol import (
    DeviceKind,
    Hello,
    ProtocolError,
    line,
    read_line,
    weight_of,
)
from mildhusk.devices.standins.machine import MachineStandIn
from mildhusk.devices.standins.probe import ProbeStandIn
from mildhusk.devices.standins.scale import ScaleStandIn
from mildhusk.devices.standins.serving import ServedStandIn

NEWCOMER = """
import random, socket, time

listening = socket.create_server(("127.0.0.1", 0))
print(listening.getsockname()[1], flush=True)
while True:
    line, _ = listening.accept()
    line.sendall(b"hello kind=scale boot=1 step_g=0.1 max_g=500 lag_s=0.2\\n")
    try:
        while True:
            grams = 42.0 + random.uniform(-0.04, 0.04)
            line.sendall(f"weight g={grams:.1f} steady=1\\n".encode())
            time.sleep(0.1)
    except OSError:
        pass
"""


@contextmanager
def linked(address):
    heard: list[object] = []
    link = Link(address, heard.append)
    try:
        yield link, heard
    finally:
        link.close()


def _until(look, what, within_s=6.0):
    end = time.monotonic() + within_s
    while not look():
        assert time.monotonic() < end, f"never {what}"
        time.sleep(0.02)


@contextmanager
def standing_in(device):
    """A stand-in at a port, in a thread of its own."""
    served = ServedStandIn(device)
    loop = asyncio.new_event_loop()

    async def run():
        await served.start()
        await served.run()

    task = loop.create_task(run())

    def go_on():
        asyncio.set_event_loop(loop)
        with suppress(asyncio.CancelledError):
            loop.run_until_complete(task)

    thread = threading.Thread(target=go_on)
    thread.start()
    _until(lambda: served.port, "listening")
    try:
        yield f"socket://127.0.0.1:{served.port}"
    finally:
        loop.call_soon_threadsafe(task.cancel)
        thread.join(5.0)
        served.close()
        loop.run_until_complete(asyncio.sleep(0))
        loop.close()


# --- lines ---


def test_a_line_is_a_word_and_fields():
    said = read_line("weight g=93.2 steady=1 at=12.35")
    assert (said.word, said.number("g"), said.is_set("steady")) == ("weight", 93.2, True)
    assert weight_of(said) == pytest.approx(0.0932)
    assert weight_of(read_line("weight over=1")) is None
    assert line("start", over_rpm=8.0, round_rpm=3.1) == "start over_rpm=8 round_rpm=3.1"


@pytest.mark.parametrize(
    "said", ["", "   ", "=1", "9 g=1", "weight g", "weight g=", "Weight g=1", "weight " + "g" * 500]
)
def test_what_is_no_line_is_told_apart(said):
    with pytest.raises(ProtocolError):
        read_line(said)


@pytest.mark.parametrize("grams", ["x", "nan", "inf", "1e999", "--1"])
def test_a_number_that_is_none_is_told_apart(grams):
    with pytest.raises(ProtocolError, match="needs the number g"):
        weight_of(read_line(f"weight g={grams}"))


@given(st.floats(-1e6, 1e6), st.integers(0, 1))
def test_what_is_said_is_read_again(grams, steady):
    said = read_line(line("weight", g=grams, steady=steady))
    assert said.number("g") == pytest.approx(grams, rel=1e-9, abs=1e-9)
    assert said.is_set("steady") == bool(steady)


@given(st.binary(max_size=300))
def test_noise_on_the_line_is_a_line_or_told_apart(noise):
    said = noise.decode("utf-8", "replace")
    with suppress(ProtocolError):
        assert read_line(said).word == said.split()[0]


def test_a_device_says_what_it_is():
    hello = Hello.of(read_line("hello kind=scale boot=7 step_g=0.01 max_g=500 lag_s=0.4"))
    assert (hello.kind, hello.boot, hello.lag_s) == (DeviceKind.SCALE, "7", 0.4)
    assert (hello.step_kg, hello.most_kg) == (pytest.approx(1e-5), pytest.approx(0.5))
    assert not hello.is_standin
    with pytest.raises(ProtocolError, match="there are scale, room, machine, turn"):
        Hello.of(read_line("hello kind=kettle"))


@pytest.mark.parametrize(
    "address", ["/dev/ttyUSB0", "/dev/serial/by-id/usb-1", "COM3", "socket://[::1]:4001"]
)
def test_ports_and_sockets_are_addresses(address):
    assert check_address(address) == address


@pytest.mark.parametrize(
    "address",
    [
        "",
        "/dev/../etc/passwd",
        "loop://",
        "spy:///dev/tty?file=/etc/x",
        "http://x:1",
        "/etc/passwd",
        "socket://x",
    ],
)
def test_nothing_else_is_an_address(address):
    with pytest.raises(ConditionError, match="give a serial port such as"):
        check_address(address)


# --- lines over a wire ---


def test_a_newcomers_twenty_lines_speak_it():
    """docs/devices.md says that so much suffices."""
    script = [one for one in NEWCOMER.strip().splitlines() if one]
    assert len(script) <= 20
    device = subprocess.Popen([sys.executable, "-c", NEWCOMER], stdout=subprocess.PIPE, text=True)
    assert device.stdout is not None
    try:
        with linked(f"socket://127.0.0.1:{int(device.stdout.readline())}") as (_, heard):
            _until(lambda: len(heard) > 5, "five weights")
            assert Hello.of(heard[0]).kind is DeviceKind.SCALE
            assert weight_of(heard[1]) == pytest.approx(0.042, abs=1e-4)
    finally:
        device.kill()
        device.wait()
        device.stdout.close()


def test_what_a_device_says_as_soon_as_it_is_called_is_heard():
    """Law: however long it takes from the call until somebody listens."""
    listening = socket.create_server(("127.0.0.1", 0))
    listening.settimeout(5.0)

    def answer():
        line_, _ = listening.accept()
        with line_:
            line_.sendall(b"hello kind=scale boot=1\nweight g=1 steady=1\n")
            time.sleep(0.5)

    for _ in range(5):
        device = threading.Thread(target=answer)
        device.start()
        with linked(f"socket://127.0.0.1:{listening.getsockname()[1]}") as (_, heard):
            _until(lambda heard=heard: len(heard) >= 2, "two lines")
            assert [one.word for one in heard[:2]] == ["hello", "weight"]
        device.join()
    listening.close()


def test_a_real_serial_port_is_read_and_written():
    """A pair of terminals of the operating system stands for the port and its cable."""
    device, port = pty.openpty()
    try:
        with linked(os.ttyname(port)) as (link, heard):
            _until(lambda: link.say("hello"), "open")
            os.write(device, b"hello kind=room boot=1\nroom c=21.5 rh=4")
            time.sleep(0.1)
            os.write(device, b"8.0\n\xff\xfe\nroom c=22.5 rh=47\n")
            _until(lambda: len(heard) == 3, "three lines")
            assert [one.number("rh") for one in heard[1:]] == [48.0, 47.0]
            assert link.unreadable == 1
            assert b"hello\n" in os.read(device, 1000).replace(b"\r", b"")
    finally:
        os.close(device)
        os.close(port)


def test_a_lost_device_is_said_and_found_again():
    with standing_in(ScaleStandIn()) as at, linked(at) as (link, heard):
        _until(lambda: len(heard) > 3, "heard")
        link.say("order", lost_s=1.5)
        _until(lambda: None in heard, "lost")
        del heard[:]
        _until(lambda: any(one and one.word == "hello" for one in heard), "back")


def test_a_line_is_not_hung_up_in_the_middle_of_a_word(monkeypatch):
    """It was an error of the package then, in the one who spoke."""
    speaking, open_to_the_end, write = threading.Event(), [], protocol_socket.Serial.write

    def write_slowly(port, said):
        if said.startswith(b"tare"):
            speaking.set()
            time.sleep(0.3)
            open_to_the_end.append(port.is_open)
        return write(port, said)

    monkeypatch.setattr(protocol_socket.Serial, "write", write_slowly)
    with standing_in(ScaleStandIn()) as at, linked(at) as (link, heard):
        _until(lambda: len(heard) > 3, "heard")
        speaker = threading.Thread(target=link.say, args=("tare",))
        speaker.start()
        assert speaking.wait(5.0)
        link.close()
        speaker.join(5.0)
        assert open_to_the_end == [True]
        assert not link.say("hello")


def test_a_device_that_falls_silent_is_lost():
    listening = socket.create_server(("127.0.0.1", 0))
    with linked(f"socket://127.0.0.1:{listening.getsockname()[1]}") as (_, heard):
        line_, _ = listening.accept()
        line_.sendall(b"hello kind=scale boot=1\n")
        _until(lambda: None in heard, "lost", 8.0)
        line_.close()
    listening.close()


def test_a_stand_in_told_nonsense_says_so_and_goes_on():
    with standing_in(MachineStandIn()) as at, linked(at) as (link, heard):
        _until(lambda: link.say("start", over_rpm="fast"), "said")
        _until(lambda: any(one and one.word == "refused" for one in heard), "refused")
        del heard[:]
        _until(lambda: any(one and one.word == "machine" for one in heard), "still there")


# --- stand-ins ---


def test_a_machine_turns_as_told_with_ramps_and_play_and_stops():
    """Exact: 8 turns a minute are 48 degrees a second once the ramp is over."""
    machine = MachineStandIn()
    machine.advance(1.0)
    machine.hear(read_line("start over_rpm=8 round_rpm=-3"), 1.0)

    def told(at_s):
        return read_line(machine.advance(at_s)[-1])

    early, later = told(6.0), told(7.0)
    assert later.number("over_rpm") == pytest.approx(8.0)
    turned = (later.number("over_deg") - early.number("over_deg")) % 360.0
    assert turned == pytest.approx(48.0, abs=1.5)
    assert (early.number("round_deg") - later.number("round_deg")) % 360.0 == pytest.approx(
        18.0, abs=1.5
    )
    machine.hear(read_line("stop"), 7.0)
    stopped = told(9.0)
    assert (stopped.fields["state"], stopped.number("over_rpm")) == ("still", 0.0)
    # The play of an axis that turns the other way is taken up before anything moves.
    machine.hear(read_line("start over_rpm=-2 round_rpm=0"), 9.0)
    assert told(9.15).number("over_deg") == stopped.number("over_deg")


def test_an_emergency_stop_holds_until_it_is_released():
    machine = MachineStandIn()
    machine.hear(read_line("start over_rpm=8 round_rpm=3"), 0.0)
    machine.advance(5.0)
    machine.hear(read_line("order fault=emergency-stop"), 5.0)
    stands = read_line(machine.advance(6.0)[-1])
    assert (stands.fields["state"], stands.number("over_rpm")) == ("fault", 0.0)
    refused = machine.hear(read_line("start over_rpm=8 round_rpm=3"), 6.0)[0]
    assert refused == "refused order=start why=emergency-stop"
    machine.hear(read_line("order fault=none"), 6.0)
    assert machine.hear(read_line("start over_rpm=8 round_rpm=3"), 6.0)[0] == "done order=start"
    assert "too-fast" in machine.hear(read_line("start over_rpm=90 round_rpm=3"), 6.0)[0]


def test_a_room_is_warmest_in_the_afternoon():
    """Common practice, no source."""
    warm = {}
    for hour in (4, 15):
        probe = ProbeStandIn(hour=lambda _, hour=hour: float(hour))
        said = read_line(probe.advance(1.0)[0])
        warm[hour] = (said.number("c"), said.number("rh"))
    assert warm[15][0] > warm[4][0] + 2.0
    assert warm[15][1] < warm[4][1]


def test_a_scale_above_its_range_says_so():
    scale = ScaleStandIn(max_g=5.0)
    scale.hear(read_line("show say=cup part=-"), 0.0)
    said = [read_line(one) for one in scale.advance(3.0)]
    assert weight_of(said[0]) is not None
    assert weight_of(said[-1]) is None
