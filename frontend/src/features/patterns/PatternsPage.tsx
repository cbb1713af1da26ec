import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Segmented, Select } from "antd";
import { lazy, Suspense, useId, useState, type ReactNode } from "react";
import { Link, useParams } from "react-router";

import { ProblemError, type CutPattern, type Mould, type PatternKind } from "../../api/client";
import { Findings } from "../../shared/Findings";
import { counted, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { mouldQuery } from "../moulds/queries";
import { StudyPanel } from "../moulds/StudyPanel";
import { pieceQuery } from "../pieces/queries";
import { FlatView } from "./FlatView";
import {
  given,
  isSame,
  keepPattern,
  keptQuery,
  KINDS,
  patternFile,
  patternQuery,
  type Owner,
  type PatternQuery,
} from "./queries";
import { FOLLOWING, MATERIALS, PAPERS, SHEET, SHEET_FIELDS, WISHES } from "./wishes";

const PatternView = lazy(() => import("../../husk/PatternView"));

interface Of {
  owner: Owner;
  name: string;
  /** The models it is drawn on: of the piece, and of the rubber where there is a mould. */
  piece: string;
  rubber: string | null;
  back: string;
  /** Of the rubber: what stands round a piece in its box at first. */
  wall?: number;
  /** A mould whose piece has to be studied before its shell can be drawn. */
  unstudied?: Mould | null;
}

/** Patterns to cut for a mould and its piece. */
export function MouldPatternsPage() {
  const { id = "" } = useParams();
  const mould = useQuery(mouldQuery(id));
  if (mould.isPending) return <Loading what="the mould" />;
  if (mould.isError) return <Failed error={mould.error} retry={() => void mould.refetch()} />;
  const { name, piece_id, version, rubber_wall_m } = mould.data;
  return (
    <Patterns
      owner={{ of: "moulds", id }}
      name={name}
      piece={`/api/v1/pieces/${piece_id}/model.glb`}
      rubber={`/api/v1/moulds/${id}/model.glb?v=${version}`}
      back={`/moulds/${id}`}
      wall={rubber_wall_m}
      unstudied={mould.data.studied ? null : mould.data}
    />
  );
}

/** Patterns to cut for a piece alone. */
export function PiecePatternsPage() {
  const { id = "" } = useParams();
  const piece = useQuery(pieceQuery(id));
  if (piece.isPending) return <Loading what="the piece" />;
  if (piece.isError) return <Failed error={piece.error} retry={() => void piece.refetch()} />;
  return (
    <Patterns
      owner={{ of: "pieces", id }}
      name={piece.data.name}
      piece={`/api/v1/pieces/${id}/model.glb?v=${piece.data.version}`}
      rubber={null}
      back={`/pieces/${id}`}
    />
  );
}

interface DeskOf extends Of {
  kept: readonly PatternQuery[];
}

type Changes = Partial<Record<PatternKind, Partial<PatternQuery>>>;

/** What is kept is what stands in the fields at first. */
function Patterns(of: Of) {
  const kept = useQuery(keptQuery(of.owner));
  if (kept.isPending) return <Loading what="what is saved" />;
  if (kept.isError) return <Failed error={kept.error} retry={() => void kept.refetch()} />;
  return <Desk {...of} kept={kept.data.patterns} />;
}

function Desk({ owner, name, piece, rubber, back, wall, unstudied = null, kept }: DeskOf) {
  const kinds = KINDS.filter((one) => rubber !== null || !one.needsMould);
  const [kind, setKind] = useState<PatternKind>(kinds[0]?.value ?? "skirt");
  const [changes, setChanges] = useState<Changes>({});
  const [sheet, setSheet] = useState(SHEET);
  const saved = kept.find((one) => one.kind === kind);
  const changed = changes[kind] ?? saved ?? {};
  const query: PatternQuery = given({ ...sheet, ...changed, kind });
  const ofShell = KINDS.some((one) => one.value === kind && one.needsMould);
  const waits = ofShell ? unstudied : null;
  const found = useQuery({ ...patternQuery(owner, query), enabled: !waits });
  const shown = found.data?.kind === kind && !found.isError ? found.data : null;

  function change(part: Partial<PatternQuery>) {
    setChanges({ ...changes, [kind]: { ...changed, ...part } });
  }

  /** A sheet lies there for the next kind too. */
  function changeSheet(part: Partial<typeof SHEET>) {
    setSheet({ ...sheet, ...part });
    change(part);
  }

  return (
    <section className="page patterns">
      <header>
        <div>
          <h1>Patterns to cut: {name}</h1>
          <p className="faint">At 1:1, from the shape itself</p>
        </div>
        <span className="actions">
          <Link className="ant-btn big-link" to={back}>
            Back to {name}
          </Link>
        </span>
      </header>
      <Segmented
        aria-label="What is cut"
        className="pattern-kinds"
        value={kind}
        onChange={setKind}
        options={kinds.map(({ value, label }) => ({ value, label }))}
      />
      <div className="pattern-columns">
        <Wanted
          kind={kind}
          query={query}
          wall={wall}
          change={change}
          changeSheet={changeSheet}
          error={found.error}
          edges={shown?.edges ?? []}
          save={<Save owner={owner} query={query} saved={saved} canBe={!found.error} />}
        />
        <div className="pattern-views">
          {waits && <StudyPanel mould={waits} />}
          {found.isLoading && <Loading what="the pattern" />}
          {found.error && !isSaidAt(found.error, kind) && <Failed error={found.error} />}
          {shown && (
            <Shown
              key={kind}
              pattern={shown}
              name={name}
              model={ofShell ? (rubber ?? piece) : piece}
            />
          )}
        </div>
        {shown && <Told pattern={shown} owner={owner} query={query} />}
      </div>
    </section>
  );
}

/** Whether a field says what was refused. */
function isSaidAt(error: Error, kind: PatternKind): boolean {
  if (!(error instanceof ProblemError)) return false;
  const names: readonly string[] = [...WISHES[kind], ...SHEET_FIELDS].map((one) => one.name);
  return names.some((name) => name in error.fields);
}

interface WantedProperties {
  kind: PatternKind;
  query: PatternQuery;
  wall: number | undefined;
  change: (part: Partial<PatternQuery>) => void;
  changeSheet: (part: Partial<typeof SHEET>) => void;
  error: Error | null;
  edges: readonly string[];
  save: ReactNode;
}

function Wanted({ kind, query, wall, change, changeSheet, error, edges, save }: WantedProperties) {
  const problems = error instanceof ProblemError ? error.fields : {};
  const id = useId();
  const follows = FOLLOWING[kind];
  return (
    <aside className="asked" aria-label="What is wanted">
      {kind === "part-line" && (
        <div className="field">
          <label htmlFor={`${id}-parts`}>Parts of the shell</label>
          <Select
            id={`${id}-parts`}
            value={query.parts ?? 0}
            onChange={(parts) => change({ parts: parts || null })}
            options={[
              { value: 0, label: "as the mould is planned" },
              ...[2, 3, 4].map((value) => ({ value, label: `${value}` })),
            ]}
          />
        </div>
      )}
      {kind === "visor" && edges.length > 0 && (
        <div className="field">
          <label htmlFor={`${id}-edge`}>Opening</label>
          <Select
            id={`${id}-edge`}
            value={query.edge ?? edges[0] ?? null}
            onChange={(edge) => change({ edge })}
            options={edges.map((value) => ({ value, label: value }))}
          />
        </div>
      )}
      {WISHES[kind].map((one) => (
        <QuantityField
          key={one.name}
          label={one.label}
          kind={one.kind}
          value={Number(query[one.name] ?? (one.name === "margin_m" ? wall : null) ?? one.first)}
          problem={problems[one.name]}
          onChange={(value) => change({ [one.name]: value })}
        />
      ))}
      {follows && (
        <div className="field">
          <label htmlFor={`${id}-following`}>{follows.label}</label>
          <Select
            id={`${id}-following`}
            value={query.following ?? follows.first}
            onChange={(following) => change({ following })}
            options={follows.options}
          />
        </div>
      )}
      {kind === "visor" && (
        <div className="field">
          <label htmlFor={`${id}-material`}>Sheet</label>
          <Select
            id={`${id}-material`}
            value={query.material ?? "polycarbonate"}
            onChange={(material) => change({ material })}
            options={MATERIALS}
          />
        </div>
      )}
      {SHEET_FIELDS.map(({ name, label }) => (
        <QuantityField
          key={name}
          label={label}
          kind="m"
          value={query[name] ?? SHEET[name]}
          problem={problems[name]}
          onChange={(value) => changeSheet({ [name]: value })}
        />
      ))}
      {save}
    </aside>
  );
}

interface SaveProperties {
  owner: Owner;
  query: PatternQuery;
  saved: PatternQuery | undefined;
  canBe: boolean;
}

/** The sizes are kept with the mould or the piece, and go into its archive. */
function Save({ owner, query, saved, canBe }: SaveProperties) {
  const queries = useQueryClient();
  const keep = useMutation({
    mutationFn: () => keepPattern(owner, query),
    onSuccess: (kept) => queries.setQueryData(keptQuery(owner).queryKey, kept),
  });
  const isSaved = saved !== undefined && isSame(saved, query);
  const what = owner.of === "moulds" ? "mould" : "piece";
  return (
    <div className="field">
      <Button disabled={isSaved || !canBe} loading={keep.isPending} onClick={() => keep.mutate()}>
        {isSaved ? "Saved" : "Save these sizes"}
      </Button>
      <div className="hint">With the {what}, for next time; they are in its archive too.</div>
      {keep.error && <Failed error={keep.error} />}
    </div>
  );
}

function Shown({ pattern, name, model }: { pattern: CutPattern; name: string; model: string }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const marks = pattern.sheets.flatMap((one) => one.marks);
  const id = useId();
  return (
    <>
      {pattern.rows.length > 0 && <Rows pattern={pattern} />}
      {pattern.mixes.length > 0 && <Mixes pattern={pattern} />}
      {pattern.sheets.length > 0 && (
        <FlatView pattern={pattern} chosen={chosen} onChoose={setChosen} />
      )}
      {pattern.heights.length > 0 && <Heights pattern={pattern} />}
      {marks.length > 0 && (
        <div className="field pattern-mark">
          <label htmlFor={id}>Find a mark on the pattern and the piece</label>
          <Select
            id={id}
            showSearch
            allowClear
            placeholder="or press one"
            value={chosen}
            onChange={(value: string | undefined) => setChosen(value ?? null)}
            options={marks.map((one) => ({ value: one.name, label: one.name }))}
          />
        </div>
      )}
      {pattern.curves_m.length > 0 && (
        <Suspense fallback={<Loading what="the view" />}>
          <PatternView
            model={model}
            name={name}
            pattern={pattern}
            marks={marks}
            chosen={chosen}
            onChoose={setChosen}
          />
        </Suspense>
      )}
    </>
  );
}

function Rows({ pattern }: { pattern: CutPattern }) {
  const system = useUnits((state) => state.system);
  return (
    <div className="wide-table" role="region" aria-label="What is cut to a length" tabIndex={0}>
      <table className="list">
        <thead>
          <tr>
            <th>Cut</th>
            <th>For</th>
            <th>Pieces</th>
            <th>Length</th>
            <th>Width</th>
          </tr>
        </thead>
        <tbody>
          {pattern.rows.map((one) => (
            <tr key={`${one.part} ${one.what}`}>
              <td>{one.what}</td>
              <td>{one.part}</td>
              <td>
                <b>{one.count}</b>
              </td>
              <td>{quantity(one.length_m, "m", system)}</td>
              <td>{quantity(one.width_m, "m", system)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Mixes({ pattern }: { pattern: CutPattern }) {
  return (
    <div className="wide-table" role="region" aria-label="What is mixed in batches" tabIndex={0}>
      <table className="list">
        <thead>
          <tr>
            <th>Mix</th>
            <th>For</th>
            <th>Batches</th>
            <th>Per batch</th>
          </tr>
        </thead>
        <tbody>
          {pattern.mixes.map((one) => (
            <tr key={`${one.part} ${one.what}`}>
              <td>{one.what}</td>
              <td>{one.part}</td>
              <td>
                <b>{one.batches}</b>
              </td>
              <td>
                {one.amount.toFixed(2)}&nbsp;{one.unit}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Heights({ pattern }: { pattern: CutPattern }) {
  const system = useUnits((state) => state.system);
  return (
    <details className="pattern-heights">
      <summary>Clay under the part line, mark by mark</summary>
      <p className="faint">{pattern.figures.find((one) => one.key === "clay")?.words}</p>
      <ul>
        {pattern.heights.map((one) => (
          <li key={one.mark}>
            {one.mark}: <b>{quantity(one.height_m, "m", system)}</b>
          </li>
        ))}
      </ul>
    </details>
  );
}

interface ToldProperties {
  pattern: CutPattern;
  owner: Owner;
  query: PatternQuery;
}

function Told({ pattern, owner, query }: ToldProperties) {
  const system = useUnits((state) => state.system);
  const [paper, setPaper] = useState("a4");
  const id = useId();
  const pdf = patternFile(owner, "pdf", query);
  return (
    <aside className="measures" aria-label="What it takes">
      <dl className="figures">
        {pattern.figures.map((one, at) => (
          <div key={one.key} className={at === 0 ? "big" : ""}>
            <dt>{one.name}</dt>
            <dd data-figure={`pattern-${one.key}`}>{quantity(one.value, one.unit, system)}</dd>
            {one.words && <dd className="faint">{one.words}</dd>}
          </div>
        ))}
      </dl>
      {pattern.parts.length > 0 && (
        <>
          <h2>Cut</h2>
          <ul className="pattern-parts">
            {pattern.parts.map((one) => (
              <li key={one.name}>
                <b>{one.count}&nbsp;×</b> {one.name}, {quantity(one.width_m, "m", system)} by{" "}
                {quantity(one.height_m, "m", system)}
              </li>
            ))}
          </ul>
          <p className="faint">
            On {counted(pattern.sheets.length, "sheet")}; {quantity(pattern.waste, "share", system)}{" "}
            of that is waste.
          </p>
        </>
      )}
      <Findings findings={pattern.findings} none="No problems found." />
      <h2>Take it to the bench</h2>
      <div className="field">
        <label htmlFor={id}>Paper in the printer</label>
        <Select id={id} value={paper} onChange={setPaper} options={PAPERS} />
      </div>
      <p className="actions">
        <Button type="primary" href={`${pdf}&paper=${paper}`} target="_blank" rel="noreferrer">
          Print at 1:1
        </Button>
        {pattern.sheets.length > 0 && (
          <>
            <Button href={patternFile(owner, "svg", query)}>As SVG</Button>
            <Button href={patternFile(owner, "dxf", query)}>As DXF</Button>
          </>
        )}
      </p>
      <p className="faint">
        Pages overlap by 10&nbsp;mm, and each has a square of 100&nbsp;mm: measure it before you
        cut.
      </p>
      {pattern.cautions.map((one) => (
        <p key={one} className="hazard">
          {one}
        </p>
      ))}
    </aside>
  );
}
