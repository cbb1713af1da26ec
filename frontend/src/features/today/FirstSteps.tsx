import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { client, unwrap } from "../../api/client";
import { useTour } from "../../app/tour";
import { Failed } from "../../shared/states";

/** A workshop that has nothing yet: three ways to a first number. */
export function FirstSteps() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const begin = useTour((state) => state.begin);
  const example = useMutation({
    mutationFn: () => unwrap(client.POST("/api/v1/workshop/example")),
    onSuccess: async ({ sheet_id }) => {
      await queries.invalidateQueries();
      void navigate(`/sheets/${sheet_id}`);
    },
  });
  return (
    <section className="first-steps" aria-labelledby="first-steps">
      <h2 id="first-steps">How much resin, how many coats, and when?</h2>
      <p className="lead">Begin with the piece that you made the mould of.</p>
      <ul className="cards">
        <li className="card">
          <h3>You have its shape as a file</h3>
          <p>STL, OBJ, PLY, GLB or 3MF, from a scan or a print. A worker measures it.</p>
          <Link className="ant-btn big-link" to="/pieces" state={{ uploading: true }}>
            Upload a shape
          </Link>
        </li>
        <li className="card">
          <h3>You have a tape measure</h3>
          <p>Girths at a few heights tell its area within some per cent, as you type.</p>
          <Link className="ant-btn big-link" to="/pieces/by-hand">
            Measure by hand
          </Link>
        </li>
        <li className="card">
          <h3>You only want to look</h3>
          <p>An invented helmet with its cast sheet. Delete both when you have seen enough.</p>
          <Button loading={example.isPending} onClick={() => example.mutate()}>
            See an example
          </Button>
        </li>
      </ul>
      {example.error && <Failed error={example.error} />}
      <p>
        <Button type="link" onClick={() => begin(navigate)}>
          Take the tour: five minutes
        </Button>
      </p>
    </section>
  );
}
