import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";

import type { WallRun } from "../../api/client";
import { SCALE_CSS } from "../../husk/wallScale";
import { quantity, withUnit } from "../../shared/format";
import { Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { filmQuery } from "./queries";
import { useSeen } from "./seen";

const WallView = lazy(() => import("../../husk/WallView"));

/** What is looked at, the same for both of two walls side by side. */
export interface Look {
  /** One coat alone, from 1; nought for all of them. */
  coat: number;
  cut: number;
  /** Whether that coat is played as it runs, and how far it is as a share. */
  playing: boolean;
  share: number;
}

interface Properties {
  run: WallRun;
  look: Look;
  /** The end of the scale. [m] */
  topM: number;
}

/** The wall in three dimensions, its scale, and the coats of a place that is touched. */
export function WallScene({ run, look, topM }: Properties) {
  const system = useUnits((state) => state.system);
  const [touched, setTouched] = useState<number[] | null>(null);
  const { place: seen, forget } = useSeen();
  useEffect(() => forget, [forget]);
  const film = useQuery({ ...filmQuery(run.id, look.coat), enabled: look.playing });
  const shown = look.playing ? (film.data ?? null) : null;
  const moment = shown ? Math.round(look.share * (shown.t_s.length - 1)) : 0;
  const length = (metres: number) => quantity(metres, "m", system);
  const wished = look.coat === 0 ? run.wall.target_m : run.wall.coat_target_m;
  const pins = run.wall.thin_places.map((one, at) => ({ label: `${at + 1}`, at_m: one.at_m }));
  return (
    <div className="wall-view">
      <Suspense fallback={<Loading what="the view" />}>
        <WallView
          runId={run.id}
          coats={run.wall.coats.length}
          coat={look.coat}
          wishedM={wished}
          topM={topM}
          cut={look.cut}
          pins={pins}
          film={shown}
          moment={moment}
          seen={seen}
          onTouch={setTouched}
        />
      </Suspense>
      <div className="wall-scale" aria-label="Scale of the colours">
        <span>0</span>
        <span className="bar" style={{ background: SCALE_CSS }} />
        <span>{length(topM)}</span>
      </div>
      <p className="faint">
        {shown ? (
          <>
            Coat {look.coat} after <b>{withUnit(Math.round(shown.t_s[moment] ?? 0), "s")}</b>; the
            mould turns as you see it, up is up.
          </>
        ) : look.playing && film.data === null ? (
          <>This coat lands as one before it did; it was not simulated by itself.</>
        ) : (
          <>
            Hatched is thinner than {look.coat === 0 ? "wished" : "its part of the wish"}; the line
            is {length(wished)}.{" "}
            {touched ? (
              <span role="status">
                Touched: <b>{length(touched.reduce((sum, one) => sum + one, 0))}</b>
                {touched.map((one, at) => (
                  <span key={at}>
                    {at === 0 ? " = " : " + "}
                    {length(one)}
                  </span>
                ))}
              </span>
            ) : (
              <>Touch a place for its coats, or read the middle of the view.</>
            )}
          </>
        )}
      </p>
    </div>
  );
}
