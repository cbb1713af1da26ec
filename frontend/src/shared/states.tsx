import { Alert, Button, Spin } from "antd";
import type { ReactNode } from "react";

import { sentenceOf } from "../api/client";

export function Loading({ what }: { what: string }) {
  return (
    <div className="state" role="status">
      <Spin />
      <p>Loading {what} …</p>
    </div>
  );
}

export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  return (
    <Alert
      type="error"
      showIcon
      role="alert"
      className="failed"
      title={sentenceOf(error)}
      action={retry && <Button onClick={retry}>Try again</Button>}
    />
  );
}

/** An empty place says what belongs there and how it gets there. */
export function Nothing({ children, action }: { children: ReactNode; action?: ReactNode }) {
  return (
    <div className="state">
      <p>{children}</p>
      {action}
    </div>
  );
}
