import type { WallRun } from "../../api/client";
import { Loading } from "../../shared/states";
import { WallHeadline } from "./WallFigures";
import { WallScene, type Look } from "./WallScene";

interface Properties {
  title: string;
  run: WallRun | null;
  look: Look;
  /** The end of the scale. [m] */
  topM: number;
}

/** One of two walls, on the same scale. */
export function WallColumn({ title, run, look, topM }: Properties) {
  return (
    <section className="wall-one" aria-label={title}>
      <h2>{title}</h2>
      {run ? (
        <>
          <WallScene key={run.id} run={run} look={look} topM={topM} />
          <WallHeadline run={run} />
        </>
      ) : (
        <Loading what="the wall beside it" />
      )}
    </section>
  );
}
