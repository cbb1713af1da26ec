import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

export default defineConfig({
  plugins: [
    react(),
    // The bench opens without the server: what was built is kept by the browser after one visit.
    VitePWA({
      injectRegister: null,
      manifest: false,
      workbox: {
        globPatterns: ["assets/**/*.{js,css,woff2}", "*.svg"],
        maximumFileSizeToCacheInBytes: 4e6,
        cleanupOutdatedCaches: true,
        navigateFallback: null,
        runtimeCaching: [
          {
            // The page itself comes from the server while that answers, so it is never an old one.
            urlPattern: ({ request }) => request.mode === "navigate",
            handler: "NetworkFirst",
            options: {
              cacheName: "page",
              networkTimeoutSeconds: 3,
              plugins: [{ cacheKeyWillBeUsed: () => Promise.resolve("/index.html") }],
            },
          },
        ],
      },
    }),
  ],
  server: { proxy: { "/api": "http://127.0.0.1:8410" } },
  // three.js is one large chunk of its own, loaded only where a piece is seen.
  build: { chunkSizeWarningLimit: 1400 },
});
