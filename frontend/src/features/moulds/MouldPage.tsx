import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useState } from "react";
import { useNavigate, useParams } from "react-router";

import type { Mould, MouldPlan, NewMould } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { Findings } from "../../shared/Findings";
import { bound, carried, counted, money, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useUndo } from "../../shared/useUndo";
import { useUnits } from "../../shared/units";
import { nextMorning, withOffset } from "../../shared/when";
import { workshopQuery } from "../../shared/standing";
import { piecesQuery } from "../pieces/queries";
import { CastsPanel } from "./CastsPanel";
import { CatalystPanel } from "./CatalystPanel";
import { ClockPanel } from "./ClockPanel";
import { CoatsPanel, PouredPanel, SoftPanel } from "./CoatsPanel";
import { MouldForm } from "./MouldForm";
import { ChecksPanel, LifePanel } from "./LifePanels";
import { mouldPlanQuery, mouldQuery, useDeleteMould, useEditMould } from "./queries";
import { SectionPanel, ShellsPanel, StretchPanel, WeightPanel } from "./ShellPanels";
import { StudyPanel } from "./StudyPanel";
import { handsTime } from "./when";

const MouldView = lazy(() => import("../../husk/MouldView"));

/** One mould: how it is built, coat by coat and part by part, and what becomes of it. */
export function MouldPage() {
  const { id = "" } = useParams();
  const mould = useQuery(mouldQuery(id));
  if (mould.isPending) return <Loading what="the mould" />;
  if (mould.isError) return <Failed error={mould.error} retry={() => void mould.refetch()} />;
  return <Station key={mould.data.id} mould={mould.data} />;
}

function Station({ mould }: { mould: Mould }) {
  const [editing, setEditing] = useState(false);
  const [begins, setBegins] = useState(() => nextMorning(new Date()));
  const [charge, setCharge] = useState(0.5);
  const plan = useQuery(
    mouldPlanQuery(mould, { begins_at: withOffset(begins), charge_kg: charge }),
  );
  return (
    <section className="page piece mould">
      <Heading mould={mould} editing={editing} onEdit={() => setEditing(!editing)} />
      {editing && <Edited mould={mould} onDone={() => setEditing(false)} />}
      {!mould.studied && <StudyPanel mould={mould} />}
      {plan.error && <Failed error={plan.error} />}
      {plan.data && mould.studied && (
        <>
          <div className="piece-columns">
            <Suspense fallback={<Loading what="the view" />}>
              <MouldView
                mouldId={mould.id}
                version={mould.version}
                name={mould.name}
                plan={plan.data}
              />
            </Suspense>
            <Headline plan={plan.data} />
          </div>
          <div className="piece-tests">
            {plan.data.coats.length > 0 ? (
              <CoatsPanel plan={plan.data} />
            ) : (
              <PouredPanel plan={plan.data} />
            )}
            <SectionPanel plan={plan.data} />
            <StretchPanel plan={plan.data} />
            {plan.data.patches.length > 0 && <SoftPanel plan={plan.data} />}
            {plan.data.shells.length > 0 && <ShellsPanel plan={plan.data} />}
            <ClockPanel plan={plan.data} begins={begins} onBegins={setBegins} />
            <WeightPanel plan={plan.data}>
              <QuantityField
                label="Wet charge in it when it is lifted"
                kind="kg"
                value={charge}
                onChange={setCharge}
              />
            </WeightPanel>
            {mould.rubber_cure === "condensation" && <CatalystPanel />}
          </div>
        </>
      )}
      <div className="piece-tests">
        <ChecksPanel mould={mould} />
        <LifePanel mould={mould} />
        <section className="card" aria-label="Take care">
          <h2>Take care</h2>
          {mould.operations.map((one) => (
            <p key={one.operation} className="hazard">
              <b>{one.title}:</b> {bound(one.sentences.join(" "))}
            </p>
          ))}
          <p className="faint">
            Read the maker&apos;s safety data sheet, follow local codes, and ask a licensed
            practitioner where one is required.
          </p>
        </section>
      </div>
      <CastsPanel mould={mould.id} />
    </section>
  );
}

interface HeadingProperties {
  mould: Mould;
  editing: boolean;
  onEdit: () => void;
}

function Heading({ mould, editing, onEdit }: HeadingProperties) {
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const navigate = useNavigate();
  const remove = useDeleteMould(mould.id);
  const undo = useUndo();
  const system = useUnits((state) => state.system);

  function ask() {
    confirm({
      title: `Delete “${mould.name}”?`,
      content: "What happened to it goes with it.",
      ok: "Delete",
      onOk: () =>
        remove.mutateAsync().then((deleted) => {
          undo(mould.name, deleted);
          return navigate("/moulds");
        }, refuse),
    });
  }

  return (
    <header>
      <div>
        <h1>{mould.name}</h1>
        <p className="faint">
          of {mould.piece_name}: {quantity(mould.rubber_wall_m, "m", system)} of {mould.rubber_name}
          , shell of {mould.shell_name}
        </p>
      </div>
      <span className="actions">
        <Button onClick={ask}>Delete</Button>
        <Button href={`/api/v1/moulds/${mould.id}/archive.zip`}>Export</Button>
        <Button onClick={() => void navigate(`/moulds/${mould.id}/patterns`)}>
          Patterns to cut
        </Button>
        <Button onClick={onEdit}>{editing ? "Cancel" : "Change the build"}</Button>
      </span>
    </header>
  );
}

function Edited({ mould, onDone }: { mould: Mould; onDone: () => void }) {
  const pieces = useQuery(piecesQuery());
  const edit = useEditMould(mould.id);
  if (!pieces.data) return <Loading what="the pieces" />;
  const brush: Partial<typeof mould.brush> = { ...mould.brush };
  delete brush.wall_m;
  const first: NewMould = {
    name: mould.name,
    piece_id: mould.piece_id,
    rubber_id: mould.rubber_id,
    shell_id: mould.shell_id,
    rubber_wall_m: mould.rubber_wall_m,
    life_casts: mould.life_casts,
    way: mould.way,
    parts: mould.parts,
    ...brush,
    clay: mould.clay,
    patches: mould.patches,
  };
  return (
    <MouldForm
      pieces={pieces.data}
      first={first}
      title="Change the build"
      button="Save the build"
      pending={edit.isPending}
      error={edit.error}
      send={(changed) => edit.mutate({ ...changed, version: mould.version }, { onSuccess: onDone })}
    />
  );
}

function Headline({ plan }: { plan: MouldPlan }) {
  const system = useUnits((state) => state.system);
  const workshop = useQuery(workshopQuery());
  return (
    <aside className="measures" aria-label="What it takes">
      <dl className="figures">
        <div className="big">
          <dt>Rubber to mix</dt>
          <dd data-figure="planned-rubber">{carried(plan.rubber_kg, system)}</dd>
          <dd className="faint">
            {plan.coats.length > 0 ? `in ${counted(plan.coats.length, "coat")}; ` : ""}an estimate,
            ± {quantity(Number(plan.rubber_rel_error.toPrecision(2)), "share", system)}
          </dd>
        </div>
        <div>
          <dt>Shell</dt>
          <dd>
            {plan.shell.parts === 1 ? "one hood" : counted(plan.shell.parts, "part")},{" "}
            {carried(plan.shell.kg, system)}
          </dd>
        </div>
        <div>
          <dt>Weighs</dt>
          <dd>{carried(plan.weight_kg, system)}</dd>
        </div>
        <div>
          <dt>Material</dt>
          <dd>{money(plan.cost, workshop.data?.currency ?? "")}</dd>
        </div>
        <div>
          <dt>Hands, and the clock</dt>
          <dd>
            {handsTime(plan.hands_s)}, {handsTime(plan.clock_s)}
          </dd>
        </div>
      </dl>
      <h2>Before the first stroke</h2>
      <Findings findings={plan.findings} none="No problems found." />
    </aside>
  );
}
