import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";

import type { Learned } from "../../api/client";
import { day, quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { sheetQuery } from "../sheets/queries";
import { BandCourse } from "./BandCourse";
import { learnedQuery } from "./learnedQueries";

/** Those that a plan offers to take, in the findings of its sheet. */
const OFFERED: readonly Learned["key"][] = [
  "loss",
  "area_factor",
  "time_factor",
  "viscosity_factor",
  "evenness",
];
const share = (value: number) => quantity(value, "share", "metric");

/** What this workshop's pours taught of a sheet's resin and mould, and how sure that is. */
export function LearnedPage() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  const learned = useQuery(learnedQuery(id));
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />;
  if (learned.isError) return <Failed error={learned.error} retry={() => void learned.refetch()} />;
  if (!sheet.data || !learned.data) return <Loading what="what was learned" />;
  return (
    <section className="page">
      <header>
        <h1>What your pours taught</h1>
        <Link to={`/sheets/${id}`}>Back to the sheet</Link>
      </header>
      <p className="lead">
        For {sheet.data.name}: this resin, in the lot in use, in the usual mould of its piece. Few
        pours are read beside what is known of all makers. Bands hold nine of ten; nothing is
        planned with it until you take it on the sheet.
      </p>
      <div className="learned-values">
        {learned.data.map((one) => (
          <LearnedValue key={one.key} learned={one} />
        ))}
      </div>
    </section>
  );
}

function LearnedValue({ learned }: { learned: Learned }) {
  const isKnown = learned.pours > 0;
  return (
    <article className="card" aria-label={learned.title}>
      <h2>{learned.title}</h2>
      <p className="why-figure">
        {share(learned.value)}{" "}
        <small>
          {share(Math.max(learned.low, 0))} to {share(learned.high)}
        </small>
      </p>
      {isKnown ? (
        <>
          <BandCourse learned={learned} />
          <p>
            From {learned.pours} of your pours
            {learned.since && <>, since {day(learned.since)}</>}. One more would usually move it by{" "}
            {share(learned.moves)}.
          </p>
        </>
      ) : (
        <p className="faint">
          No pour told of it yet: this is what is known of all makers. {HOW[learned.key]}
        </p>
      )}
      {learned.outliers.length > 0 && (
        <p className="due">
          Far off the others, so counted for less:{" "}
          {learned.outliers
            .map((one) => `${one.name}, ${day(one.at)} (${share(one.value)})`)
            .join("; ")}
          .
        </p>
      )}
      {!OFFERED.includes(learned.key) && isKnown && (
        <p className="faint">Shown for information; plans do not use it.</p>
      )}
    </article>
  );
}

/** How a value is told of. */
const HOW: Record<Learned["key"], string> = {
  loss: "Weigh the cast when you close a pour.",
  area_factor: "Read the wall of a cast at three places or more.",
  time_factor: "Tick the gel of each coat.",
  coat_wall: "Weigh the cast when you close a pour.",
  evenness: "Simulate a pour, and read its wall at five places or more.",
  viscosity_factor: "Simulate a pour, read its wall at five places, and fit the viscosity to them.",
};
