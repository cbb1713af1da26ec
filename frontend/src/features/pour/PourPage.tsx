import { Button, ConfigProvider } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { benchTheme } from "../../app/theme";
import type { Pour } from "../../api/client";
import { useDeviceOf } from "../../shared/live";
import { Failed, Loading, Told } from "../../shared/states";
import { CloseStep } from "./CloseStep";
import { CoatStep } from "./CoatStep";
import { useHand } from "./hand";
import { leaveOut, tryAgain, useOutbox } from "./outbox";
import type { Press } from "./presses";
import { usePourInHand } from "./queries";
import { useMeasuredClock } from "./serverClock";
import { useVolume } from "./tones";
import { useAwake } from "./useAwake";
import { counted } from "../../shared/format";

/** The bench: one thing on the screen, read at arm's length. */
export function PourPage() {
  const { id = "" } = useParams();
  const { pour, presses, error, refetch } = usePourInHand(id);
  const hand = useHand((state) => state.hand);
  useMeasuredClock();
  useAwake();
  return (
    <ConfigProvider theme={benchTheme}>
      <main className="bench" data-hand={hand}>
        {!pour && !error && <Loading what="the pour" />}
        {!pour && error && <Failed error={error} retry={() => void refetch()} />}
        {pour && <Steps pour={pour} presses={presses} />}
      </main>
    </ConfigProvider>
  );
}

function Steps({ pour, presses }: { pour: Pour; presses: readonly Press[] }) {
  const next = pour.next_step;
  const [isStopped, setStopped] = useState(false);
  const waiting = presses.filter((one) => one.refused === undefined);
  return (
    <>
      <header className="bench-head">
        <h1>{pour.sheet_name}</h1>
        <CoatDots pour={pour} />
        <Waiting count={waiting.length} />
        <Room tooDampFrom={pour.too_damp_from} />
        <Sound />
        <FreeHand />
        <Link to="/pour" className="leave">
          Leave
        </Link>
      </header>
      {presses
        .filter((one) => one.refused !== undefined)
        .map((one) => (
          <Refused key={one.key} press={one} />
        ))}
      {pour.status !== "open" ? (
        <Closed pour={pour} isSent={waiting.length === 0} />
      ) : next && !isStopped ? (
        <CoatStep
          key={`${next.coat}-${next.step}`}
          pour={pour}
          next={next}
          onStop={() => setStopped(true)}
        />
      ) : (
        <CloseStep pour={pour} {...(next && { onGoOn: () => setStopped(false) })} />
      )}
    </>
  );
}

/** How warm and how damp it is, where a probe tells. */
function Room({ tooDampFrom }: { tooDampFrom: number | null }) {
  const room = useDeviceOf("room");
  if (room?.c === undefined || room.rh === undefined) return null;
  const isDamp = tooDampFrom !== null && room.rh > 100 * tooDampFrom;
  return (
    <p className={isDamp ? "room damp" : "room"} title={room.name}>
      {room.c.toFixed(1)}&nbsp;°C, {room.rh.toFixed(0)}&nbsp;%{isDamp && " damp"}
    </p>
  );
}

function Sound() {
  const { volume, turn } = useVolume();
  return (
    <Button type="text" onClick={turn}>
      Sound {volume}
    </Button>
  );
}

function FreeHand() {
  const { hand, turn } = useHand();
  return (
    <Button type="text" onClick={turn}>
      {hand === "either" ? "Either hand" : hand === "right" ? "Right hand" : "Left hand"}
    </Button>
  );
}

/** What the server does not know yet; it is said once it takes longer than a moment. */
function Waiting({ count }: { count: number }) {
  const isAway = useOutbox((state) => state.isAway);
  if (count === 0 || !isAway) return null;
  return (
    <p className="waiting" role="status">
      {counted(count, "press", "presses")} kept here, not sent yet
    </p>
  );
}

const WHAT = {
  weigh: "weighed",
  mix: "A meets B",
  pour: "in the mould",
  gel: "has stopped flowing",
} as const;

/** A press that the server did not take, and what can be done. */
function Refused({ press }: { press: Press }) {
  const { what } = press;
  const said =
    what.kind === "close"
      ? "Closing the pour"
      : `Coat ${what.coat}, ${WHAT[what.step]}${what.kind === "take-back" ? ", undone" : ""}`;
  const [when] = useState(() => new Date(press.pressedMs).toLocaleTimeString());
  return (
    <Told kind="refusal">
      {said} (pressed at {when}) was not taken: {press.refused}{" "}
      <Button onClick={() => tryAgain(press)}>Send again</Button>{" "}
      <Button onClick={() => leaveOut(press)}>Leave it out</Button>
    </Told>
  );
}

function CoatDots({ pour }: { pour: Pour }) {
  const now = pour.next_step?.coat ?? pour.coats.length + 1;
  return (
    <p className="dots">
      {pour.next_step ? `Coat ${now} of ${pour.coats.length}` : "All coats are on"}
      <span aria-hidden>
        {pour.coats.map((coat) => (
          <i
            key={coat.number}
            className={coat.number < now ? "done" : coat.number === now ? "this" : ""}
          />
        ))}
      </span>
    </p>
  );
}

function Closed({ pour, isSent }: { pour: Pour; isSent: boolean }) {
  return (
    <section className="step">
      <p className="say">This pour is closed{isSent ? "." : " here; it is sent by itself."}</p>
      <Link className="ant-btn big-link" to={`/log/${pour.id}`}>
        Read it in the log
      </Link>
    </section>
  );
}
