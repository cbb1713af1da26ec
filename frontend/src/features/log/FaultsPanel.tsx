import { useQuery } from "@tanstack/react-query";
import { Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { FaultKind, LikelyCause, Pour, PourFault } from "../../api/client";
import { faultKindsQuery } from "../../shared/standing";
import { Failed } from "../../shared/states";
import { Pictures } from "./PicturesPanel";
import {
  faultsQuery,
  useAddFault,
  useChangeFault,
  useMendSheet,
  useRemoveFault,
} from "./faultQueries";

/** So many causes are told whole, the others by name. */
const TOLD = 3;
const likely = (cause: LikelyCause) => `${Math.round(100 * cause.share)}\u00a0%`;

/** What is wrong with what came out, what most likely caused it, and what to do next time. */
export function FaultsPanel({ pour }: { pour: Pour }) {
  const kinds = useQuery(faultKindsQuery()).data ?? [];
  const faults = useQuery(faultsQuery(pour.id));
  const add = useAddFault(pour.id);
  const [kind, setKind] = useState<string | null>(null);
  const [place, setPlace] = useState("");

  function note() {
    if (kind === null) return;
    const clear = () => {
      setKind(null);
      setPlace("");
    };
    add.mutate({ kind, place }, { onSuccess: clear });
  }

  return (
    <section aria-labelledby="faults">
      <h2 id="faults">What is wrong with it</h2>
      {faults.error && <Failed error={faults.error} />}
      {(faults.data ?? []).map((fault) => (
        <FaultCard
          key={fault.id}
          pour={pour.id}
          fault={fault}
          kind={kinds.find((one) => one.id === fault.kind)}
        />
      ))}
      <form
        className="cast-panel"
        onSubmit={(event) => {
          event.preventDefault();
          note();
        }}
      >
        <div className="field">
          <label htmlFor="fault-kind">Fault</label>
          <Select
            id="fault-kind"
            placeholder="none"
            value={kind}
            onChange={setKind}
            options={kinds.map((one) => ({ value: one.id, label: one.title }))}
          />
        </div>
        <div className="field">
          <label htmlFor="fault-place">Where on it</label>
          <Input
            id="fault-place"
            value={place}
            maxLength={120}
            onChange={(event) => setPlace(event.target.value)}
          />
        </div>
        <Button htmlType="submit" disabled={kind === null} loading={add.isPending}>
          Add this fault
        </Button>
      </form>
      {add.error && <Failed error={add.error} />}
    </section>
  );
}

interface CardProperties {
  pour: string;
  fault: PourFault;
  kind: FaultKind | undefined;
}

function FaultCard({ pour, fault, kind }: CardProperties) {
  const change = useChangeFault(pour, fault);
  const remove = useRemoveFault(pour, fault.id);
  const title = kind?.title ?? fault.kind;
  const lesser = fault.causes.slice(TOLD).map((one) => `${one.title} (${likely(one)})`);
  return (
    <article className="card fault" aria-label={title}>
      <header>
        <h3>
          {title}
          {fault.place && `, ${fault.place}`}
        </h3>
        <Button size="small" onClick={() => remove.mutate()} aria-label={`Remove ${title}`}>
          Remove
        </Button>
      </header>
      <p className="faint">
        How likely each cause is: an estimate from common practice and this pour. Your verdicts move
        it.
      </p>
      <ol className="causes" aria-label="Likely causes">
        {fault.causes.slice(0, TOLD).map((cause) => (
          <CauseRow
            key={cause.id}
            fault={fault}
            cause={cause}
            pour={pour}
            onVerdict={(verdict) => change.mutate({ verdict })}
          />
        ))}
      </ol>
      {lesser.length > 0 && <p className="faint">Less likely: {lesser.join("; ")}</p>}
      <Asks fault={fault} kind={kind} onTold={(told) => change.mutate({ told })} />
      <Pictures pour={pour} fault={fault.id} />
      {(change.error ?? remove.error) && <Failed error={change.error ?? remove.error} />}
    </article>
  );
}

interface AsksProperties {
  fault: PourFault;
  kind: FaultKind | undefined;
  onTold: (told: PourFault["told"]) => void;
}

/** What the pour does not tell and its maker may know. */
function Asks({ fault, kind, onTold }: AsksProperties) {
  if (!kind || kind.asks.length === 0) return null;
  const answerOf = (sign: string) =>
    fault.told[sign] === undefined ? "?" : fault.told[sign] ? "yes" : "no";
  function tell(sign: string, answer: string) {
    const others = Object.entries(fault.told).filter(([one]) => one !== sign);
    const told = answer === "?" ? others : [...others, [sign, answer === "yes"] as const];
    onTold(Object.fromEntries(told));
  }
  return (
    <div className="asks">
      <p>What you know of it moves the causes:</p>
      {kind.asks.map((sign) => (
        <div key={sign.id} className="ask">
          <Segmented
            aria-label={sign.title}
            name={`${fault.id} ${sign.id}`}
            value={answerOf(sign.id)}
            onChange={(answer) => tell(sign.id, answer)}
            options={["?", "yes", "no"]}
          />
          <span>{sign.title}</span>
        </div>
      ))}
    </div>
  );
}

interface CauseProperties {
  pour: string;
  fault: PourFault;
  cause: LikelyCause;
  onVerdict: (verdict: string) => void;
}

function CauseRow({ pour, fault, cause, onVerdict }: CauseProperties) {
  const mend = useMendSheet(pour, fault.id);
  const isIt = fault.verdict === cause.id;
  return (
    <li className={isIt ? "cause is-it" : "cause"}>
      <b className="share">{likely(cause)}</b>
      <div>
        <p>
          <b>{cause.title}</b>
          {isIt && <span className="verdict"> Your verdict</span>}
        </p>
        {cause.evidence.length > 0 && <p>Because {cause.evidence.join("; ")}.</p>}
        <p className="faint">Next time: {cause.advice}</p>
        <span className="actions">
          <Button size="small" aria-pressed={isIt} onClick={() => onVerdict(isIt ? "" : cause.id)}>
            {isIt ? "It was not" : "This was it"}
          </Button>
          {mend.data ? (
            <Link to={`/sheets/${mend.data.id}`}>The sheet is changed: look at it</Link>
          ) : (
            cause.mend && (
              <Button size="small" loading={mend.isPending} onClick={() => mend.mutate(cause.id)}>
                Change the sheet: {cause.mend}
              </Button>
            )
          )}
        </span>
        {mend.error && <Failed error={mend.error} />}
      </div>
    </li>
  );
}
