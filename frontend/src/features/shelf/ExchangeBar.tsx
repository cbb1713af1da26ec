import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";

import { ProblemError, sentenceOf } from "../../api/client";
import { FileButton } from "../../shared/FileButton";
import { counted } from "../../shared/format";
import { Told } from "../../shared/states";

interface FileOut {
  href: string;
  label: string;
}

interface Properties {
  /** One of what is in the file. */
  what: string;
  csv: FileOut;
  json: FileOut;
  /** Sends a file in; the answer says how many rows were taken over. */
  take: (file: File) => Promise<{ taken: number }>;
}

/** Rows out and in as files; a refused import says why, row by row. */
export function ExchangeBar({ what, csv, json, take: send }: Properties) {
  const queries = useQueryClient();
  const take = useMutation({
    mutationFn: send,
    onSuccess: () => queries.invalidateQueries(),
  });
  const lines = take.error instanceof ProblemError ? take.error.lines : [];
  return (
    <>
      <span className="actions">
        <Button href={csv.href}>{csv.label}</Button>
        <Button href={json.href}>{json.label}</Button>
        <FileButton accept=".csv,.json" busy={take.isPending} onFile={(file) => take.mutate(file)}>
          Import a file
        </FileButton>
      </span>
      {take.data && <Told kind="news">{counted(take.data.taken, what)} imported.</Told>}
      {take.error && (
        <Told kind="refusal">
          {sentenceOf(take.error)}
          {(lines.length > 1 || lines[0] !== take.error.message) && (
            <ul>
              {lines.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          )}
        </Told>
      )}
    </>
  );
}
