import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  server: { proxy: { "/api": "http://127.0.0.1:8410" } },
  // three.js is one large chunk of its own, loaded only where a piece is seen.
  build: { chunkSizeWarningLimit: 1400 },
});
