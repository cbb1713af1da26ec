import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";

import { ProblemError, type Device, type DeviceKind, type Fault } from "../../api/client";
import { useLive, useLiveDevice, type LiveDevice } from "../../shared/live";
import { weighed, withUnit } from "../../shared/format";
import { Menu } from "../../shared/Menu";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { Failed, Loading } from "../../shared/states";
import { devicesQuery, useAddDevice, useFailStandIn, useRemoveDevice } from "./deviceQueries";

const KINDS: Record<DeviceKind, string> = {
  scale: "Scale",
  room: "Room probe",
  machine: "Two-axis machine",
  turn: "Turn sensor",
};

type Failing = { label: string; fault: Fault };
const LOST: readonly Failing[] = [
  { label: "Lose contact for 5\u00a0s", fault: { lost_s: 5 } },
  { label: "Lose power for a moment", fault: { reboot: true } },
];
const FAULTS: Record<DeviceKind, readonly Failing[]> = {
  scale: [
    ...LOST,
    { label: "Drift by 2\u00a0g a minute", fault: { drift_g_min: 2 } },
    { label: "Be overloaded from 100\u00a0g on", fault: { max_g: 100 } },
    { label: "Work normally again", fault: { drift_g_min: 0.01, max_g: 2200 } },
  ],
  room: [
    ...LOST,
    { label: "A hot day", fault: { mean_c: 29 } },
    { label: "A cold evening", fault: { mean_c: 14 } },
    { label: "A damp day", fault: { mean_rh: 78 } },
    { label: "Work normally again", fault: { mean_c: 20.5, mean_rh: 48 } },
  ],
  machine: [
    ...LOST,
    { label: "Emergency stop pressed", fault: { fault: "emergency-stop" } },
    { label: "Belt lost", fault: { fault: "belt" } },
    { label: "Work normally again", fault: { fault: "none" } },
  ],
  turn: LOST,
};

/** What measures and turns here: where it is reached, and what it says just now. */
export function DevicesPanel() {
  const devices = useQuery(devicesQuery());
  useLive((told) => {
    if (told.topic === "look-anew") void devices.refetch();
  });
  return (
    <section className="card devices" aria-label="Devices">
      <h2>Devices</h2>
      <p className="faint">
        They speak lines of text over a serial port or the network. What is lost is done by hand.
      </p>
      {devices.isPending && <Loading what="the devices" />}
      {devices.isError && <Failed error={devices.error} retry={() => void devices.refetch()} />}
      {devices.data && devices.data.length === 0 && <p>None yet; add one below.</p>}
      <ul>
        {devices.data?.map((device) => (
          <DeviceRow key={device.id} device={device} />
        ))}
      </ul>
      <NewDevice />
    </section>
  );
}

function DeviceRow({ device }: { device: Device }) {
  const live = useLiveDevice(device.id);
  const fail = useFailStandIn(device.id);
  const remove = useRemoveDevice();
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  return (
    <li>
      <span className="device-name">
        <b>{device.name}</b>
        <span className="faint">
          {KINDS[device.kind]}, {device.is_standin ? "simulated" : device.address}
        </span>
      </span>
      <span className={live?.is_there ? "device-says" : "device-says lost"} role="status">
        {saysOf(live)}
      </span>
      <span className="actions">
        {device.is_standin ? (
          <Menu
            label="Simulate a fault …"
            entries={FAULTS[device.kind].map(({ label, fault }) => ({
              label,
              onPress: () => fail.mutate(fault),
            }))}
          />
        ) : (
          <Button
            onClick={() =>
              confirm({
                title: `Remove “${device.name}”?`,
                ok: "Remove",
                onOk: () => remove.mutateAsync(device.id).catch(refuse),
              })
            }
          >
            Remove
          </Button>
        )}
      </span>
      {fail.error && <Failed error={fail.error} />}
    </li>
  );
}

/** What a device says just now. */
function saysOf(live: LiveDevice | undefined): string {
  if (!live) return "not heard of yet";
  if (!live.is_there) return "lost: it does not answer";
  switch (live.kind) {
    case "scale":
      if (live.kg === null) return "above its range";
      if (live.kg === undefined) return "there";
      return `${weighed(live.kg, live.step_kg ?? 1e-4)}${live.steady ? "" : ", moving"}`;
    case "room":
      return live.c === undefined
        ? "there"
        : `${withUnit(live.c.toFixed(1), "°C")}, ${withUnit(live.rh?.toFixed(0) ?? "", "%")}`;
    case "machine":
      if (live.fault) return `stands: ${live.fault.replace("-", " ")}`;
      return live.state === "turning"
        ? `turning, ${live.over_rpm} and ${live.round_rpm} a minute`
        : "stands still";
    case "turn":
      return live.x === undefined
        ? "there"
        : `up is ${[live.x, live.y, live.z].map((one) => (one ?? 0).toFixed(2)).join(", ")}`;
  }
}

function NewDevice() {
  const add = useAddDevice();
  const [name, setName] = useState("");
  const [kind, setKind] = useState<DeviceKind>("scale");
  const [address, setAddress] = useState("");
  const problems = add.error instanceof ProblemError ? add.error.fields : {};
  return (
    <div className="new-device">
      <label>
        Name
        <Input value={name} maxLength={120} onChange={(event) => setName(event.target.value)} />
      </label>
      <label htmlFor="device-kind">
        What it is
        <Select
          id="device-kind"
          value={kind}
          onChange={setKind}
          options={Object.entries(KINDS).map(([value, label]) => ({ value, label }))}
        />
      </label>
      <label>
        Where it is reached
        <Input
          value={address}
          placeholder="/dev/ttyUSB0 or socket://192.168.1.20:4001"
          maxLength={200}
          status={problems.address ? "error" : ""}
          onChange={(event) => setAddress(event.target.value)}
        />
      </label>
      <Button
        loading={add.isPending}
        disabled={!name.trim() || !address.trim()}
        onClick={() =>
          add.mutate(
            { name, kind, address },
            {
              onSuccess: () => {
                setName("");
                setAddress("");
              },
            },
          )
        }
      >
        Add it
      </Button>
      {add.error && <Failed error={add.error} />}
    </div>
  );
}
