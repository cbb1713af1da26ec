import { useQuery } from "@tanstack/react-query";
import { Button, Input, Radio } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";

import { ProblemError, type LengthUnit, type UploadedFile } from "../../api/client";
import { FileDrop } from "../../shared/FileButton";
import { Dialog } from "../../shared/Dialog";
import { size } from "../../shared/format";
import { Failed } from "../../shared/states";
import { workshopQuery } from "../../shared/standing";
import { JobProgress } from "../jobs/JobProgress";
import { isOpen, jobQuery, useWhenDone } from "../jobs/queries";
import { uploadedQuery, useAddPiece, useUpload } from "./queries";

/** Takes a file, shows what each unit would mean, asks, and makes the piece. */
export function UploadDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog title="Upload a shape" open={open} onClose={onClose}>
      <UploadSteps onDone={onClose} />
    </Dialog>
  );
}

function UploadSteps({ onDone }: { onDone: () => void }) {
  const upload = useUpload();
  const workshop = useQuery(workshopQuery());
  const [tooLarge, setTooLarge] = useState<Error | null>(null);
  const problem = tooLarge ?? upload.error;

  async function send(file: File) {
    // Who is quicker than the workshop's answer waits for it: nothing too large is sent.
    const known = workshop.data ?? (await workshop.refetch()).data;
    const limit = known?.max_mesh_file_bytes ?? Infinity;
    const sizes = `The file has ${Math.round(file.size / 1e6)} MB; up to ${limit / 1e6} MB are read.`;
    const refused =
      file.size > limit
        ? new ProblemError(`${sizes} Reduce the number of faces and export it again.`, 413, {})
        : null;
    setTooLarge(refused);
    upload.reset();
    if (!refused) upload.mutate(file);
  }

  const asked = useQuery({
    ...jobQuery(upload.data?.job?.id ?? ""),
    enabled: upload.data?.job != null,
  });
  const reading = asked.data ?? upload.data?.job;
  const read = upload.data && (!reading || reading.status === "done");
  const file = useQuery({ ...uploadedQuery(upload.data?.sha256 ?? ""), enabled: Boolean(read) });
  if (file.data) return <UnitQuestion file={file.data} onDone={onDone} />;
  if (reading && isOpen(reading)) return <JobProgress job={reading} />;
  return (
    <>
      <FileDrop
        accept=".stl,.obj,.ply,.glb,.3mf,.off"
        busy={upload.isPending}
        onFile={(file) => void send(file)}
      >
        <span className="drop">
          {upload.isPending ? "Reading the file …" : "Drop a shape here, or press to choose one"}
        </span>
        <span className="faint">
          STL, OBJ, PLY, GLB, 3MF or OFF. Of a hollow print the inner skin is left out; where that
          is not clear, you are asked.
        </span>
      </FileDrop>
      {problem && <Failed error={problem} />}
      {file.error && <Failed error={file.error} />}
      {!problem && reading && !isOpen(reading) && reading.status !== "done" && (
        <JobProgress job={reading} />
      )}
    </>
  );
}

function UnitQuestion({ file, onDone }: { file: UploadedFile; onDone: () => void }) {
  const [units, setUnits] = useState<LengthUnit>(file.guessed_unit);
  const [name, setName] = useState(file.file_name.replace(/\.[a-z0-9]{3}$/i, ""));
  const add = useAddPiece();
  const navigate = useNavigate();
  const asked = useQuery({ ...jobQuery(add.data?.id ?? ""), enabled: add.data !== undefined });
  const job = asked.data ?? add.data;
  useWhenDone(job, ["pieces"], () => {
    onDone();
    if (job?.piece_id) void navigate(`/pieces/${job.piece_id}`);
  });

  if (job && isOpen(job)) {
    return (
      <>
        <JobProgress job={job} />
        <p className="faint">
          You may close this: it goes on, and the piece stands among the others when it is measured.
        </p>
      </>
    );
  }
  return (
    <form
      className="stack"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate({ name, mesh_sha256: file.sha256, units });
      }}
    >
      <div className="field">
        <label htmlFor="piece-name">Name of the piece</label>
        <Input
          id="piece-name"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
      </div>
      <fieldset>
        <legend>
          {file.guess_is_sure
            ? "Going by the file and its size, the unit should be:"
            : "The file does not say its unit, and its size leaves it open. Which is right?"}
        </legend>
        <Radio.Group
          className="stack"
          value={units}
          onChange={(event) => setUnits(event.target.value as LengthUnit)}
        >
          {file.choices.map((choice) => (
            <Radio key={choice.units} value={choice.units}>
              {choice.units}: the piece is {size(choice.extents_m, "metric")}
              {choice.units === file.guessed_unit && <b> (our guess)</b>}
            </Radio>
          ))}
        </Radio.Group>
      </fieldset>
      {add.error && <Failed error={add.error} />}
      {job && <JobProgress job={job} />}
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Measure it
      </Button>
    </form>
  );
}
