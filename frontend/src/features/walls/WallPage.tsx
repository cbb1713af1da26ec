import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Select } from "antd";
import { useCallback, useState } from "react";
import { Link, useParams } from "react-router";

import type { CastSheet, Job } from "../../api/client";
import { Failed, Loading } from "../../shared/states";
import { JobProgress } from "../jobs/JobProgress";
import { sheetQuery, sheetsQuery } from "../sheets/queries";
import { LookTools } from "./LookTools";
import { useWall, type How } from "./queries";
import { WallScene, type Look } from "./WallScene";
import { ChargeTrials, MotionTrials } from "./Trials";
import { WallColumn } from "./WallColumn";
import { WallFigures } from "./WallFigures";
import { bound, counted } from "../../shared/format";
import { motionsQuery } from "../../shared/standing";

/** How the coats of a sheet land in the turning mould. */
export function WallPage() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />;
  if (!sheet.data) return <Loading what="the sheet" />;
  return <WallOf key={id} sheet={sheet.data} />;
}

function WallOf({ sheet }: { sheet: CastSheet }) {
  const { motion, lid } = sheet.plan;
  const [how, setHow] = useState<How>({
    motion: motion ?? "machine",
    capped: motion === null || lid,
    coats: null,
    lead: 1,
  });
  const [beside, setBeside] = useState<string | null>(null);
  const [look, setLook] = useState<Look>({ coat: 0, cut: 1, playing: false, share: 0 });
  const [drawer, setDrawer] = useState<"motions" | "charges" | null>(null);
  const change = (part: Partial<How>) => setHow({ ...how, ...part });
  const onLook = useCallback((part: Partial<Look>) => setLook((old) => ({ ...old, ...part })), []);
  const motions = useQuery(motionsQuery());
  const sheets = useQuery(sheetsQuery());
  const others = (sheets.data ?? []).filter((one) => one.id !== sheet.id);
  const otherSheet = others.find((one) => one.id === beside) ?? sheet;
  const otherMotion = motions.data?.find((one) => `turned ${one.name}` === beside)?.name;
  const mine = useWall(sheet, how);
  const other = useWall(
    otherSheet,
    { ...how, ...(otherMotion && { motion: otherMotion }), coats: null, lead: 1 },
    beside !== null,
  );
  const chosen = motions.data?.find((one) => one.name === how.motion);
  const both = [mine.run, beside === null ? null : other.run].filter((one) => one !== null);
  const topM = Math.max(
    ...both.map((one) => (look.coat === 0 ? one.scale_m : one.coat_scale_m)),
    0,
  );
  const known = motions.data ?? [];
  const named = known.some((one) => one.name === how.motion)
    ? known
    : [
        ...known,
        {
          name: how.motion,
          words: mine.run?.motion_words ?? how.motion,
          says: "",
          by_hand: false,
          needs_lid: false,
        },
      ];
  return (
    <section className="page wall-page">
      <header>
        <h1>The wall of “{sheet.name}”</h1>
        <span className="actions">
          <Link className="ant-btn big-link" to={`/sheets/${sheet.id}`}>
            Back to the sheet
          </Link>
        </span>
      </header>
      <div className="wall">
        <aside className="asked" aria-label="How it is turned">
          <div className="field">
            <label htmlFor="wall-motion">Turned</label>
            <Select
              id="wall-motion"
              value={how.motion}
              onChange={(motion) => change({ motion, coats: null, lead: 1 })}
              options={named.map((one) => ({
                value: one.name,
                label: bound(one.words),
              }))}
            />
            <div className="hint">
              {bound(chosen?.says ?? "")}
              {how.coats !== null &&
                (how.lead === 1
                  ? ` In ${how.coats} equal coats.`
                  : ` In ${counted(how.coats, "coat")}, the first ${Number(how.lead.toPrecision(2))} times the others.`)}
            </div>
          </div>
          <Checkbox
            checked={how.capped}
            onChange={(event) => change({ capped: event.target.checked })}
          >
            A lid closes the opening
          </Checkbox>
          <div className="field">
            <label htmlFor="wall-beside">Beside it</label>
            <Select
              id="wall-beside"
              allowClear
              placeholder="nothing"
              value={beside}
              onChange={(key?: string) => setBeside(key ?? null)}
              options={[
                {
                  label: "this sheet, turned",
                  options: known
                    .filter((one) => one.name !== how.motion)
                    .map((one) => ({
                      value: `turned ${one.name}`,
                      label: bound(one.words),
                    })),
                },
                {
                  label: "another sheet",
                  options: others.map((one) => ({ value: one.id, label: one.name })),
                },
              ]}
            />
          </div>
          <Button block onClick={() => setDrawer("motions")}>
            Find a better rotation
          </Button>
          <Button block onClick={() => setDrawer("charges")}>
            How much in one coat
          </Button>
          <Waits error={mine.error} job={mine.job} />
          {beside !== null && <Waits error={other.error} job={other.job} />}
        </aside>
        {mine.run ? (
          beside === null ? (
            <>
              <div>
                <WallScene key={mine.run.id} run={mine.run} look={look} topM={topM} />
                <LookTools coats={mine.run.wall.coats.length} look={look} onLook={onLook} />
              </div>
              <WallFigures run={mine.run} />
            </>
          ) : (
            <div className="wall-both">
              <LookTools
                coats={Math.min(...both.map((one) => one.wall.coats.length))}
                look={look}
                onLook={onLook}
              />
              <WallColumn
                title={otherMotion ? (mine.run?.motion_words ?? how.motion) : sheet.name}
                run={mine.run}
                look={look}
                topM={topM}
              />
              <WallColumn
                title={otherMotion ? (other.run?.motion_words ?? otherMotion) : otherSheet.name}
                run={other.run}
                look={look}
                topM={topM}
              />
            </div>
          )
        ) : (
          !mine.error && mine.job?.status !== "refused" && <Loading what="a first look" />
        )}
      </div>
      <MotionTrials
        sheet={sheet}
        how={how}
        open={drawer === "motions"}
        onClose={() => setDrawer(null)}
        onTake={({ motion, coats, lead }) => {
          change({ motion, coats, lead });
          setDrawer(null);
        }}
      />
      <ChargeTrials
        sheet={sheet}
        how={how}
        open={drawer === "charges"}
        onClose={() => setDrawer(null)}
      />
    </section>
  );
}

function Waits({ error, job }: { error: unknown; job: Job | undefined }) {
  if (error) return <Failed error={error} />;
  return job && job.status !== "done" ? <JobProgress job={job} /> : null;
}
