import { ConfigProvider } from "antd";
import { Link } from "react-router";

import { benchTheme } from "../../app/theme";
import { Failed, Loading } from "../../shared/states";
import { useAwake } from "../pour/useAwake";
import { NowPanel, Setting } from "./NowPanel";
import { useToday } from "./useToday";

/** Today at the bench: dark, large, nothing but what to do now and what sets. */
export function TodayBenchPage() {
  const today = useToday();
  useAwake();
  return (
    <ConfigProvider theme={benchTheme}>
      <main className="bench today-bench">
        <header className="bench-head">
          <h1>Today</h1>
          <Link to="/today" className="leave">
            Leave
          </Link>
        </header>
        {today.isPending && <Loading what="today" />}
        {today.isError && <Failed error={today.error} retry={() => void today.refetch()} />}
        {today.data && (
          <>
            <NowPanel today={today.data} />
            <Setting tasks={today.data.setting} />
          </>
        )}
      </main>
    </ConfigProvider>
  );
}
