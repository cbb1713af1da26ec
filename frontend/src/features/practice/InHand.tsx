import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";

import type { Try } from "../../api/client";
import { countdown, quantity, weighed } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { feels, type Frame } from "./frame";
import { dragged, isWay } from "./holding";
import { Outcome } from "./Outcome";
import { practisedQuery, useTries } from "./queries";
import { useTray, type Sense } from "./useTray";

const TrayView = lazy(() => import("./TrayView"));

interface Properties {
  tray: Try;
  speed: number;
  sense: Sense;
  isSensed: boolean;
  piece: string;
}

/** A try in somebody's hands: the mould, the clock, and in the end what came of it. */
export default function InHand({ tray, speed, sense, isSensed, piece }: Properties) {
  const { frame, error, isOver, stop, hold, held, keys } = useTray(tray, speed, sense);
  const hands = useRef<HTMLDivElement>(null);
  const drag = useRef<{ x: number; y: number } | null>(null);
  useEffect(() => hands.current?.focus(), []);

  function onKey(event: KeyboardEvent) {
    if (!isWay(event.key)) return;
    event.preventDefault();
    if (event.type === "keydown") keys.current.add(event.key);
    else keys.current.delete(event.key);
  }

  function onMove(event: PointerEvent<HTMLDivElement>) {
    const last = drag.current;
    if (!last) return;
    hold((now) => dragged(now, event.clientX - last.x, event.clientY - last.y));
    drag.current = { x: event.clientX, y: event.clientY };
  }

  return (
    <>
      <Clock frame={frame} tray={tray} isOver={isOver} />
      <div className="tray-stage">
        <Suspense fallback={<Loading what="the tray" />}>
          <TrayView tray={tray} frame={frame} held={held} isSensed={isSensed} isOver={isOver} />
        </Suspense>
        {!isOver && (
          <div
            ref={hands}
            className="tray-hands"
            role="application"
            tabIndex={0}
            aria-label="The tray: arrow keys tilt and turn it"
            onKeyDown={onKey}
            onKeyUp={onKey}
            onBlur={() => keys.current.clear()}
            onPointerDown={(event) => {
              drag.current = { x: event.clientX, y: event.clientY };
              event.currentTarget.setPointerCapture(event.pointerId);
              event.currentTarget.focus();
            }}
            onPointerMove={onMove}
            onPointerUp={() => (drag.current = null)}
            onPointerCancel={() => (drag.current = null)}
          />
        )}
      </div>
      {error && <Failed error={new Error(error)} />}
      {!isOver && (
        <p className="actions">
          <Button onClick={stop} disabled={!frame}>
            Stop here and see the wall
          </Button>
        </p>
      )}
      {isOver && frame && <After tray={tray} piece={piece} />}
    </>
  );
}

function Clock({ frame, tray, isOver }: { frame: Frame | null; tray: Try; isOver: boolean }) {
  const system = useUnits((state) => state.system);
  const leftS = frame ? frame.gels_at_s - frame.t_s : tray.gels_at_s;
  return (
    <>
      <dl className="tray-clock">
        <div className="big">
          <dt>{leftS > 0 ? "gels in" : "gelled for"}</dt>
          <dd>{countdown(Math.abs(leftS))}</dd>
        </div>
        <div>
          <dt>wet</dt>
          <dd>{frame ? quantity(Math.floor(100 * frame.wet) / 100, "share", system) : "–"}</dd>
        </div>
        <div>
          <dt>over the rim</dt>
          <dd className={frame && frame.spilt_kg > 0.0005 ? "wrong" : ""}>
            {weighed(frame?.spilt_kg ?? 0, 0.0001)}
          </dd>
        </div>
        <div>
          <dt>in a pool</dt>
          <dd>{weighed(frame?.pool_kg ?? tray.charge_kg, 0.0001)}</dd>
        </div>
        <div>
          <dt>it feels</dt>
          <dd>{frame ? feels(frame) : "–"}</dd>
        </div>
      </dl>
      <p className="out-of-sight" role="status">
        {isOver ? "The try is over." : leftS < 60 && frame ? "Less than a minute to gel." : ""}
      </p>
    </>
  );
}

/** What came of it, remembered in this browser. */
function After({ tray, piece }: { tray: Try; piece: string }) {
  const found = useQuery(practisedQuery(tray.id));
  const remember = useTries((state) => state.remember);
  const told = found.data;
  const isRemembered = useRef(false);
  useEffect(() => {
    if (!told || isRemembered.current) return;
    isRemembered.current = true;
    remember({
      at: new Date().toISOString(),
      exercise: tray.exercise,
      piece,
      evenness: told.evenness,
      under: told.wall.under_target,
      spilt_kg: told.wall.spilt_kg,
      never_wet: told.wall.never_wet,
      reached: told.judged.every((one) => one.is_reached),
    });
  }, [told, remember, tray.exercise, piece]);
  if (found.error) return <Failed error={found.error} />;
  if (!told) return <Loading what="the wall it left" />;
  return <Outcome tray={tray} practised={told} />;
}
