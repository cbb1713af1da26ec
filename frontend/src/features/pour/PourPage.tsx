import { useQuery } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { Link, useParams } from "react-router";

import { benchTheme } from "../../app/theme";
import type { Pour } from "../../api/client";
import { Failed, Loading } from "../../shared/states";
import { CloseStep } from "./CloseStep";
import { CoatStep } from "./CoatStep";
import { pourQuery } from "./queries";

/** The bench: one thing on the screen, read at arm's length. */
export function PourPage() {
  const { id = "" } = useParams();
  const pour = useQuery({ ...pourQuery(id), refetchInterval: 15_000 });
  return (
    <ConfigProvider theme={benchTheme}>
      <main className="bench">
        {pour.isPending && <Loading what="the pour" />}
        {pour.isError && <Failed error={pour.error} retry={() => void pour.refetch()} />}
        {pour.data && <Steps pour={pour.data} />}
      </main>
    </ConfigProvider>
  );
}

function Steps({ pour }: { pour: Pour }) {
  const next = pour.next_step;
  return (
    <>
      <header className="bench-head">
        <h1>{pour.sheet_name}</h1>
        <CoatDots pour={pour} />
        <Link to="/pour" className="leave">
          Leave
        </Link>
      </header>
      {pour.status !== "open" ? (
        <Closed pour={pour} />
      ) : next ? (
        <CoatStep key={`${next.coat}-${next.step}`} pour={pour} next={next} />
      ) : (
        <CloseStep pour={pour} />
      )}
    </>
  );
}

function CoatDots({ pour }: { pour: Pour }) {
  const now = pour.next_step?.coat ?? pour.coats.length + 1;
  return (
    <p className="dots">
      {pour.next_step ? `Coat ${now} of ${pour.coats.length}` : "All coats are on"}
      <span aria-hidden>
        {pour.coats.map((coat) => (
          <i
            key={coat.number}
            className={coat.number < now ? "done" : coat.number === now ? "now" : ""}
          />
        ))}
      </span>
    </p>
  );
}

function Closed({ pour }: { pour: Pour }) {
  return (
    <section className="step">
      <p className="say">This pour is closed.</p>
      <Link className="ant-btn big-link" to={`/log/${pour.id}`}>
        Read it in the log
      </Link>
    </section>
  );
}
