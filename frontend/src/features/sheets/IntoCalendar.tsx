import { Button, Input } from "antd";
import { useState } from "react";

import { fieldOf, withOffset } from "../../shared/when";

const SOON_MS = 15 * 60_000;

/** The clock of the cast for a calendar, once it is known when A meets B for the first time. */
export function IntoCalendar({ sheetId }: { sheetId: string }) {
  const [begins, setBegins] = useState(() => new Date(Date.now() + SOON_MS));
  const at = encodeURIComponent(withOffset(begins));
  return (
    <span className="into-calendar">
      <label htmlFor="cast-begins">First mix at</label>
      <Input
        id="cast-begins"
        size="small"
        type="datetime-local"
        value={fieldOf(begins)}
        onChange={(event) => {
          const read = new Date(event.target.value);
          if (!Number.isNaN(read.getTime())) setBegins(read);
        }}
      />
      <Button size="small" href={`/api/v1/sheets/${sheetId}/clock.ics?begins_at=${at}`}>
        Into a calendar
      </Button>
    </span>
  );
}
