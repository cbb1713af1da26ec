import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Upload } from "antd";

import { ProblemError, sentenceOf } from "../../api/client";
import { counted } from "../../shared/format";

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
        <Upload
          accept=".csv,.json"
          showUploadList={false}
          beforeUpload={(file) => {
            take.mutate(file);
            return false;
          }}
        >
          <Button loading={take.isPending}>Import a file</Button>
        </Upload>
      </span>
      {take.data && (
        <Alert
          type="success"
          role="status"
          className="failed"
          title={`${counted(take.data.taken, what)} imported.`}
        />
      )}
      {take.error && (
        <Alert
          type="error"
          role="alert"
          className="failed"
          title={sentenceOf(take.error)}
          description={
            lines.length > 1 || lines[0] !== take.error.message ? (
              <ul>
                {lines.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            ) : null
          }
        />
      )}
    </>
  );
}
