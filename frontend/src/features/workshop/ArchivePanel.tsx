import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";

import { client, fileBody, unwrap, type TakenArchive } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { FileButton } from "../../shared/FileButton";
import { useNotices } from "../../shared/Notices";
import { clockTime, counted, day } from "../../shared/format";
import { Told } from "../../shared/states";
import { thingIn } from "../../shared/things";
import { workshopQuery } from "../../shared/standing";

/** What a maker knows of; what hangs on it comes along and is not counted. */
const TOLD = [
  "piece",
  "mould",
  "cast_sheet",
  "pour",
  "material",
  "lot",
  "dab_test",
  "mesh_file",
  "pour_picture",
] as const;

/** The whole workshop as one file, and taken in again; what it brings is said before it is done. */
export function ArchivePanel() {
  const queries = useQueryClient();
  const refuse = useNotices((state) => state.refuse);
  const say = useNotices((state) => state.say);
  const look = useMutation({
    mutationFn: async (file: File) => ({
      file,
      brings: await unwrap(client.POST("/api/v1/archive/tries", fileBody(file))),
    }),
    onError: refuse,
  });
  const take = useMutation({
    mutationFn: (file: File) => unwrap(client.POST("/api/v1/archive", fileBody(file))),
    onSuccess: () => {
      look.reset();
      say("The archive is imported.");
      return queries.invalidateQueries();
    },
    onError: refuse,
  });
  const found = look.data;
  return (
    <section className="card archive" aria-labelledby="archive">
      <h2 id="archive">Archive</h2>
      <p className="faint">
        The whole workshop as one file: pieces with their meshes, moulds, cast sheets, pours,
        pictures, shelf and days. Keep one on another disk, or move to another machine with it. A
        piece, a mould or a cast sheet goes out alone from its own page.
      </p>
      <span className="actions">
        <Button href="/api/v1/archive.zip">Export the workshop</Button>
        <FileButton accept=".zip" busy={look.isPending} onFile={(file) => look.mutate(file)}>
          Import an archive
        </FileButton>
      </span>
      <LastBackup />
      <Dialog title="Import this archive?" open={found !== undefined} onClose={look.reset}>
        {found && (
          <Brings
            brings={found.brings}
            busy={take.isPending}
            onImport={() => take.mutate(found.file)}
            onClose={look.reset}
          />
        )}
      </Dialog>
    </section>
  );
}

/** When the last good backup was made; and a warning where that is long ago, or one failed. */
function LastBackup() {
  const workshop = useQuery(workshopQuery());
  if (!workshop.data) return null;
  const { backed_up_at: at, backup_said: said, is_backup_overdue: isOverdue } = workshop.data;
  const last = at ? `Last backup: ${day(at)}, ${clockTime(at)}.` : "No backup yet.";
  return (
    <>
      {said && <Told kind="refusal">The last try to back up failed: {said}</Told>}
      <p className={isOverdue ? "due" : "faint"}>
        {last}{" "}
        {at === null && "Set MILDHUSK_BACKUP to a folder on another disk to make one every day."}
      </p>
    </>
  );
}

interface BringsProperties {
  brings: TakenArchive;
  busy: boolean;
  onImport: () => void;
  onClose: () => void;
}

function Brings({ brings, busy, onImport, onClose }: BringsProperties) {
  const told = TOLD.flatMap((name) =>
    brings.tables.filter((one) => one.table === name && one.rows > 0),
  );
  const isNew = brings.tables.some((one) => one.new > 0);
  return (
    <>
      <p>
        {brings.of ? `The ${brings.of}, exported` : "Exported"} from “{brings.workshop}” on{" "}
        {day(brings.made_at)}.{" "}
        {brings.replaces
          ? "This workshop is empty: it becomes the one in the archive, with its name and settings."
          : isNew
            ? "What is missing here is added. What is here already stays as it is."
            : "Everything in it is here already."}
      </p>
      <ul>
        {told.map((one) => (
          <li key={one.table}>
            {counted(one.rows, thingIn(one.table))}
            {one.new < one.rows && (
              <span className="faint">
                {one.new === 0 ? ", here already" : `, ${one.rows - one.new} of them here already`}
              </span>
            )}
          </li>
        ))}
      </ul>
      <div className="actions">
        {isNew && (
          <Button type="primary" loading={busy} onClick={onImport}>
            Import
          </Button>
        )}
        <Button onClick={onClose}>{isNew ? "Cancel" : "Close"}</Button>
      </div>
    </>
  );
}
