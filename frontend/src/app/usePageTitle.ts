import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

const NAME = "Mild Husk";

/**
 * Names the window after the page's heading, and brings the focus there when somebody has gone to
 * another page: who reads by ear or by key starts at its beginning.
 */
export function usePageTitle() {
  const { pathname } = useLocation();
  const before = useRef<string>(null);
  useEffect(() => {
    let hasGone = before.current !== null && before.current !== pathname;
    before.current = pathname;
    document.title = NAME;
    const tell = () => {
      const heading = document.querySelector("h1");
      if (!heading) return;
      const title = `${heading.textContent} – ${NAME}`;
      if (document.title !== title) document.title = title;
      if (!hasGone) return;
      hasGone = false;
      // A field that took the focus by itself keeps it.
      if (document.activeElement?.closest("main input, main textarea")) return;
      heading.tabIndex = -1;
      heading.focus({ preventScroll: true });
    };
    tell();
    // What has to be fetched first brings its heading later.
    const watch = new MutationObserver(tell);
    watch.observe(document.body, { subtree: true, childList: true, characterData: true });
    return () => watch.disconnect();
  }, [pathname]);
}
