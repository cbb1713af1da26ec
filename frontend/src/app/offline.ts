/** Has the browser keep the application, so that the bench opens while the server is away. */
export function keepForTheBench() {
  // Only where a page is served securely: over HTTPS, or from this machine itself.
  if (!("serviceWorker" in navigator) || !import.meta.env.PROD) return;
  void navigator.serviceWorker
    .register("/sw.js")
    .then(() => caches.open("page"))
    .then((page) => page.add("/index.html"))
    // A browser that keeps nothing works as long as the server is there.
    .catch(() => undefined);
}
