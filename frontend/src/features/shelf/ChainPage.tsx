import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Select } from "antd";
import { useState } from "react";

import {
  ProblemError,
  type Candidate,
  type Chain,
  type ChainQuestion,
  type Disagreement,
} from "../../api/client";
import { quantity, bound } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { piecesQuery } from "../pieces/queries";
import { ShelfNav } from "./ShelfNav";
import { chainQuery, supplyListQuery } from "./queries";

type Link = keyof Chain["links"];

const LINKS: readonly { link: Link; title: string }[] = [
  { link: "casting", title: "Casting resin" },
  { link: "rubber", title: "Rubber" },
  { link: "mould", title: "Mould" },
  { link: "shell", title: "Support shell" },
  { link: "release", title: "Release" },
  { link: "sealer", title: "Sealer of the master" },
];

const PURPOSES: Record<ChainQuestion["purpose"], string> = {
  shown: "be shown",
  worn: "be worn",
  dropped: "bear being dropped",
  shattered: "shatter on purpose",
  sculpted: "be sculpted on",
  hung: "hang on a wall",
  "foam-backed": "be backed with foam",
  "metal-faced": "have a metal face",
};

const FIRST: ChainQuestion = {
  purpose: "worn",
  opening_girth_m: 0.33,
  widest_girth_m: 0.56,
  painted: true,
  spun: false,
  taken: {},
};

/** From what the husk must do, back to what to buy: each link with its reasons. */
export function ChainPage() {
  const [question, setQuestion] = useState<ChainQuestion>(FIRST);
  const [unreadable, setUnreadable] = useState(false);
  const chain = useQuery(chainQuery(question));
  const change = (part: Partial<ChainQuestion>) => setQuestion({ ...question, ...part });
  const problems = chain.error instanceof ProblemError ? chain.error.fields : {};

  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
      </header>
      <ShelfNav />
      <div className="chain">
        <Asked
          question={question}
          problems={problems}
          onChange={change}
          onUnreadable={setUnreadable}
        />
        <div className={chain.isError || unreadable ? "links stale" : "links"}>
          {chain.error && <Failed error={chain.error} />}
          {chain.isPending && !chain.error && <Loading what="the chain" />}
          {chain.data && (
            <>
              <p className="lead">
                The opening has to stretch by{" "}
                <b>{quantity(chain.data.needed_stretch, "share", "metric")}</b> at every demould.
              </p>
              {chain.data.given_up.map((wish) => (
                <p key={wish} className="due">
                  {bound(wish)}
                </p>
              ))}
              {LINKS.map(({ link, title }) => (
                <LinkView
                  key={link}
                  title={title}
                  candidates={chain.data.links[link] ?? []}
                  onTake={(key) => change({ taken: { ...question.taken, [link]: key } })}
                />
              ))}
              <Schools schools={chain.data.schools} />
            </>
          )}
        </div>
      </div>
    </section>
  );
}

interface AskedProperties {
  question: ChainQuestion;
  problems: Readonly<Record<string, string>>;
  onChange: (part: Partial<ChainQuestion>) => void;
  onUnreadable: (is: boolean) => void;
}

function Asked({ question, problems, onChange, onUnreadable }: AskedProperties) {
  const pieces = useQuery(piecesQuery());
  const clays = useQuery(supplyListQuery("clay", ""));
  const surfaces = useQuery(supplyListQuery("circumstance", ""));
  const masters = [...(clays.data?.supplies ?? []), ...(surfaces.data?.supplies ?? [])];
  const { piece_id, master_key, ...known } = question;
  return (
    <aside className="asked" aria-label="What is asked">
      <div className="field">
        <label htmlFor="purpose">The husk must</label>
        <Select
          id="purpose"
          value={question.purpose}
          onChange={(purpose) => onChange({ purpose, taken: {} })}
          options={Object.entries(PURPOSES).map(([value, label]) => ({
            value: value as ChainQuestion["purpose"],
            label,
          }))}
        />
      </div>
      <QuantityField
        label="Girth of the opening"
        kind="m"
        value={question.opening_girth_m}
        problem={problems.opening_girth_m}
        onUnreadable={onUnreadable}
        onChange={(opening_girth_m) => onChange({ opening_girth_m })}
      />
      <QuantityField
        label="Widest girth behind it"
        kind="m"
        value={question.widest_girth_m}
        problem={problems.widest_girth_m}
        onUnreadable={onUnreadable}
        onChange={(widest_girth_m) => onChange({ widest_girth_m })}
      />
      <Checkbox
        checked={question.painted}
        onChange={(event) => onChange({ painted: event.target.checked })}
      >
        It will be painted
      </Checkbox>
      <Checkbox
        checked={question.spun}
        onChange={(event) => onChange({ spun: event.target.checked })}
      >
        Spun on a machine
      </Checkbox>
      <div className="field">
        <label htmlFor="chain-piece">Piece, for its area</label>
        <Select
          id="chain-piece"
          value={piece_id ?? ""}
          onChange={(id) => onChange(id ? { piece_id: id } : clear(known, { master_key }))}
          options={[
            { value: "", label: "none yet: 1,500\u00a0cm²" },
            ...(pieces.data ?? []).map((one) => ({ value: one.id, label: one.name })),
          ]}
        />
      </div>
      <div className="field">
        <label htmlFor="master">The master is</label>
        <Select
          id="master"
          value={master_key ?? ""}
          onChange={(key) => onChange(key ? { master_key: key } : clear(known, { piece_id }))}
          options={[
            { value: "", label: "not said" },
            ...masters.map((one) => ({ value: one.key, label: one.name })),
          ]}
        />
      </div>
    </aside>
  );
}

/** The question without what was cleared: null stands for it. */
function clear(
  known: Partial<ChainQuestion>,
  kept: { piece_id?: string | null | undefined; master_key?: string | null | undefined },
): Partial<ChainQuestion> {
  return {
    ...known,
    piece_id: kept.piece_id ?? null,
    master_key: kept.master_key ?? null,
  };
}

/** Where practitioners disagree: both ways, each with what it gains and costs. */
function Schools({ schools }: { schools: Disagreement[] }) {
  return (
    <section aria-label="Where makers disagree">
      <h2>Where makers disagree</h2>
      {schools.map((school) => (
        <table key={school.id} className="school">
          <caption>{school.question}</caption>
          <thead>
            <tr>
              <th scope="col">Way</th>
              <th scope="col">Gains</th>
              <th scope="col">Costs</th>
            </tr>
          </thead>
          <tbody>
            {school.ways.map((way) => (
              <tr key={way.name}>
                <th scope="row">{way.name}</th>
                <td>{bound(way.gains.join(" "))}</td>
                <td>{bound(way.costs.join(" "))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </section>
  );
}

interface LinkProperties {
  title: string;
  candidates: Candidate[];
  onTake: (key: string) => void;
}

function LinkView({ title, candidates, onTake }: LinkProperties) {
  const taken = candidates.find((one) => one.verdict === "take");
  const possible = candidates.filter((one) => one.verdict === "possible");
  const excluded = candidates.filter((one) => one.verdict === "excluded");
  return (
    <section className="link" aria-label={title}>
      <div>
        <p className="faint">{title}</p>
        <h2>{taken?.name ?? "Nothing on the shelf will do"}</h2>
        <ul>
          {taken?.reasons.map((reason) => (
            <li key={reason}>{bound(reason)}</li>
          ))}
        </ul>
      </div>
      <div>
        {possible.map((one) => (
          <Other key={one.key} candidate={one} onTake={onTake} />
        ))}
        {excluded.map((one) => (
          <Other key={one.key} candidate={one} onTake={onTake} />
        ))}
      </div>
    </section>
  );
}

function Other({ candidate, onTake }: { candidate: Candidate; onTake: (key: string) => void }) {
  const out = candidate.verdict === "excluded";
  return (
    <details className={out ? "other out" : "other"}>
      <summary>
        {candidate.name}
        {out && <b>: no. {bound(candidate.reasons[0] ?? "")}</b>}
      </summary>
      <ul>
        {candidate.reasons.slice(out ? 1 : 0).map((reason) => (
          <li key={reason}>{bound(reason)}</li>
        ))}
      </ul>
      <Button size="small" onClick={() => onTake(candidate.key)}>
        {out ? "Choose it anyway" : "Choose this one"}
      </Button>
    </details>
  );
}
