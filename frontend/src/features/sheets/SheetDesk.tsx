import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { lazy, Suspense, useState } from "react";
import { useNavigate } from "react-router";

import {
  ProblemError,
  type Castable,
  type CastSheet,
  type SheetPiece,
  type Plan,
  type SheetQuestion,
  type Wish,
} from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { Menu } from "../../shared/Menu";
import { useUndo } from "../../shared/useUndo";
import { useUnits } from "../../shared/units";
import { planQuery, useAddSheet, useDeleteSheet, useEditSheet } from "./queries";
import { IntoCalendar } from "./IntoCalendar";
import { Ribbon } from "./Ribbon";
import { SettledWall, StandsOn } from "./SettledWall";
import { SheetColumn } from "./SheetColumn";
import { useSettled } from "./useSettled";
import { Wanted } from "./Wanted";

const PieceView = lazy(() => import("../../husk/PieceView"));

type Draft = Omit<SheetQuestion, "wish"> & { name: string; wish: Wish };

/** What was chosen or taken for one resin alone. */
const OF_ANOTHER_RESIN = { catalyst: null, time_factor: 1, viscosity_factor: 1 };

interface Properties {
  start: Draft;
  kept: CastSheet | null;
  /** When the server told it. [ms since 1970] */
  keptAt: number;
  pieces: SheetPiece[];
  /** All pieces are wanted, to choose from. */
  onChoose: () => void;
  castables: Castable[];
}

/** The cast sheet: wanted on the left, the husk, the sheet on the right, the ribbon below. */
export function SheetDesk({ start, kept, keptAt, pieces, onChoose, castables }: Properties) {
  const [draft, setDraft] = useState<Draft>({
    name: start.name,
    piece_id: start.piece_id,
    material_id: start.material_id,
    wish: start.wish,
  });
  const [unreadable, setUnreadable] = useState(false);
  // What a press on a finding changed can be taken back, the last first.
  const [before, setBefore] = useState<{ draft: Draft; said: string }[]>([]);
  const { piece_id, material_id, wish } = draft;
  // A kept sheet comes with its plan.
  const asKept = kept !== null && asksTheSame(draft, kept);
  const plan = useQuery({
    ...planQuery({ piece_id, material_id, wish }),
    ...(asKept && { initialData: kept.plan, initialDataUpdatedAt: keptAt }),
  });
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const changeWish = (part: Partial<Wish>) => change({ wish: { ...wish, ...part } });
  const piece = pieces.find((one) => one.id === piece_id);
  const problems = plan.error instanceof ProblemError ? plan.error.fields : {};
  const stale = plan.isError || unreadable;
  // A refusal leaves the last plan standing, greyed, so that nothing jumps while one types.
  const [lastPlan, setLastPlan] = useState<Plan | null>(null);
  if (plan.data && plan.data !== lastPlan) setLastPlan(plan.data);

  const shaped = piece?.source === "file" || piece?.source === "tape";
  // Only the plan of this very question says whether it can be simulated, not the last one's.
  const turned = plan.isPlaceholderData ? null : (plan.data?.motion ?? null);
  const settled = useSettled(
    { piece_id, material_id, wish },
    !stale && shaped && turned !== null,
    asKept,
  );

  const last = before[before.length - 1];

  function apply(field: string, value: number | string | null, said: string) {
    setBefore([...before, { draft, said }]);
    if (field !== "material_key") return changeWish({ [field]: value });
    const other = castables.find((one) => one.key === value);
    if (other) change({ material_id: other.id, wish: { ...wish, ...OF_ANOTHER_RESIN } });
  }

  /** Another material, and a school that it is poured by. */
  function take(other: Castable) {
    const school = other.schools.includes(wish.school) ? wish.school : other.schools[0];
    change({ material_id: other.id, wish: { ...wish, school: school ?? wish.school } });
  }

  function takeBack() {
    if (last) setDraft({ ...last.draft, name: draft.name });
    setBefore(before.slice(0, -1));
  }

  return (
    <section className="sheet-desk">
      <Toolbar draft={draft} kept={kept} blocked={stale} onName={(name) => change({ name })} />
      <div className="sheet-columns">
        <Wanted
          draft={draft}
          pieces={pieces}
          onChoose={onChoose}
          castables={castables}
          problems={problems}
          plan={lastPlan}
          onPiece={(id) => change({ piece_id: id })}
          onMaterial={take}
          onWish={changeWish}
          onUnreadable={setUnreadable}
        />
        {lastPlan && settled.run ? (
          <div className="husk">
            <SettledWall
              plan={lastPlan}
              run={settled.run}
              question={{ piece_id, material_id, wish }}
              onApply={apply}
            />
          </div>
        ) : settled.isAsked && lastPlan && lastPlan.stands_on !== "estimate" ? (
          <div className="husk">
            <Loading what="the wall" />
          </div>
        ) : (
          <Husk piece={piece} plan={lastPlan} />
        )}
        <div className={stale ? "sheet-side stale" : "sheet-side"} aria-busy={plan.isFetching}>
          {plan.error && <Failed error={plan.error} />}
          {plan.isPending && !plan.error && <Loading what="the plan" />}
          {lastPlan && (
            <SheetColumn
              plan={lastPlan}
              question={{ piece_id, material_id, wish }}
              onApply={apply}
              standsOn={
                <StandsOn
                  plan={lastPlan}
                  job={settled.job}
                  error={settled.error}
                  onCancel={settled.stop}
                />
              }
              undo={
                last && (
                  <p className="applied" role="status">
                    Changed: {last.said}.{" "}
                    <Button size="small" onClick={takeBack}>
                      Undo
                    </Button>
                  </p>
                )
              }
            />
          )}
        </div>
      </div>
      {lastPlan && (
        <Ribbon plan={lastPlan} stale={stale}>
          {kept && same(draft, kept) && <IntoCalendar sheetId={kept.id} />}
        </Ribbon>
      )}
    </section>
  );
}

function Husk({ piece, plan }: { piece: SheetPiece | undefined; plan: Plan | null }) {
  const system = useUnits((state) => state.system);
  if (!piece) return <div className="husk" />;
  return (
    <div className="husk">
      <Suspense fallback={<Loading what="the view" />}>
        <PieceView key={piece.id} pieceId={piece.id} version={piece.version} name={piece.name} />
      </Suspense>
      <p className="caption">
        {piece.name}: casting face {quantity(piece.area_m2, "m2", system)}
        {plan && <>, poured for a mean of {quantity(plan.planned_wall_m, "m", system)}</>}.
        {plan?.motion === null && <> Say how it is turned, and its wall is simulated.</>}
      </p>
    </div>
  );
}

interface ToolbarProperties {
  draft: Draft;
  kept: CastSheet | null;
  blocked: boolean;
  onName: (name: string) => void;
}

function Toolbar({ draft, kept, blocked, onName }: ToolbarProperties) {
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const navigate = useNavigate();
  const add = useAddSheet();
  const edit = useEditSheet(kept?.id ?? "");
  const remove = useDeleteSheet(kept?.id ?? "");
  const undo = useUndo();
  const changed = !kept || !same(draft, kept);

  function save() {
    if (kept) edit.mutate({ ...draft, version: kept.version }, { onError: refuse });
    else
      add.mutate(draft, {
        onError: refuse,
        onSuccess: (made) => void navigate(`/sheets/${made.id}`, { replace: true }),
      });
  }

  function ask(name: string) {
    confirm({
      title: `Delete “${name}”?`,
      content: "Its piece and its resin stay.",
      ok: "Delete",
      onOk: () =>
        remove.mutateAsync(undefined).then((deleted) => {
          undo(name, deleted);
          return navigate("/sheets");
        }, refuse),
    });
  }

  const files = kept && `/api/v1/sheets/${kept.id}`;
  return (
    <header className="sheet-bar">
      <h1 className="out-of-sight">Cast sheet</h1>
      <Input
        aria-label="Name of the sheet"
        className="sheet-name"
        variant="borderless"
        value={draft.name}
        maxLength={120}
        onChange={(event) => onName(event.target.value)}
      />
      <span className="actions">
        <Button
          type={changed ? "primary" : "default"}
          disabled={!changed || blocked}
          loading={add.isPending || edit.isPending}
          onClick={save}
        >
          {changed ? "Save this sheet" : "Saved"}
        </Button>
        {files && (
          <>
            <Button href={`${files}/bench-card.pdf`} target="_blank" disabled={changed}>
              Bench card
            </Button>
            <Button disabled={changed} onClick={() => void navigate(`/sheets/${kept.id}/wall`)}>
              The wall
            </Button>
            <Menu
              label="More"
              disabled={changed}
              entries={[
                {
                  label: "Sheet as JSON",
                  onPress: () => window.location.assign(`${files}/sheet.json`),
                },
                {
                  label: "Coats as CSV",
                  onPress: () => window.location.assign(`${files}/sheet.csv`),
                },
                {
                  label: "Export sheet and piece",
                  onPress: () => window.location.assign(`${files}/archive.zip`),
                },
                {
                  label: "What it costs",
                  onPress: () => void navigate(`/sheets/${kept.id}/cost`),
                },
                {
                  label: "What your pours taught",
                  onPress: () => void navigate(`/sheets/${kept.id}/learned`),
                },
                { label: "Delete this sheet", danger: true, onPress: () => ask(kept.name) },
              ]}
            />
            <Button
              type={changed ? "default" : "primary"}
              disabled={changed}
              onClick={() => void navigate(`/sheets/${kept.id}/pour`)}
            >
              Pour it
            </Button>
          </>
        )}
      </span>
    </header>
  );
}

const same = (draft: Draft, kept: CastSheet) =>
  draft.name === kept.name && asksTheSame(draft, kept);

function asksTheSame(draft: Draft, kept: CastSheet): boolean {
  return (
    draft.piece_id === kept.piece_id &&
    draft.material_id === kept.material_id &&
    JSON.stringify(draft.wish) === JSON.stringify(kept.wish)
  );
}
