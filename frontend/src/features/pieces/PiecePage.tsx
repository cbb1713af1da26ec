import { useQuery } from "@tanstack/react-query";
import { Button, Typography } from "antd";
import { lazy, Suspense, useCallback, useMemo, useState, type ReactNode } from "react";
import { useNavigate, useParams } from "react-router";

import type { Mark, Piece } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { Findings } from "../../shared/Findings";
import { number, quantity, size, unitOf, withUnit } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUndo } from "../../shared/useUndo";
import { useUnits } from "../../shared/units";
import { GirthsPanel } from "./GirthsPanel";
import { ComparePanel, HeadPanel } from "./PiecePanels";
import { QuestionsPanel } from "./QuestionsPanel";
import { pieceQuery, useDeletePiece, useRenamePiece, useSurveyChange } from "./queries";
import { RimPanel } from "./RimPanel";
import { FacePanel, FoundPanel, type Pen } from "./SurveyPanel";

const SOURCES: Record<Exclude<Piece["source"], "file">, string> = {
  tape: "by tape",
  filling: "by a filling",
  clay: "by its clay blanket",
  cast: "by a weighed cast",
};

const PieceView = lazy(() => import("../../husk/PieceView"));

export function PiecePage() {
  const { id = "" } = useParams();
  const piece = useQuery(pieceQuery(id));
  if (piece.isPending) return <Loading what="the piece" />;
  if (piece.isError) return <Failed error={piece.error} retry={() => void piece.refetch()} />;
  // What is marked belongs to one version: a new survey starts with what it was asked.
  return <Station key={`${piece.data.id} ${piece.data.version}`} piece={piece.data} />;
}

function Station({ piece }: { piece: Piece }) {
  const [measured] = useState<readonly Mark[]>(() => piece.wish?.marks ?? []);
  const [marks, setMarks] = useState(measured);
  // Those that were measured are told by the colours of the piece itself.
  const unmeasured = useMemo(
    () => marks.filter((mark) => !measured.includes(mark)),
    [marks, measured],
  );
  const [pen, setPen] = useState<Pen | null>(null);
  const place = useCallback(
    (at_m: [number, number, number]) => {
      if (pen) setMarks((before) => [...before, { ...pen, at_m }]);
    },
    [pen],
  );
  const survey = useSurveyChange(piece);
  const { change } = survey;
  const actions = useMemo(
    () => ({
      "left out": { label: "Count all of it", onPress: () => change({ skin: "all" }) },
      "in question": { label: "Leave it out", onPress: () => change({ skin: "outer" }) },
      repaired: {
        label: "Leave small holes open",
        onPress: () => change({ mend_holes: false }),
      },
      closed: {
        label: "Leave holes open",
        onPress: () => change({ close_holes: false, close_under_m: 0 }),
      },
    }),
    [change],
  );
  return (
    <section className="page piece">
      <Heading piece={piece} />
      <div className="piece-columns">
        <Suspense fallback={<Loading what="the view" />}>
          <PieceView
            pieceId={piece.id}
            version={piece.version}
            name={piece.name}
            marks={unmeasured}
            onPlace={pen ? place : null}
            hasFile={piece.source === "file"}
            actions={actions}
          />
        </Suspense>
        <Measures piece={piece}>
          <QuestionsPanel piece={piece} survey={survey} />
        </Measures>
      </div>
      {piece.survey && (
        <div className="piece-tests">
          {piece.source === "file" && (
            <FacePanel piece={piece} marks={marks} onMarks={setMarks} pen={pen} onPen={setPen} />
          )}
          <FoundPanel survey={piece.survey} />
          {piece.survey.opening_girth_m > 0 && <RimPanel piece={piece} />}
          <GirthsPanel piece={piece} />
          {piece.survey.opening_girth_m > 0 && <HeadPanel piece={piece} />}
          <ComparePanel piece={piece} />
        </div>
      )}
    </section>
  );
}

function Heading({ piece }: { piece: Piece }) {
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const navigate = useNavigate();
  const rename = useRenamePiece(piece.id);
  const remove = useDeletePiece(piece.id);
  const undo = useUndo();

  function change(name: string) {
    if (name !== piece.name) rename.mutate({ name, version: piece.version }, { onError: refuse });
  }

  function ask() {
    confirm({
      title: `Delete “${piece.name}”?`,
      content: "The file goes with it.",
      ok: "Delete",
      onOk: () =>
        remove.mutateAsync().then((deleted) => {
          undo(piece.name, deleted);
          return navigate("/pieces");
        }, refuse),
    });
  }

  return (
    <header>
      <Typography.Title
        level={1}
        editable={{ onChange: change, maxLength: 120, tooltip: "Rename" }}
      >
        {piece.name}
      </Typography.Title>
      <span className="actions">
        <Button onClick={ask}>Delete</Button>
        <Button href={`/api/v1/pieces/${piece.id}/archive.zip`}>Export</Button>
        <Button onClick={() => void navigate(`/pieces/${piece.id}/patterns`)}>
          Patterns to cut
        </Button>
        <Button type="primary" onClick={() => void navigate(`/sheets/new?piece=${piece.id}`)}>
          Plan a cast
        </Button>
      </span>
    </header>
  );
}

function Measures({ piece, children }: { piece: Piece; children: ReactNode }) {
  const system = useUnits((state) => state.system);
  const { measures } = piece;
  return (
    <aside className="measures" aria-label="Measures">
      {children}
      <dl className="figures">
        <div className="big">
          <dt>Casting face</dt>
          <dd>
            {number(measures.area_m2, "m2", system)}&nbsp;<small>{unitOf("m2", system)}</small>
          </dd>
          {piece.survey && (
            <dd className="faint">± {quantity(piece.survey.bands.area, "share", system)}</dd>
          )}
        </div>
        {piece.survey && piece.survey.hollow.left_out_m2 > 0 && (
          <div>
            <dt>Left out</dt>
            <dd>
              {quantity(piece.survey.hollow.left_out_m2, "m2", system)},{" "}
              {quantity(piece.survey.hollow.left_out_share, "share", system)} of the file
            </dd>
          </div>
        )}
        <div>
          <dt>Holds</dt>
          <dd>{quantity(measures.volume_m3, "m3", system)}</dd>
        </div>
        <div>
          <dt>Size</dt>
          <dd>{size(piece.extents_m, system)}</dd>
        </div>
        <div>
          <dt>{piece.source === "file" ? "File" : "Measured"}</dt>
          <dd>
            {piece.source === "file"
              ? `${withUnit(measures.faces.toLocaleString("en-US"), "faces")}, in ${piece.units}`
              : SOURCES[piece.source]}
          </dd>
        </div>
      </dl>
      <h2>Openings</h2>
      {measures.openings.length === 0 ? (
        <p>None: the face closes on itself.</p>
      ) : (
        <ol className="openings">
          {measures.openings.slice(0, 12).map((opening, index) => (
            <li key={index}>
              {opening.name && `${opening.name}: `}
              {quantity(opening.perimeter_m, "m", system)} round,{" "}
              {quantity(opening.area_m2, "m2", system)} wide open
            </li>
          ))}
          {measures.openings.length > 12 && <li>and {measures.openings.length - 12} more</li>}
        </ol>
      )}
      <h2>What it will not do well</h2>
      <Findings findings={measures.findings} none="Nothing found." />
    </aside>
  );
}
