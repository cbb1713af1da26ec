import { Button } from "antd";

import type { Job } from "../../api/client";
import { Failed } from "../../shared/states";
import { isOpen, useCancelJob } from "./queries";
import { ShareDone } from "../../shared/ShareDone";
import { bound } from "../../shared/format";

interface Properties {
  job: Job;
  /** Whether it is plain from the page what the job is of. */
  untitled?: boolean;
  onCancel?: () => void;
}

/** How far a job is, in words and as a bar, and a press to cancel it. */
export function JobProgress({ job, untitled = false, onCancel }: Properties) {
  const cancel = useCancelJob();
  if (job.status === "refused") return <Failed error={new Error(job.said)} />;
  if (job.status === "cancelled") return <p role="status">Cancelled; nothing was kept.</p>;
  return (
    <div className="job" role="status" aria-label={`Measuring ${job.title}`}>
      <p>
        {!untitled && (
          <>
            <b>{job.title}</b>:{" "}
          </>
        )}
        {bound(job.said)}
      </p>
      <ShareDone share={job.share} label={`${job.title}, how far`} />
      {isOpen(job) && (
        <Button
          size="small"
          loading={cancel.isPending}
          onClick={() => {
            onCancel?.();
            cancel.mutate(job.id);
          }}
          aria-label={`Cancel ${job.title}`}
        >
          Cancel
        </Button>
      )}
      {cancel.error && <Failed error={cancel.error} />}
    </div>
  );
}
