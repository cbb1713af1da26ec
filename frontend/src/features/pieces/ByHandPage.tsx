import { Radio } from "antd";
import { useState } from "react";

import { FilledForm, ClayForm, WeighedForm } from "./ByHandForms";
import { TapeForm } from "./TapeForm";

const WAYS = {
  tape: { label: "By tape", form: TapeForm },
  filling: { label: "Filled with water or grain", form: FilledForm },
  clay: { label: "By its clay blanket", form: ClayForm },
  cast: { label: "By a weighed cast", form: WeighedForm },
} as const;

/** Pieces without a file: four ways to know how big they are. */
export function ByHandPage() {
  const [way, setWay] = useState<keyof typeof WAYS>("tape");
  const Form = WAYS[way].form;
  return (
    <section className="page">
      <header>
        <h1>Measure by hand</h1>
      </header>
      <Radio.Group
        aria-label="How it was measured"
        optionType="button"
        value={way}
        onChange={(event) => setWay(event.target.value as keyof typeof WAYS)}
        options={Object.entries(WAYS).map(([value, one]) => ({ value, label: one.label }))}
      />
      <Form />
    </section>
  );
}
