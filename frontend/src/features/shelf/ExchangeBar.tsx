import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Upload } from "antd";

import { client, fileBody, ProblemError, sentenceOf, unwrap } from "../../api/client";

/** Materials out and in as files; a refused import says why, row by row. */
export function ExchangeBar({ kind }: { kind: string }) {
  const queries = useQueryClient();
  const take = useMutation({
    mutationFn: (file: File) => unwrap(client.POST("/api/v1/shelf", fileBody(file))),
    onSuccess: () => queries.invalidateQueries(),
  });
  const lines = take.error instanceof ProblemError ? take.error.lines : [];
  return (
    <>
      <span className="actions">
        <Button href={`/api/v1/shelf.csv?kind=${kind}`}>These as CSV</Button>
        <Button href="/api/v1/shelf.json">Whole shelf as JSON</Button>
        <Upload
          accept=".csv,.json"
          showUploadList={false}
          beforeUpload={(file) => {
            take.mutate(file);
            return false;
          }}
        >
          <Button loading={take.isPending}>Take over a file</Button>
        </Upload>
      </span>
      {take.data && (
        <Alert
          type="success"
          role="status"
          className="failed"
          title={`${take.data.materials} materials taken over.`}
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
